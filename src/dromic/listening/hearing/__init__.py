"""Hearing: from a recording to what was played when, how it sounded, and what is told of it.

`listener` finds and measures notes, `review` says what is worth saying.
"""
