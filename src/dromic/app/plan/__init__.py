"""The Plan stage: the chart, the reasons, playing and drilling."""
