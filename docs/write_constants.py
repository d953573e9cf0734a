"""Writes the tables of constants in docs/model.md anew: ``.venv/bin/python docs/write_constants.py``."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

from dromic.hands.profile import Hands
from dromic.hands.style_options import constant_rows, rows_of
from dromic.schools.registry import SCHOOLS

PAGE = Path(__file__).parent / "model.md"
HEADINGS = {
    "picking": "Picking hand",
    "fretting": "Fretting hand",
    "sync": "Both hands together",
    "comfort": "Comfort",
    "schools": "What the schools would rather not",
}
TABLE_HEAD = "| constant | value | unit | what it is | source |\n|---|---|---|---|---|\n"


def table(group: str) -> str:
    """The constants of one group as a table."""
    rows = [row for row in constant_rows(Hands()) if row.group == group]
    for school in SCHOOLS.values():
        if school.efforts is not None and group == "schools":
            rows += [replace(row, name=f"{school.name}: {row.name}") for row in rows_of(group, school.efforts)]
    return TABLE_HEAD + "".join(
        f"| `{row.name}` | {row.value} | {row.unit or '–'} | {row.words} | {row.source} |\n" for row in rows
    )


def main() -> None:
    """Put every table under its heading."""
    page = PAGE.read_text()
    for group, heading in HEADINGS.items():
        found = re.search(rf"### {heading}\n\n(?:\|.*\n)+", page)
        if found is None:
            raise SystemExit(f"{PAGE.name}: the heading '### {heading}' with a table under it is missing; write it")
        page = page.replace(found[0], f"### {heading}\n\n{table(group)}")
    PAGE.write_text(page)


if __name__ == "__main__":
    main()
