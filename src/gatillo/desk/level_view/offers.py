"""What the level offers the player: prompts with their progress, menus and topics to choose from."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from gatillo.desk.level_view.canvas import Canvas
from gatillo.desk.looks.theme import kind_colour, text_font, theme, with_alpha
from gatillo.inspect.readouts import shown_readouts
from gatillo.sim.interaction.prompts import prompt_text
from gatillo.sim.interaction.talk import choices
from gatillo.sim.world.world import World

LINE = 24
BAR = 40.0


def choice_box(view: Canvas, world: World) -> list[QRectF]:
    """Return the panel of what can be chosen, if anything can be."""
    box, lines = _choice_areas(view, world)
    return [box] if lines else []


def paint_offers(p: QPainter, view: Canvas, world: World, taken: Iterable[QRectF] = ()) -> None:
    """Readouts on objects, prompts below what offers them and off what is `taken`, and the list of what can be chosen."""
    _paint_readouts(p, view, world)
    _paint_prompts(p, view, world, taken)
    _paint_choices(p, view, world)


def _paint_readouts(p: QPainter, view: Canvas, world: World) -> None:
    t = theme()
    for shown in shown_readouts(world):
        kind = world.program.kinds[world.kind.item(shown.row)]
        top = world.y.item(shown.row) + world.reach()[1].item(shown.row)
        at = view.to_pixels(world.x.item(shown.row), top)
        y = at.y() - 10 - 15 * shown.place
        if shown.full is None:
            p.setFont(text_font(-2))
            p.setPen(t.ink)
            p.drawText(QRectF(at.x() - 80, y - 8, 160, 14), Qt.AlignmentFlag.AlignCenter, shown.text)
            continue
        track = QRectF(at.x() - BAR / 2, y - 2, BAR, 5)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(t.panel)
        p.drawRoundedRect(track, 2, 2)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(kind_colour(kind.colour))
        p.drawRoundedRect(QRectF(track.left(), track.top(), BAR * shown.full, 5), 2, 2)


def clear_of(box: QRectF, taken: Iterable[QRectF], height: float) -> QRectF:
    """Return a box moved down, or up where there is no more room, until it lies upon none of those that are taken."""
    others = list(taken)
    for way in (1, -1):
        tried = QRectF(box)
        for _ in range(len(others) + 1):
            under = next((other for other in others if other.adjusted(0, -2, 0, 2).intersects(tried)), None)
            if under is None:
                break
            tried.moveTop(under.bottom() + 3 if way > 0 else under.top() - tried.height() - 3)
        if tried.top() >= 0 and tried.bottom() <= height:
            return tried
    return box


def _paint_prompts(p: QPainter, view: Canvas, world: World, taken: Iterable[QRectF]) -> None:
    t, placed = theme(), list(taken)
    p.setFont(text_font(-1))
    for offer in world.prompts.offers:
        row = world.row_of_id(offer.prompt)
        if row < 0:
            continue
        verb = "hold" if offer.hold > 0 else "press"
        words = f"{verb} {offer.key} · {prompt_text(world, offer)}"
        width = p.fontMetrics().horizontalAdvance(words) + 20
        # below it: what it says stands above
        at = view.to_pixels(world.x.item(row), world.y.item(row) - world.reach()[1].item(row))
        below = 6 if offer.hold > 0 else 0
        left = min(max(2.0, at.x() - width / 2), max(2.0, view.width() - width - 2))
        whole = clear_of(QRectF(left, at.y() + 8, width, 22 + below), placed, view.height())
        placed.append(whole)
        box = whole.adjusted(0, 0, 0, -below)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.ink)
        p.drawRoundedRect(box, 4, 4)
        p.setPen(t.panel)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if offer.hold > 0:
            gone = 0.0 if offer.since is None else min(1.0, (world.time - offer.since) / offer.hold)
            track = QRectF(box.left(), box.bottom() + 2, box.width(), 4)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(with_alpha(t.ink, 0.25))
            p.drawRoundedRect(track, 2, 2)
            p.setBrush(t.fires)
            p.drawRoundedRect(QRectF(track.left(), track.top(), track.width() * gone, 4), 2, 2)


def _choice_areas(view: Canvas, world: World) -> tuple[QRectF, list[tuple[str, QRectF]]]:
    """Return the panel beside the one spoken to or the menu's object, and each line of it."""
    anchor, entries = choices(world)
    row = world.row_of_id(anchor) if entries else -1
    if row < 0:
        return QRectF(), []
    lines = [f"{number}  {words}" for number, words in enumerate(entries, 1)]
    metrics = QFontMetricsF(text_font(0))
    width = max(metrics.horizontalAdvance(line) for line in lines) + 28
    at = view.to_pixels(world.x.item(row), world.y.item(row))
    left = min(at.x() + 24, view.width() - width - 6)
    top = min(at.y() + 10, view.height() - LINE * len(lines) - 16)
    box = QRectF(left, top, width, LINE * len(lines) + 10)
    return box, [
        (line, QRectF(left + 12, top + 5 + LINE * number, width - 16, LINE))
        for number, line in enumerate(lines)
    ]


def choice_at(view: Canvas, world: World, point: QPointF) -> int:
    """Return the number (from 1) of the choice under a pixel, 0 if there is none."""
    _, lines = _choice_areas(view, world)
    return next((number for number, (_, area) in enumerate(lines, 1) if area.contains(point)), 0)


def _paint_choices(p: QPainter, view: Canvas, world: World) -> None:
    """What can be chosen: by number or by a click while playing."""
    box, lines = _choice_areas(view, world)
    if not lines:
        return
    t = theme()
    p.setFont(text_font(0))
    p.setPen(QPen(t.cursor, 1.2))
    p.setBrush(t.panel)
    p.drawRoundedRect(box, 5, 5)
    p.setPen(t.ink)
    for line, area in lines:
        p.drawText(area, Qt.AlignmentFlag.AlignVCenter, line)
