"""The words of window, paper and messages: what players and editors have sorted out does not come back."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent.parent / "src" / "dromic"
PAGES = (Path(__file__).parent.parent / "README.md", *sorted((Path(__file__).parent.parent / "docs").glob("*.md")))

# Old words, and what is said in their place.
OLD = {
    r"\bround and round\b": "loop",
    r"\balike\b(?! (?:for|in|as|to)\b)": "repeats identical",
    r"\blift all locks\b|\blift the note's locks\b": "unlock",
    r"\block as it is\b": "lock as planned",
    r"\bgiv(?:e|en) up planning\b": "cancel planning",
    r"\bplan again\b": "replan",
    r"\bwhat else could be done\b": "alternatives",
    r"\bturns? the strings over\b": "flip string order",
    r"\blight or dark\b": "switch theme",
    r"\bas they came\b": "reset to defaults",
    r"\bkept plans?\b|\bRecoveredDocument\b": "saved plans",
    r"\bsizes\b": "dimensions",
    r"\bways? of playing\b": "school, or plan",
    r"\bmend(?:s|ed|ing)?\b": "fix, correct",
    r"\bhand swings (?:up|down)\b": "on its way up",
    r"\bhabitual\b": "usual",
    r"\bfurther fingers\b": "other fingers landing at the same time",
    r"\bsynchronisation spots?\b": "hand-sync spots",
    r"\bshaken\b": "vibrato",
    r"\bno plan of the model\b": "best possible plan (by this model)",
    r"^written as\b": "saved as",
    r"% of the time there is\b": "uses … of the time available",
    r"\(told\)|\bas told\b": "detected",
    r"\bbeat \d+\+\d": "as players count: 1 e & a",
}


@cache
def spoken() -> tuple[tuple[str, str], ...]:
    """All strings of the program that somebody may read, with where they stand."""
    modules = sorted(SOURCE.rglob("*.py"))
    return tuple(
        (f"{path.relative_to(SOURCE)}:{line}", words)
        for path in modules
        for line, words in strings(path)
        if " " in words.strip()
    )


def strings(path: Path) -> Iterator[tuple[int, str]]:
    """Strings of a module with their lines; not docstrings."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    docs = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef)) and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs:
            yield node.lineno, node.value


@pytest.mark.parametrize("old", OLD)
def test_old_words_stay_away(old: str) -> None:
    wrong = re.compile(old, re.IGNORECASE)
    found = [f"{where}: {words}" for where, words in spoken() if wrong.search(words)]
    assert not found, f"say '{OLD[old]}': {found}"


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_docs_use_the_words_of_the_window(page: Path) -> None:
    told = page.read_text(encoding="utf-8")
    for old in (r"\bround and round\b", r"\bRecoveredDocument\b", r"\bhabitual\b", r"\bsynchronisation spots?\b"):
        assert not re.search(old, told, re.IGNORECASE), f"{page.name}: say '{OLD.get(old, '')}'"
