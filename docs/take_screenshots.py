"""Draws the pictures of docs/screenshots/ anew: ``.venv/bin/python docs/take_screenshots.py``."""

from __future__ import annotations

import os
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from dromic.app.start import application, open_window
from dromic.app.theme import DARK, LIGHT

SHOTS = Path(__file__).parent / "screenshots"
# File name, demo riff, stage, theme, step to choose (None for the hardest).
PICTURES = (
    ("plan.png", 0, 1, LIGHT, None),
    ("plan-sweep.png", 2, 1, LIGHT, 5),
    ("plan-dark.png", 1, 1, DARK, None),
    ("riff.png", 3, 0, LIGHT, None),
)


def main() -> None:
    """Draw them all."""
    app = application()
    window = open_window(demo=True)
    window.resize(1280, 800)
    window.show()
    for name, riff, stage, theme, step in PICTURES:
        window.open_demo(window.riffs[riff])
        window.set_theme(theme)
        window.show_stage(stage)
        window.planner.ask()
        while window.planner.working:
            app.processEvents()
            time.sleep(0.01)
        if step is not None:
            window.document.choose(step)
        window.picture(SHOTS / name)
    window.close()


if __name__ == "__main__":
    main()
