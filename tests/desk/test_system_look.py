"""Light or dark as the desktop has it, until somebody chooses here; text size is another matter."""

from collections.abc import Iterator

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from plinth.desk import preferences, system_look
from plinth.desk.look import look
from plinth.desk.system_look import SystemLook
from plinth.desk.window import PlinthWindow


class Desktop:
    """A desktop whose theme somebody changes; that without a screen has none."""

    def __init__(self) -> None:
        self.dark = False

    def change(self, dark: bool) -> None:
        self.dark = dark
        scheme = Qt.ColorScheme.Dark if dark else Qt.ColorScheme.Light
        QGuiApplication.styleHints().colorSchemeChanged.emit(scheme)


@pytest.fixture
def desktop(window: PlinthWindow, monkeypatch: pytest.MonkeyPatch) -> Iterator[Desktop]:
    assert not system_look.system_is_dark(), "one that does not say is light"
    desktop = Desktop()
    monkeypatch.setattr(system_look, "system_is_dark", lambda: desktop.dark)
    following = SystemLook()
    yield desktop
    following.deleteLater()
    look.set(dark=False, scale=1.0)
    assert window is not None


def test_it_follows_the_desktop_until_it_is_chosen_here(window: PlinthWindow, desktop: Desktop) -> None:
    for dark in (True, False, True):
        desktop.change(dark)
        assert look.dark is dark
    # Another text size is no choice of a theme.
    window.step_text(1)
    assert "dark" not in preferences.load()
    desktop.change(False)
    assert not look.dark
    window.toggle_dark()
    assert look.dark
    desktop.change(True)
    desktop.change(False)
    assert look.dark, "chosen here"
    assert preferences.load()["dark"] is True


def test_the_desktop_s_is_to_be_had_again(window: PlinthWindow, desktop: Desktop) -> None:
    window.toggle_dark()
    window.step_text(1)
    size = look.scale
    assert look.dark
    (command,) = [each for each in window.commands if each.key == "system_look"]
    command.run()
    assert not look.dark
    assert look.scale == size
    assert preferences.load() == {"scale": size}
    desktop.change(True)
    assert look.dark
