"""The Practice stage: a session for today, and guided through it."""
