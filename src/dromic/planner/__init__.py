"""The planner: candidates, exact search, tempo ceiling, prices and reasons."""
