"""Solving: one riff made ready for the search (`problem`), solved in every form of its school (`solution`).

`tied_repeats` folds repeats that are to be identical, `limited` searches within limits, `kbest` ranks plans,
`conflicts` says why there is none.
"""
