"""The process that watches over the one that talks: ``python -m plinth.instruments.guard``.

It knows how each output is switched off and hears a beat every twentieth of a second. Where the beats stay away, the
talker is gone, or it says so, it opens lines of its own and switches off.
"""

import contextlib
import os
import socket
import threading
from multiprocessing.connection import Connection, wait
from typing import Any

from plinth.instruments.link import socket_place
from plinth.instruments.messages import BEAT_S, SILENCE_S, STALE_S, OffNow, Watch, WentOff
from plinth.processes.lines import LOST, awake_s, lines_given, quiet_signals, send

ONE_S = 0.3


class Guard:
    """``armed`` while something may be on."""

    def __init__(self, talker: Connection, window: Connection) -> None:
        self._talker, self._window = talker, window
        self.armed = False
        self._safe: tuple[tuple[str, str, tuple[str, ...]], ...] = ()
        self._manager: Any = None

    def run(self) -> None:
        """Watch until the talker is gone."""
        heard = before = awake_s()
        while True:
            why, asked = "", False
            try:
                if wait([self._talker], BEAT_S):
                    message = self._talker.recv()
                    heard = awake_s()
                    if isinstance(message, Watch):
                        self.armed, self._safe = message.armed, message.safe
                        self._prepare()
                    elif isinstance(message, OffNow):
                        why, asked = message.why, not message.why
            except LOST:
                if self.armed:
                    self._switch_off("the process that talks with the instruments is gone")
                return
            now = awake_s()
            if now - before > STALE_S:
                why = "the computer slept, or this got no turn for a second"
            elif now - heard > SILENCE_S:
                why = "the process that talks with the instruments is silent"
            before = now
            if (why or asked) and self.armed:
                self._switch_off(why)
                heard = awake_s()

    def _prepare(self) -> None:
        """What is no raw socket needs the backend, which takes its time: it is there before it is needed."""
        if self._manager is None and any(socket_place(address) is None for address, _, _ in self._safe):
            import pyvisa

            self._manager = pyvisa.ResourceManager("@py")

    def _switch_off(self, why: str) -> None:
        said: list[str] = []
        threads = [
            threading.Thread(target=self._off, args=(address, end, lines, said), daemon=True)
            for address, end, lines in self._safe
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(2.0 * ONE_S)
        if not said and not any(thread.is_alive() for thread in threads):
            # Off until the talker says that something may be on again.
            self.armed = False
        # Who asked for it awaits nothing else, unless something may still be on.
        if why or said:
            send(self._window, WentOff(why or "that was asked for", tuple(said)))

    def _off(self, address: str, end: str, lines: tuple[str, ...], said: list[str]) -> None:
        place = socket_place(address)
        try:
            if place is not None:
                with socket.create_connection(place, timeout=ONE_S) as own:
                    own.sendall("".join(f"{line}{end}" for line in lines).encode())
                    # The line stays open until it was read: an answer to a question says that it was.
                    own.settimeout(ONE_S)
                    own.sendall(f"*OPC?{end}".encode())
                    own.recv(64)
                return
            resource = self._manager.open_resource(address, open_timeout=int(1e3 * ONE_S))
            resource.write_termination = end
            with contextlib.closing(resource):
                for line in lines:
                    resource.write(line)
        except Exception as error:  # noqa: BLE001  # whatever fails here is said, and the others go on
            said.append(f"{address} could not be switched off ({error}): switch it off by hand.")


def main() -> None:
    """Watch until the talker is gone."""
    quiet_signals()
    talker, window = lines_given()
    try:
        Guard(talker, window).run()
    finally:
        os._exit(0)


if __name__ == "__main__":
    main()
