"""The real window under a display of its own, and what a screen reader sees of it, stage by stage, as JSON.

Run as ``python -m tests.checks.accessible_window``, inside ``xvfb-run dbus-run-session``. The window runs here; the
tree is walked by a second process, as a screen reader is one: over D-Bus, by the protocol of AT-SPI 2.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from typing import Any

FOCUSABLE, SHOWING = 11, 25
ALWAYS = ("application", "frame")
LONGEST_S = 60.0
READINGS = 5


def switch_on() -> None:
    """Tell the session that something reads the screen."""
    from jeepney import DBusAddress, new_method_call
    from jeepney.io.blocking import open_dbus_connection

    place = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.freedesktop.DBus.Properties")
    session = open_dbus_connection("SESSION")
    session.send_and_get_reply(
        new_method_call(place, "Set", "ssv", ("org.a11y.Status", "IsEnabled", ("b", True))), timeout=10
    )


class Tree:
    """The accessibility tree of everything that is open."""

    def __init__(self) -> None:
        from jeepney import DBusAddress, new_method_call
        from jeepney.io.blocking import open_dbus_connection

        session = open_dbus_connection("SESSION")
        bus = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
        address = session.send_and_get_reply(new_method_call(bus, "GetAddress"), timeout=10).body[0]
        self._bus = open_dbus_connection(address)

    def _told(self, question: Any) -> Any:
        from jeepney.wrappers import unwrap_msg

        return unwrap_msg(self._bus.send_and_get_reply(question, timeout=10))[0]

    def _ask(self, who: tuple[str, str], method: str) -> Any:
        from jeepney import DBusAddress, new_method_call

        place = DBusAddress(who[1], who[0], "org.a11y.atspi.Accessible")
        return self._told(new_method_call(place, method))

    def _property(self, who: tuple[str, str], name: str) -> str:
        from jeepney import DBusAddress, Properties

        place = DBusAddress(who[1], who[0], "org.a11y.atspi.Accessible")
        return str(self._told(Properties(place).get(name))[1])

    def walk(self, who: tuple[str, str] | None = None) -> Iterator[dict[str, object]]:
        """Everything below something, itself included."""
        if who is None:
            root = ("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")
            for child in self._ask(root, "GetChildren"):
                yield from self.walk(tuple(child))
            return
        low, high = self._ask(who, "GetState")
        states = low | high << 32
        role = self._ask(who, "GetRoleName")
        yield {
            "role": role,
            "name": self._property(who, "Name"),
            "description": self._property(who, "Description"),
            "focusable": bool(states >> FOCUSABLE & 1),
            "showing": bool(states >> SHOWING & 1),
        }
        if role not in ALWAYS and not states >> SHOWING & 1:
            # A reader does not go into what is hidden, such as the other stages.
            return
        for child in self._ask(who, "GetChildren"):
            yield from self.walk(tuple(child))


def whole_tree() -> list[dict[str, object]]:
    """The tree at rest: a page still being filled lets go of rows while it is read, and is read again."""
    from jeepney.wrappers import DBusErrorResponse

    for _ in range(READINGS - 1):
        try:
            return list(Tree().walk())
        except DBusErrorResponse:
            time.sleep(1.0)
    return list(Tree().walk())


def show() -> None:
    """Open the window, show every stage, and let another process read each."""
    from dromic.app.stages import TITLES
    from dromic.app.start import application, open_window

    app = application()
    window = open_window(demo=True)
    window.show()
    end = time.monotonic() + LONGEST_S
    while (window.document.plan is None or window.planner.working) and time.monotonic() < end:
        app.processEvents()
    found: dict[str, object] = {}
    for index, stage in enumerate(TITLES):
        window.show_stage(index)
        until = time.monotonic() + 0.4
        while time.monotonic() < until:
            app.processEvents()
        with tempfile.TemporaryFile("w+") as told:
            walk = [sys.executable, "-m", "tests.checks.accessible_window", "walk"]
            reader = subprocess.Popen(walk, stdout=told)
            end = time.monotonic() + LONGEST_S
            while reader.poll() is None:
                if time.monotonic() > end:
                    reader.kill()
                    sys.exit(f"{stage} was not read in {LONGEST_S:.0f} s")
                app.processEvents()
                time.sleep(0.001)
            if reader.returncode != 0:
                sys.exit(f"{stage} could not be read: the reader ended with {reader.returncode}")
            told.seek(0)
            found[stage] = json.loads(told.read())
    print(json.dumps(found))
    window.planner.stop()
    window.stop()


if __name__ == "__main__":
    if sys.argv[1:] == ["walk"]:
        print(json.dumps(whole_tree()))
    else:
        switch_on()
        show()
