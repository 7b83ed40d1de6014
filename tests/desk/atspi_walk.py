"""Walks Plinth's window over the accessibility bus, as a screen reader does; prints what it found as JSON.

Run inside an X server and a session bus of its own: ``xvfb-run dbus-run-session python -m tests.desk.atspi_walk``.
"""

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from jeepney import DBusAddress, HeaderFields, MatchRule, Message, Properties, message_bus, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection

LAUNCHERS = ("/usr/libexec/at-spi-bus-launcher", "/usr/lib/at-spi2-core/at-spi-bus-launcher")
ACCESSIBLE, ACTION, TEXT = (f"org.a11y.atspi.{name}" for name in ("Accessible", "Action", "EditableText"))
REGISTRY, ROOT = "org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root"
# The bit of the state that something is on the screen (AT-SPI's list of states).
SHOWING = 25
MUST_BE_NAMED = {
    "push button", "radio button", "check box", "entry", "text", "combo box", "slider", "table", "list",
    "table column header", "column header", "toggle button",
}  # fmt: skip


@dataclass(frozen=True)
class Node:
    """Something on the screen, with where it is found on the bus."""

    bus: str
    path: str
    role: str
    name: str


class Reader:
    """What a screen reader does: looks through the tree, hears announcements, presses, types."""

    def __init__(self, address: str) -> None:
        self._bus: DBusConnection = open_dbus_connection(bus=address)
        rule = MatchRule(type="signal", interface="org.a11y.atspi.Event.Object", member="Announcement")
        self._bus.send_and_get_reply(message_bus.AddMatch(rule))
        registry = DBusAddress("/org/a11y/atspi/registry", bus_name=REGISTRY, interface=REGISTRY)
        self._bus.send_and_get_reply(new_method_call(registry, "RegisterEvent", "s", ("object:announcement",)))
        self.heard: list[str] = []

    def _call(
        self, node: tuple[str, str], interface: str, method: str, sign: str = "", body: tuple[Any, ...] = ()
    ) -> Any:
        address = DBusAddress(node[1], bus_name=node[0], interface=interface)
        reply = self._bus.send_and_get_reply(new_method_call(address, method, sign or None, body), timeout=20)
        return reply.body[0] if reply.body else None

    def children(self, bus: str = REGISTRY, path: str = ROOT) -> list[tuple[str, str]]:
        """What lies below."""
        return [(str(each[0]), str(each[1])) for each in self._call((bus, path), ACCESSIBLE, "GetChildren")]

    def _name(self, bus: str, path: str) -> str:
        address = DBusAddress(path, bus_name=bus, interface=ACCESSIBLE)
        return str(self._bus.send_and_get_reply(Properties(address).get("Name"), timeout=20).body[0][1])

    def nodes(self, bus: str, path: str) -> Iterator[Node]:
        """All that shows, from the top down."""
        for child in self.children(bus, path):
            low, _high = self._call(child, ACCESSIBLE, "GetState")
            role = str(self._call(child, ACCESSIBLE, "GetRoleName"))
            if low >> SHOWING & 1 or role == "column header":
                yield Node(*child, role, self._name(*child))
                yield from self.nodes(*child)

    def listen(self, seconds: float) -> list[str]:
        """What is announced in that time."""
        until, heard = time.monotonic() + seconds, []
        while (left := until - time.monotonic()) > 0.0:
            try:
                message = self._bus.receive(timeout=left)
            except TimeoutError:
                break
            heard += _announcement(message)
        self.heard += heard
        return heard

    def press(self, node: Node) -> None:
        """What a reader's own press does to it."""
        self._call((node.bus, node.path), ACTION, "DoAction", "i", (0,))

    def type(self, node: Node, text: str) -> None:
        """Put a text into a field."""
        self._call((node.bus, node.path), TEXT, "SetTextContents", "s", (text,))


def _announcement(message: Message) -> list[str]:
    if message.header.fields.get(HeaderFields.member) != "Announcement":
        return []
    return [str(message.body[3][1])]


def main(home: Path) -> dict[str, Any]:
    """Start Plinth on its demo, walk through all stages, take one reading."""
    launcher = next(path for path in LAUNCHERS if Path(path).exists())
    bus = subprocess.Popen([launcher, "--launch-immediately"], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    env = os.environ | {
        "QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1", "HOME": str(home),
    }  # fmt: skip
    window: subprocess.Popen[bytes] | None = None
    try:
        reader = Reader(_address())
        window = subprocess.Popen([sys.executable, "-m", "plinth", "demo"], env=env, stdout=subprocess.DEVNULL)
        return _walk(reader)
    finally:
        if window is not None:
            window.send_signal(signal.SIGTERM)
            window.wait(20)
        bus.terminate()
        bus.wait(20)


def _address() -> str:
    session = open_dbus_connection(bus="SESSION")
    for _ in range(100):
        asked = DBusAddress("/org/a11y/bus", bus_name="org.a11y.Bus", interface="org.a11y.Bus")
        reply = session.send_and_get_reply(new_method_call(asked, "GetAddress"), timeout=20)
        if reply.body and str(reply.body[0]).startswith("unix:"):
            return str(reply.body[0]).partition(",guid")[0]
        time.sleep(0.1)
    raise RuntimeError("no accessibility bus came up")


def _window(reader: Reader) -> tuple[str, str]:
    for _ in range(300):
        for application in reader.children():
            for frame in reader.children(*application):
                return frame
        time.sleep(0.2)
    raise RuntimeError("no window came up on the accessibility bus")


def _found(reader: Reader, top: tuple[str, str], role: str, begins: str) -> Node:
    """The first that is called so, waited for."""
    for _ in range(100):
        for node in reader.nodes(*top):
            if node.role == role and node.name.startswith(begins):
                return node
        time.sleep(0.2)
    raise RuntimeError(f"no {role} {begins!r} in the window")


def _walk(reader: Reader) -> dict[str, Any]:
    top = _window(reader)
    _found(reader, top, "radio button", "Wall")
    roles: dict[str, int] = {}
    unnamed: list[str] = []
    stages: dict[str, list[str]] = {}
    reader.listen(4.0)
    for stage in ("Plan", "Inspect", "Power up", "Measure", "Decide", "Diary"):
        reader.press(_found(reader, top, "check box", stage))
        stages[stage] = reader.listen(2.5)
        for node in reader.nodes(*top):
            roles[node.role] = roles.get(node.role, 0) + 1
            if node.role in MUST_BE_NAMED and not node.name.strip():
                unnamed.append(f"{stage}: {node.role}")
    reader.press(_found(reader, top, "check box", "Measure"))
    reader.listen(1.5)
    reader.type(_found(reader, top, "text", "Reading"), "1.234 apples")
    return {"roles": roles, "unnamed": unnamed, "stages": stages, "typed": reader.listen(2.5)}


if __name__ == "__main__":
    sys.stdout.write(json.dumps(main(Path(sys.argv[1]))))
