"""The program on a desktop: menu entry, icon, kinds of files, manual page, completions, one instance, packages."""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import tarfile
import zipfile
from pathlib import Path
from xml.etree import ElementTree

import pytest
from docs import write_deb, write_desktop
from PyQt6.QtGui import QIcon
from pytestqt.qtbot import QtBot

from dromic import __version__
from dromic.app.single_instance import MOST_BYTES, Listener, handed_over
from dromic.desktop.places import NAME, PLACES, icon_path, install, remove
from dromic.errors import RiffError
from dromic.formats.files import RIFF_SUFFIX
from tests.command_line import run_command

ROOT = Path(__file__).parent.parent
FOLDER = ROOT / "src" / "dromic" / "desktop"


def run(*words: str, **variables: str) -> subprocess.CompletedProcess[str]:
    return run_command(*words, env=os.environ | variables)


def test_the_command_puts_everything_in_place_and_takes_it_away(tmp_path: Path) -> None:
    done = run("desktop", "install", XDG_DATA_HOME=str(tmp_path))
    assert done.returncode == 0, done.stderr
    assert {str(path.relative_to(tmp_path)) for path in map(Path, done.stdout.splitlines()[:-1])} == set(
        PLACES.values()
    )
    entry = (tmp_path / PLACES[f"{NAME}.desktop"]).read_text()
    assert re.search(r"^Exec=\S*dromic %F$", entry, re.MULTILINE)
    assert (tmp_path / PLACES["dromic.1"]).read_text() == (FOLDER / "dromic.1").read_text()
    assert run("desktop", "remove", XDG_DATA_HOME=str(tmp_path)).returncode == 0
    assert not [tmp_path / place for place in PLACES.values() if (tmp_path / place).exists()]
    assert "nothing of Dromic" in run("desktop", "remove", XDG_DATA_HOME=str(tmp_path)).stdout


def test_a_folder_that_cannot_be_made_is_told(tmp_path: Path) -> None:
    (tmp_path / "share").write_text("a file")
    with pytest.raises(RiffError, match="a part of its path is not a folder"):
        install(tmp_path / "share")
    (tmp_path / PLACES["dromic.1"]).mkdir(parents=True)
    with pytest.raises(RiffError, match="cannot be taken away"):
        remove(tmp_path)


@pytest.mark.skipif(shutil.which("desktop-file-validate") is None, reason="needs desktop-file-utils")
def test_the_entry_is_valid() -> None:
    """Judged by the validator of freedesktop.org's desktop entry specification."""
    done = subprocess.run(
        ["desktop-file-validate", str(FOLDER / f"{NAME}.desktop")], capture_output=True, text=True, check=False
    )
    assert (done.returncode, done.stdout) == (0, "")


@pytest.mark.skipif(shutil.which("appstreamcli") is None, reason="needs appstream")
def test_the_metainfo_is_valid() -> None:
    """Judged by the validator of the AppStream specification."""
    page = FOLDER / f"{NAME}.metainfo.xml"
    done = subprocess.run(
        ["appstreamcli", "validate", "--no-net", str(page)], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stdout
    assert "E:" not in done.stdout
    assert "W:" not in done.stdout


@pytest.mark.skipif(shutil.which("update-mime-database") is None, reason="needs shared-mime-info")
def test_kinds_of_files_are_known_once_installed(tmp_path: Path) -> None:
    install(tmp_path)
    known = (tmp_path / "mime" / "globs2").read_text()
    assert f"text/x-riff:*{RIFF_SUFFIX}" in known
    assert "application/x-dromic-project:*.dromic" in known


def test_entry_metainfo_and_kinds_name_each_other() -> None:
    entry = (FOLDER / f"{NAME}.desktop").read_text()
    kinds = {one.get("type") for one in ElementTree.parse(FOLDER / f"{NAME}.mime.xml").getroot()}
    taken = set(re.search(r"^MimeType=(.*)$", entry, re.MULTILINE)[1].split(";"))  # type: ignore[index]
    assert kinds <= taken
    metainfo = ElementTree.parse(FOLDER / f"{NAME}.metainfo.xml").getroot()
    assert metainfo.findtext("id") == NAME
    assert metainfo.findtext("launchable") == f"{NAME}.desktop"
    assert next(metainfo.iter("release")).get("version") == __version__


def test_manual_and_completions_are_those_of_the_parser() -> None:
    """Written by ``python docs/write_desktop.py``."""
    assert (FOLDER / "dromic.1").read_text() == write_desktop.manual()
    for name, text in write_desktop.completions().items():
        assert (FOLDER / name).read_text() == text


@pytest.mark.skipif(shutil.which("bash") is None, reason="needs bash")
def test_bash_completes_commands_and_options() -> None:
    script = (
        f"source '{FOLDER / 'dromic.bash'}'; COMP_WORDS=(dromic co); COMP_CWORD=1; "
        "_shtab_dromic dromic co dromic; echo ${COMPREPLY[@]}"
    )
    done = subprocess.run(["bash", "-c", script], capture_output=True, text=True, check=True)
    assert set(done.stdout.split()) == {"compare", "convert"}


def test_the_icon_is_drawn(qtbot: QtBot) -> None:
    picture = QIcon(str(icon_path())).pixmap(64, 64).toImage()
    assert not picture.isNull()
    assert len({picture.pixel(x, y) for x in range(0, 64, 3) for y in range(0, 64, 3)}) > 4


# -- one instance ------------------------------------------------------------------------------------------------


def test_a_second_start_hands_its_files_to_the_first(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    assert not handed_over([])
    heard: list[tuple[Path, ...]] = []
    listener = Listener(heard.append)
    assert listener.listening
    code = (
        "import sys; from pathlib import Path; from PyQt6.QtCore import QCoreApplication; "
        "from dromic.app.single_instance import handed_over; app = QCoreApplication([]); "
        "sys.exit(0 if handed_over([Path(one) for one in sys.argv[1:]]) else 3)"
    )
    for names in (["a.riff", "b c.dromic"], []):
        other = subprocess.Popen([sys.executable, "-c", code, *names], cwd=tmp_path)
        qtbot.waitUntil(lambda: other.poll() is not None, timeout=20_000)  # noqa: B023
        assert other.returncode == 0
    assert heard == [(tmp_path / "a.riff", tmp_path / "b c.dromic"), ()]
    listener.close()
    assert not handed_over([])


@pytest.mark.parametrize(
    "sent", [b"{}\n", b"[1]\n", b"no\n", json.dumps(["x"] * 99).encode() + b"\n", b"x" * MOST_BYTES]
)
def test_what_is_no_list_of_files_is_not_opened(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, sent: bytes
) -> None:
    from PyQt6.QtNetwork import QLocalSocket

    from dromic.app.single_instance import server_name

    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    heard: list[tuple[Path, ...]] = []
    listener = Listener(heard.append)
    socket = QLocalSocket()
    socket.connectToServer(server_name())
    assert socket.waitForConnected(2000)
    socket.write(sent * 2)
    qtbot.wait(150)
    assert heard == []
    socket.abort()
    listener.close()


def test_alone_is_alone(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DROMIC_ALONE", "1")
    listener = Listener(lambda files: None)
    assert not listener.listening
    assert not handed_over([])


# -- packages ------------------------------------------------------------------------------------------------------


def test_wheel_and_sdist_hold_everything_and_the_wheel_runs(tmp_path: Path) -> None:
    """Built as pip and pipx build them, checked by twine, unpacked and started."""
    copy = tmp_path / "source"
    shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "build", "*.so", "*_cache", "tests"))
    out = tmp_path / "dist"
    build = [sys.executable, "-m", "build", "--no-isolation", "--outdir", str(out), str(copy)]
    done = subprocess.run(build, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-2000:]
    wheel, sdist = next(out.glob("*.whl")), next(out.glob("*.tar.gz"))
    assert __version__ in wheel.name
    checked = subprocess.run(
        [sys.executable, "-m", "twine", "check", "--strict", str(wheel), str(sdist)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert checked.returncode == 0, checked.stdout
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in (
        r"dromic/desktop/dromic\.1$",
        r"dromic/app/fonts/Cabin-Regular\.otf$",
        r"data/share/applications/org\.dromic\.Dromic\.desktop$",
        r"data/share/man/man1/dromic\.1$",
        r"dist-info/licenses/LICENSE$",
        r"dist-info/licenses/.*OFL-Cabin\.txt$",
        r"dist-info/licenses/.*OFL-Inconsolata\.txt$",
        r"dromic/demo/.*\.riff$",
    ):
        assert any(re.search(wanted, name) for name in names), wanted
    with tarfile.open(sdist) as packed:
        held = packed.getnames()
    assert any(name.endswith("kernel/compiled.pyx") for name in held)
    assert any(name.endswith("kernel/loops.h") for name in held)
    place = tmp_path / "installed"
    pip = [
        sys.executable,
        "-m",
        "pip",
        "install",
        "--quiet",
        "--no-deps",
        "--no-index",
        "--no-compile",
        "--target",
        str(place),
    ]
    subprocess.run([*pip, str(wheel)], check=True, capture_output=True)
    (tmp_path / "a.riff").write_text("| 5:5/8 5:7 4:5 4:7 r/2 |\n")
    code = "import dromic, sys; from dromic.cli import main; print(dromic.__file__); main(['plan', 'a.riff'])"
    started = subprocess.run(
        [sys.executable, "-c", code],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        env=os.environ | {"PYTHONPATH": str(place)},
        check=False,
    )
    assert started.returncode == 0, started.stderr
    assert str(place) in started.stdout
    assert "effort" in started.stdout


def test_pictures_and_pages_of_the_readme_are_there() -> None:
    for page in (ROOT / "README.md", ROOT / "ARCHITECTURE.md", ROOT / "CHANGELOG.md"):
        for link in re.findall(r"\]\(([^)#:]+?)\)", page.read_text()):
            assert (ROOT / link).exists(), f"{page.name}: {link}"


@pytest.mark.skipif(shutil.which("dpkg-deb") is None, reason="needs dpkg")
def test_the_debian_package_puts_everything_where_debian_has_it(tmp_path: Path) -> None:
    """Judged by dpkg, as the Filesystem Hierarchy Standard has places; the libraries are left out here."""
    root = tmp_path / "dromic"
    root.mkdir()
    write_deb.lay_out(root)
    made = write_deb.package(root, tmp_path)

    def told(*asked: str) -> list[str]:
        done = subprocess.run(["dpkg-deb", *asked], capture_output=True, text=True, check=True)
        return done.stdout.splitlines()

    fields = dict(line.split(": ", 1) for line in told("--field", str(made), "Package", "Version", "Depends"))
    assert (fields["Package"], fields["Version"]) == ("dromic", __version__)
    assert f"python3 (>= {sys.version_info.major}.{sys.version_info.minor})" in fields["Depends"]
    listed = told("--contents", str(made))
    held = {line.split()[-1].removeprefix(".") for line in listed}
    places = {f"/usr/share/{place}" + ".gz" * place.startswith("man/") for place in PLACES.values()}
    assert places | {"/usr/bin/dromic", "/usr/share/doc/dromic/copyright"} <= held
    (launcher,) = [line for line in listed if line.endswith("./usr/bin/dromic")]
    assert launcher.startswith("-rwxr-xr-x root/root")
