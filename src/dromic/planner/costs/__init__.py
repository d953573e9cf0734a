"""The costs: every way to play each step of a task, and what each way and each move costs.

`candidates` finds the grips, `fret_costs` and `pick_costs` ask the hands (`dromic.hands`) and the schools,
`model` puts both hands together as moves for the search; `figure_layers` widens a chain so that it remembers
figures, and `swapped_rounds` goes round twice. `transitions` and `efforts` take single moves apart again, from
the same tables.
"""
