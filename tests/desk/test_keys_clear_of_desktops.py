"""The keys of commands keep clear of those that Linux desktops take for themselves."""

from __future__ import annotations

import re

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest

from gatillo.desk.window.commands import COMMANDS

TAKEN = (
    (r".*\bMeta\b.*", "the desktop's own menu and tiling (GNOME, Plasma, Xfce, Cinnamon)"),
    (r"Ctrl\+Alt\+.*", "terminal, lock, workspaces, consoles (all)"),
    (r"(Shift\+)?Alt\+(Tab|Space|Esc|F\d+)", "switching and closing windows (all)"),
    (r"Alt\+(`|Return)", "windows of one program (GNOME)"),
    (r"Ctrl\+F([1-4]|7|8|9|10|12)", "desktops and window overviews (Plasma)"),
    (r"Ctrl\+Shift\+F\d+", "overviews of one program (Plasma)"),
    (r"Ctrl\+(Esc|Space|Shift\+Space)", "activities and input methods (Plasma, IBus, Fcitx)"),
    (r"Ctrl\+Shift\+U", "typing a character by its number (IBus)"),
    (r"F10|Shift\+F10", "the menu bar and the context menu (toolkits)"),
    (r"F12", "drop-down terminals"),
    (r".*Print", "screenshots (all)"),
)
"""Keys that desktops take before a program sees them, with what for, by their first stroke."""
USED = [(command.name, keys) for command in COMMANDS for keys in [command.keys] if isinstance(keys, str)]


@pytest.mark.parametrize(("name", "keys"), USED)
def test_no_command_has_a_key_that_a_desktop_takes(name, keys):
    first = keys.split(", ")[0]
    taken = [what for pattern, what in TAKEN if re.fullmatch(pattern, first)]
    assert not taken, f"{name}: {keys} is taken for {taken[0]}"


def test_no_two_commands_have_the_same_keys_nor_one_that_begins_with_anothers(qapp):
    all_ = [QKeySequence(command.keys).toString() for command in COMMANDS if command.keys is not None]
    assert len(all_) == len(set(all_))
    strokes = [keys.split(", ") for keys in all_]
    begun = {keys[0] for keys in strokes if len(keys) > 1}
    assert not begun & {keys[0] for keys in strokes if len(keys) == 1}


def test_two_strokes_do_a_command_even_where_a_letter_would_be_typed(open_window):
    window = open_window()
    window.activateWindow()
    window.order.setFocus()
    before = len(window.bench.level.trials)
    QTest.keyClick(window.order, Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(window.order, Qt.Key.Key_T)
    assert len(window.bench.level.trials) == before + 1
    assert not window.order.writer.line.is_open
