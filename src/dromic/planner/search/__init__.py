"""The search: exact least sums and largest loads over chains of states, once through and round loops.

It knows nothing of hands: a chain is an array of costs for each step and moves over each link (`chains`,
`moves`). `solver` searches a chain, and again after a change from what it knows; `loops` and `many_starts` go
round. The arithmetic over one link is in `dromic.planner.kernel`.
"""
