"""The practice log as other files: all repetitions as CSV or JSON, out and in."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path

from dromic.errors import RiffError
from dromic.practice.log.logbook import COLUMNS, SCHEMA, Logbook, Rep, rep_of, said_time
from dromic.storage.reading import read_bytes
from dromic.storage.writing import check_kind, write_text

LARGEST_IMPORT = 64 * 2**20
EXPORTS = (".csv", ".json")


def export_log(log: Logbook, path: Path | str) -> int:
    """Write all repetitions as CSV or JSON, whole or not at all.

    Returns
    -------
    int
        How many there are.

    Raises
    ------
    RiffError
    """
    check_kind(path, EXPORTS, "a log")
    reps = log.reps()
    rows = [_plain(rep) for rep in reps]
    if Path(path).suffix.lower() == ".json":
        text = json.dumps({"schema": SCHEMA, "reps": rows}, indent=1, ensure_ascii=False) + "\n"
    else:
        out = io.StringIO()
        writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
        writer.writeheader()
        writer.writerows({**row, "movement_keys": " ".join(row["movement_keys"])} for row in rows)  # type: ignore[arg-type]
        text = out.getvalue()
    write_text(text, path)
    return len(reps)


def import_log(log: Logbook, path: Path | str) -> int:
    """Take over repetitions of a file that `export_log` wrote; those that are there already are left.

    Returns
    -------
    int
        How many were new.

    Raises
    ------
    RiffError
        With the file and, where there is one, the line; nothing is taken over then.
    """
    check_kind(path, EXPORTS, "a log")
    name = str(path)
    data = read_bytes(path, LARGEST_IMPORT)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise RiffError("this is not UTF-8 text; is it the right file?", file=name) from None
    reps = []
    for line, values in _rows_of(text, Path(path).suffix.lower(), name):
        try:
            reps.append(rep_of(values))
        except RiffError as error:
            raise RiffError(error.message, file=name, line=line) from None
    return log.add(reps)


def _rows_of(text: str, ending: str, name: str) -> Iterator[tuple[int | None, dict[str, object]]]:
    if ending == ".csv":
        reader = csv.DictReader(io.StringIO(text))
        if not {"at", "tempo"} <= set(reader.fieldnames or ()):
            raise RiffError("the first line does not name the columns at and tempo, as a log's does", file=name)
        try:
            for row in reader:
                yield reader.line_num, {key: value for key, value in row.items() if key is not None}
        except csv.Error as error:
            raise RiffError(f"this is no CSV: {error}", file=name, line=reader.line_num) from None
        return
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RiffError(f"this is no JSON: {str(error)[:80]}", file=name) from None
    rows = found.get("reps") if isinstance(found, dict) and found.get("schema") == SCHEMA else None
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise RiffError(f"this is no log of schema {SCHEMA} with a list of reps", file=name)
    for row in rows:
        yield None, row


def _plain(rep: Rep) -> dict[str, object]:
    values: dict[str, object] = asdict(rep)
    values["at"] = said_time(rep.when)
    del values["when"]
    return {name: list(rep.movement_keys) if name == "movement_keys" else values[name] for name in COLUMNS}
