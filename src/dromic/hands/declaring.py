"""How a constant of the movement model is declared: with its unit, its source, and the term that it weighs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import Any

TRADE = "common practice, no source"
TRIED = "tried in a rough model against the trade's rates"
OURS = "chosen, to be replaced by measured speeds"
FITTS = "form: Fitts 1954, Shannon form MacKenzie 1992; value " + OURS


def constant(
    default: Any,
    unit: str,
    words: str,
    source: str = OURS,
    *,
    term: str = "",
    spot: bool = False,
    part_of: str = "",
) -> Any:
    """A constant of the model; with `term` it weighs a term of the cost, which `dromic.hands.terms` registers.

    Parameters
    ----------
    default : float or Enum or bool
    unit, words, source : str
        As they stand in docs/model.md.
    term : str
        What players read where the term counts; may hold facts of the movement in braces, such as ``{mover}``.
    spot : bool
        Whether a term that counts marks a hand-sync spot.
    part_of : str
        Another term that this one is told together with.
    """
    told = {"term": term, "spot": spot, "part_of": part_of}
    return field(default=default, metadata={"unit": unit, "words": words, "source": source, **told})


def style_option(default: Any, words: str, question: str, answers: Mapping[Any, str]) -> Any:
    """A question that players answer differently, with the words of every answer, by its value.

    Parameters
    ----------
    default : Any
    words, question : str
    answers : mapping of Any to str
    """
    metadata = {"unit": "", "words": words, "source": TRADE, "question": question, "answers": dict(answers)}
    return field(default=default, metadata=metadata)
