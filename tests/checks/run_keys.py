"""How often the key is told right: ``.venv/bin/python -m tests.checks.run_keys``; figures go to docs/music.md."""

from __future__ import annotations

from tests.checks.abc_tunes import COLLECTIONS
from tests.checks.tune_keys import Told, keys_told


def share(told: list[Told], name: str) -> str:
    return f"{100 * sum(getattr(one, name) for one in told) / max(len(told), 1):.1f} %"


def main() -> None:
    every: list[Told] = []
    print("| collection | tunes | key | tonic | signature | called certain | tonic, where certain |")
    print("|---|---|---|---|---|---|---|")
    for collection in (*COLLECTIONS, ""):
        told = list(keys_told(collection)) if collection else every
        every = every if not collection else [*every, *told]
        sure = [one for one in told if one.sure]
        figures = [share(told, name) for name in ("same_key", "same_tonic", "same_signature", "sure")]
        row = [collection or "all", str(len(told)), *figures, share(sure, "same_tonic")]
        print(f"| {' | '.join(row)} |", flush=True)


if __name__ == "__main__":
    main()
