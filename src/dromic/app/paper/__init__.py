"""The practice sheet on paper, and pictures of the chart."""
