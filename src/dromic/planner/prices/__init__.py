"""Prices: every other choice for a note (`choices`), and what the best plan with it costs more (`prices`)."""
