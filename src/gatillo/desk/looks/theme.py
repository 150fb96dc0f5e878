"""Colours and type of the window: light and dark, each with high contrast too."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, SignalInstance
from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette, QStyleHints
from PySide6.QtWidgets import QApplication

LOOKS = Path(__file__).parent


@dataclass(frozen=True, slots=True)
class Theme:
    """Colours by what they mean."""

    dark: bool
    paper: QColor
    panel: QColor
    ink: QColor
    quiet: QColor
    """Secondary text; at least 4.5 : 1 on paper and panel."""
    hairline: QColor
    field: QColor
    """Ground of section rows and headers."""
    fires: QColor
    on_fires: QColor
    cursor: QColor
    held: QColor
    finding: QColor
    fault: QColor
    selected: QColor
    input: QColor
    strong: bool = False
    """High contrast: every colour at least 7 : 1 on paper and panel, lines 4.5 : 1."""


LIGHT = Theme(
    dark=False,
    paper=QColor("#FBFAF6"),
    panel=QColor("#FFFFFF"),
    ink=QColor("#22262B"),
    quiet=QColor("#666A6E"),
    hairline=QColor("#DDD8CE"),
    field=QColor("#F6F4EF"),
    fires=QColor("#C8442B"),
    on_fires=QColor("#FFFFFF"),
    cursor=QColor("#1F6F8B"),
    held=QColor("#37764A"),
    finding=QColor("#8F5E12"),
    fault=QColor("#A61E2D"),
    selected=QColor("#FCF2EE"),
    input=QColor("#C3D0D8"),
)

DARK = Theme(
    dark=True,
    paper=QColor("#1B1E21"),
    panel=QColor("#22262A"),
    ink=QColor("#E8E4DB"),
    quiet=QColor("#A3A6A6"),
    hairline=QColor("#3A3F44"),
    field=QColor("#272B30"),
    fires=QColor("#E2694F"),
    on_fires=QColor("#1B1210"),
    cursor=QColor("#63B3CE"),
    held=QColor("#74B987"),
    finding=QColor("#DDA64B"),
    fault=QColor("#F0808A"),
    selected=QColor("#3A2924"),
    input=QColor("#46545E"),
)

STRONG_LIGHT = replace(
    LIGHT,
    strong=True,
    paper=QColor("#FFFFFF"),
    ink=QColor("#000000"),
    quiet=QColor("#3A3D40"),
    hairline=QColor("#5E6266"),
    field=QColor("#FFFFFF"),
    fires=QColor("#8E2410"),
    cursor=QColor("#0B4A61"),
    held=QColor("#1B5230"),
    finding=QColor("#613C00"),
    fault=QColor("#8A0F1D"),
    selected=QColor("#FFE9E0"),
    input=QColor("#5E7787"),
)

STRONG_DARK = replace(
    DARK,
    strong=True,
    paper=QColor("#000000"),
    panel=QColor("#000000"),
    ink=QColor("#FFFFFF"),
    quiet=QColor("#D0D3D3"),
    hairline=QColor("#9A9EA2"),
    field=QColor("#000000"),
    fires=QColor("#FF9B84"),
    on_fires=QColor("#000000"),
    cursor=QColor("#8FD8F0"),
    held=QColor("#98DDAB"),
    finding=QColor("#F2C270"),
    fault=QColor("#FFA3AB"),
    selected=QColor("#4A2A20"),
    input=QColor("#7C929F"),
)

_current = LIGHT


def theme() -> Theme:
    """Return the theme the window is painted with now."""
    return _current


def with_alpha(colour: QColor, alpha: float) -> QColor:
    """Return the colour, see-through: alpha 0 to 1."""
    other = QColor(colour)
    other.setAlphaF(alpha)
    return other


def kind_colour(name: str) -> QColor:
    """Return a kind's own colour, made light enough to be read when the window is dark."""
    colour = QColor(name)
    if not colour.isValid():
        colour = QColor("#44535F")
    if _current.dark:
        hue, saturation = max(colour.hslHueF(), 0.0), min(colour.hslSaturationF(), 0.62)
        colour = QColor.fromHslF(hue, saturation, max(colour.lightnessF(), 0.68))
    return _standing_out(colour.name(), _current.paper.name()) if _current.strong else colour


@cache
def _standing_out(name: str, ground: str) -> QColor:
    """Return a colour, lighter or darker by as much as it takes to stand out 7 : 1 from a ground."""
    colour, paper = QColor(name), QColor(ground)
    step = 0.02 if paper.lightnessF() < 0.5 else -0.02
    while contrast(colour, paper) < 7.0:
        lightness = min(1.0, max(0.0, colour.lightnessF() + step))
        colour = QColor.fromHslF(max(colour.hslHueF(), 0.0), colour.hslSaturationF(), lightness)
    return colour


def contrast(one: QColor, other: QColor) -> float:
    """Return how much two colours stand out from one another, 1 to 21, as WCAG 2.2 has it."""

    def luminance(colour: QColor) -> float:
        parts = [
            v / 12.92 if v <= 0.04045 else float(((v + 0.055) / 1.055) ** 2.4)
            for v in (colour.redF(), colour.greenF(), colour.blueF())
        ]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    high, low = sorted((luminance(one), luminance(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def figures(size: float = 0.0, *, bold: bool = False) -> QFont:
    """Return the font for figures, all of one width; `size` in points is relative to the desktop's."""
    font = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
    base = QGuiApplication.font().pointSizeF()
    font.setPointSizeF(max(6.0, base + size))
    font.setBold(bold)
    return font


def text_font(size: float = 0.0, *, bold: bool = False, italic: bool = False) -> QFont:
    """Return the desktop's font, a little larger or smaller."""
    font = QFont(QGuiApplication.font())
    font.setPointSizeF(max(6.0, font.pointSizeF() + size))
    font.setBold(bold)
    font.setItalic(italic)
    return font


@cache
def _hints() -> tuple[QStyleHints, Any]:
    """Return what the desktop says about looks, and about contrast (None with a Qt before 6.10).

    Both are held: PySide gives up the second when nothing holds the first.
    """
    hints = QGuiApplication.styleHints()
    return hints, getattr(hints, "accessibility", lambda: None)()


def desktop_wants_contrast() -> bool:
    """Return whether the desktop asks for high contrast."""
    _, hints = _hints()
    return bool(hints is not None and hints.contrastPreference() == Qt.ContrastPreference.HighContrast)


def choose_theme(look: str = "desktop", strong: bool | None = None) -> Theme:
    """Take the light or dark theme, with high contrast or without; where nothing is said, as the desktop asks for."""
    global _current
    desktop_is_dark = _hints()[0].colorScheme() == Qt.ColorScheme.Dark
    dark = desktop_is_dark if look == "desktop" else look == "dark"
    if strong is None:
        strong = desktop_wants_contrast()
    _current = (STRONG_DARK if strong else DARK) if dark else (STRONG_LIGHT if strong else LIGHT)
    application = QApplication.instance()
    if isinstance(application, QApplication):
        style = _style(_current)
        # each time every widget there is is looked at again
        if application.styleSheet() != style:
            application.setPalette(_palette(_current))
            application.setStyleSheet(style)
    return _current


def look_signals() -> list[SignalInstance]:
    """Return the signals with which the desktop says that it asks for another look or contrast now."""
    hints, accessibility = _hints()
    found = [hints.colorSchemeChanged]
    return found if accessibility is None else [*found, accessibility.contrastPreferenceChanged]


def _palette(t: Theme) -> QPalette:
    palette = QPalette()
    role = QPalette.ColorRole
    for which, colour in (
        (role.Window, t.panel),
        (role.Base, t.paper if t.dark else t.panel),
        (role.AlternateBase, t.field),
        (role.Button, t.panel),
        (role.Text, t.ink),
        (role.WindowText, t.ink),
        (role.ButtonText, t.ink),
        (role.ToolTipBase, t.ink),
        (role.ToolTipText, t.paper),
        (role.PlaceholderText, t.quiet),
        (role.Highlight, t.cursor),
        (role.HighlightedText, t.panel),
        (role.Link, t.cursor),
        (role.Mid, t.hairline),
        (role.Light, t.panel),
        (role.Dark, t.hairline),
    ):
        palette.setColor(which, colour)
    for which in (role.Text, role.WindowText, role.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, which, t.quiet)
    return palette


def _style(t: Theme) -> str:
    line, ink, cursor = t.hairline.name(), t.ink.name(), t.cursor.name()
    tick = (LOOKS / f"tick-{'dark' if t.dark else 'light'}.svg").as_posix()
    return f"""
    QMainWindow, QMenuBar {{ background: {t.panel.name()}; }}
    QMenuBar::item {{ padding: 5px 10px; border-radius: 4px; }}
    QMenuBar::item:selected {{ background: {t.field.name()}; }}
    QMenu {{ background: {t.panel.name()}; border: 1px solid {line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 14px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t.field.name()}; color: {ink}; }}
    QMenu::item:disabled {{ color: {t.quiet.name()}; }}
    QMenu::separator {{ height: 1px; background: {line}; margin: 4px 8px; }}
    QSplitter::handle {{ background: {line}; }}
    QToolTip {{ background: {ink}; color: {t.paper.name()}; border: 0; padding: 6px 8px; }}
    QToolButton, QPushButton {{ background: {t.panel.name()}; border: 1px solid {line};
        border-radius: 5px; padding: 4px 8px; color: {ink}; }}
    QToolButton:hover, QPushButton:hover {{ background: {t.field.name()}; }}
    QToolButton:focus, QPushButton:focus {{ border: 1px solid {cursor}; }}
    QPushButton[link="true"] {{ border: 1px solid transparent; background: transparent; text-align: left;
        padding: 4px 6px; color: {cursor}; }}
    QPushButton[link="true"]:hover {{ background: {t.field.name()}; }}
    QPushButton[link="true"]:focus {{ border: 1px solid {cursor}; }}
    QToolButton[small="true"] {{ padding: 2px 5px; }}
    QToolButton:disabled, QPushButton:disabled {{ color: {t.quiet.name()}; background: {t.field.name()}; }}
    QToolButton#run {{ background: {t.fires.name()}; border-color: {t.fires.name()}; }}
    QToolButton#run:focus {{ border: 2px solid {ink}; }}
    QToolButton#tool {{ border-color: transparent; background: transparent; padding: 2px 8px; color: {t.quiet.name()}; }}
    QToolButton#tool:hover {{ color: {ink}; }}
    QToolButton#tool:checked {{ color: {cursor}; border-color: {line}; background: {t.panel.name()}; }}
    QToolButton#tool:focus {{ border-color: {cursor}; }}
    QToolButton#shelf {{ border-color: transparent; text-align: left; }}
    QToolButton#shelf:hover {{ border-color: {line}; }}
    QToolButton#shelf:checked {{ border-color: {cursor}; background: {t.field.name()}; }}
    QToolButton#shelf:focus {{ border-color: {cursor}; }}
    QLineEdit {{ background: {t.panel.name()}; border: 1px solid {line}; border-radius: 4px;
        padding: 3px 6px; color: {ink}; placeholder-text-color: {t.quiet.name()};
        selection-background-color: {cursor}; }}
    QLineEdit:focus {{ border: 1px solid {cursor}; }}
    QLineEdit[wrong="true"] {{ border: 2px solid {t.fault.name()}; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {t.quiet.name()}; border-radius: 3px;
        background: {t.panel.name()}; }}
    QCheckBox::indicator:checked {{ background: {cursor}; border: 1px solid {cursor}; image: url("{tick}"); }}
    QCheckBox::indicator:focus {{ border: 2px solid {cursor}; }}
    QCheckBox:focus {{ color: {cursor}; }}
    QScrollArea, QAbstractScrollArea {{ border: 0; }}
    QListView#offers {{ border: 1px solid {t.quiet.name()}; background: {t.panel.name()}; padding: 2px; }}
    QListView#offers::item {{ padding: 3px 6px; color: {ink}; }}
    QListView#offers::item:selected, QListView#offers::item:hover {{ background: {t.selected.name()}; color: {ink}; }}
    QListView#readings {{ border: 1px solid {t.quiet.name()}; background: {t.panel.name()}; }}
    QScrollBar:vertical {{ background: transparent; width: 11px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 11px; margin: 0; }}
    QScrollBar::handle {{ background: {line}; border-radius: 4px; margin: 2px; min-width: 28px; min-height: 28px; }}
    QScrollBar::handle:hover {{ background: {t.quiet.name()}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QLabel#quiet {{ color: {t.quiet.name()}; }}
    QLabel#slot-hint {{ background: {ink}; color: {t.paper.name()}; padding: 3px 8px; border-radius: 4px; }}
    QLabel#slot-hint[wrong="true"] {{ background: {t.fault.name()}; color: {t.on_fires.name()}; }}
    QFrame#tour {{ background: {t.cursor.name()}; }}
    QFrame#tour QLabel {{ color: {t.panel.name()}; }}
    QLabel#note {{ background: {with_alpha(t.cursor, 0.14).name(QColor.NameFormat.HexArgb)}; color: {ink};
        border-radius: 12px; padding: 0 12px; }}
    """
