"""What is told of a plan: events, bottlenecks (`summary`), totals, reasons, why not the next best, mutes, harmony.

Everything is looked up in the tables that the search used. It never plans.
"""
