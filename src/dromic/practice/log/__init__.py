"""The practice log, and all that is told from it: history, progress, rates, six factors, hands."""
