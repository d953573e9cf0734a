"""Builds a Debian package: ``.venv/bin/python docs/write_deb.py FOLDER``.

The package holds the program and the Python packages that it needs, as they are in the registry and pinned in
``constraints.txt``, so that nothing is fetched when it is installed. It is for the minor version of Python that it
is built with, which the package asks for; the rest comes from Debian.
"""

from __future__ import annotations

import argparse
import gzip
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from dromic import __version__
from dromic.desktop.places import PLACES

ROOT = Path(__file__).resolve().parent.parent
LIBRARIES = Path("usr/lib/dromic")
# What Qt's own libraries ask the system for, and what recording needs.
DEPENDS = (
    "libc6, libegl1, libgl1, libxkbcommon0, libdbus-1-3, libpulse0, libfontconfig1, libglib2.0-0, libxcb-cursor0, "
    "libxkbcommon-x11-0, libxcb-icccm4, libxcb-image0, libxcb-keysyms1, libxcb-render-util0, libxcb-shape0, "
    "libxcb-xinerama0"
)
WORDS = """Description: plans picking strokes together with fret positions and fingers
 Dromic plans how to play a riff on guitar or bass: where every note goes, which
 finger takes it and which stroke of the pick sounds it, all at once, so that the
 pick crosses strings with the least motion and both hands stay in step. It says
 why, prices every other way, names the tempo ceiling, lays out practice, and
 listens to takes.
"""
LAUNCHER = f"""#!/usr/bin/python3
import sys

sys.path.insert(0, "/{LIBRARIES}")
from dromic.entry import main

sys.exit(main())
"""
COPYRIGHT = """Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: Dromic

Files: *
Copyright: The Dromic developers
License: GPL-3.0-or-later
 On Debian systems the text is in /usr/share/common-licenses/GPL-3.

Files: usr/lib/dromic/dromic/app/fonts/*
Copyright: The Cabin Project authors, The Inconsolata Project authors
License: OFL-1.1
 The texts are beside the fonts.

Files: usr/lib/dromic/*
Comment: Each of the other packages has its licence in its own dist-info folder.
Copyright: see each folder
License: see each folder
"""
COMPILE = f"#!/bin/sh\nset -e\n/usr/bin/python3 -m compileall -q /{LIBRARIES} || true\n"
CLEAN = f"#!/bin/sh\nset -e\nfind /{LIBRARIES} -name __pycache__ -prune -exec rm -rf {{}} + || true\n"


def control(architecture: str, size_kb: int) -> str:
    """The package's own description."""
    major, minor = sys.version_info[:2]
    return (
        f"Package: dromic\nVersion: {__version__}\nArchitecture: {architecture}\n"
        "Section: sound\nPriority: optional\n"
        "Maintainer: The Dromic developers <dromic@localhost>\n"
        f"Installed-Size: {size_kb}\n"
        f"Depends: python3 (>= {major}.{minor}), python3 (<< {major}.{minor + 1}), {DEPENDS}\n" + WORDS
    )


def lay_out(root: Path) -> None:
    """Put everything in place that does not come from the registry."""
    for name, place in PLACES.items():
        target = root / "usr/share" / place
        target.parent.mkdir(parents=True, exist_ok=True)
        data = (ROOT / "src/dromic/desktop" / name).read_bytes()
        if place.startswith("man/"):
            target, data = target.with_name(f"{target.name}.gz"), gzip.compress(data, 9, mtime=0)
        target.write_bytes(data)
    launcher = root / "usr/bin/dromic"
    launcher.parent.mkdir(parents=True)
    launcher.write_text(LAUNCHER)
    launcher.chmod(0o755)
    about = root / "usr/share/doc/dromic"
    about.mkdir(parents=True)
    (about / "copyright").write_text(COPYRIGHT)
    (about / "changelog.gz").write_bytes(gzip.compress((ROOT / "CHANGELOG.md").read_bytes(), 9, mtime=0))


def add_libraries(root: Path) -> None:
    """Build the program, and install it into the package with all that it needs."""
    with tempfile.TemporaryDirectory() as folder:
        wheel = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--wheel-dir", folder, str(ROOT)]
        subprocess.run(wheel, check=True)
        (built,) = Path(folder).glob("dromic-*.whl")
        install = [sys.executable, "-m", "pip", "install", "--quiet", "--no-compile", "--target"]
        install += [str(root / LIBRARIES), "-c", str(ROOT / "constraints.txt"), str(built)]
        subprocess.run(install, check=True)
    for where_from in (root / LIBRARIES).glob("*.dist-info/direct_url.json"):
        where_from.unlink()
    # What belongs on the command line or under `share` has its place in the system.
    for name in ("bin", "share"):
        shutil.rmtree(root / LIBRARIES / name, ignore_errors=True)


def package(root: Path, folder: Path) -> Path:
    """Describe what has been laid out, and pack it."""
    size_kb = sum(path.stat().st_size for path in root.rglob("*") if path.is_file()) // 1024
    told = subprocess.run(["dpkg", "--print-architecture"], check=True, capture_output=True, text=True)
    architecture = told.stdout.strip()
    (root / "DEBIAN").mkdir()
    (root / "DEBIAN/control").write_text(control(architecture, size_kb))
    for name, text in (("postinst", COMPILE), ("prerm", CLEAN)):
        (root / "DEBIAN" / name).write_text(text)
        (root / "DEBIAN" / name).chmod(0o755)
    for path in root.rglob("*"):
        if path.is_dir():
            path.chmod(0o755)
    made = folder / f"dromic_{__version__}_{architecture}.deb"
    subprocess.run(
        ["dpkg-deb", "--root-owner-group", "-Zxz", "-z1", "--build", str(root), str(made)],
        check=True,
        stdout=subprocess.DEVNULL,
    )
    return made


def main() -> None:
    """Build the package, and say where it is."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    folder = parser.parse_args().folder
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as made:
        root = Path(made) / "dromic"
        root.mkdir()
        lay_out(root)
        add_libraries(root)
        print(package(root, folder))


if __name__ == "__main__":
    main()
