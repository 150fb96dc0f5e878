"""The sheet of an answer: reasons that unfold into their own, each a link to its moment; all of it can be copied."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from gatillo.desk.looks import plain
from gatillo.desk.looks.plain import Rich
from gatillo.desk.looks.theme import theme, with_alpha
from gatillo.desk.session.page import CHOSEN, OTHER, Page, Path
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.questions import ask
from gatillo.inspect.reasons.reason import Reason

INDENT = 20
SHORT = 20
"""Letters of an offer up to which it stands on one line."""
_LINKS = Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard


def answer_page(bench: Workbench, column: QVBoxLayout, page: Page) -> None:
    """Fill a sheet with an answer."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    for name, words, tip, deed in (
        ("answer-close", "Close", "Close the answer and show what is selected", bench.answers.dismiss),
        ("answer-copy", "Copy", "Copy the visible answer as text", lambda: _copy(page)),
        ("answer-again", "Ask again", "Ask the same question about the present run", bench.answers.ask_again),
    ):
        if name == "answer-again" and not bench.answers.may_ask_again:
            continue
        button = QToolButton()
        button.setObjectName(name)
        button.setText(words)
        button.setToolTip(plain.tip(tip))
        button.setAccessibleName(f"{words}: {tip}")
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda _=False, d=deed: d())
        line.addWidget(button)
    line.addStretch(1)
    column.addWidget(row)
    label = Rich(page_html(page))
    label.setObjectName("answer")
    label.setAccessibleName(page.text())
    label.setWordWrap(True)
    label.setAlignment(Qt.AlignmentFlag.AlignTop)
    label.setTextInteractionFlags(_LINKS | Qt.TextInteractionFlag.TextSelectableByMouse)
    label.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    label.linkActivated.connect(lambda link: _follow(bench, page, link))
    column.addWidget(label)


def _copy(page: Page) -> None:
    QGuiApplication.clipboard().setText(page.text())


def _follow(bench: Workbench, page: Page, link: str) -> None:
    what, _, rest = link.partition(":")
    path = tuple(int(part) for part in rest.split(".") if part)
    if what == "fold":
        bench.answers.fold(path)
    elif what == "go":
        bench.answers.go(path)
    elif what == "do":
        page.offers[path[0]][path[1]][1]()
    elif what == "also":
        page.also[path[0]][1]()


def page_html(page: Page) -> str:
    """Return an answer as rich text; whatever comes from the level is escaped."""
    t = theme()
    text = ""
    if page.stale:
        text += f'<p style="margin:2px 0; color:{t.finding.name()}">This answer is about the run before the last edit.</p>'
    for note in page.notes:
        text += f'<p style="margin:3px 0; color:{t.quiet.name()}">{escape(note)}</p>'
    if page.busy:
        text += f'<p style="margin:3px 0; color:{t.quiet.name()}">Working …</p>'
    text += _table(page)
    for path, reason in page.lines():
        text += _line(page, path, reason)
        if len(path) == 1 and path[0] in page.offers:
            asked = ""
            for at, (words, _) in enumerate(page.offers[path[0]]):
                shown = words.replace(" ", "\xa0") if len(words) <= SHORT else words
                # of several that exclude one another, each has its line
                after = "<br>" if words[:1] in (CHOSEN, OTHER) else "&nbsp; &nbsp;"
                asked += ask(f"do:{path[0]}.{at}", shown) + after
            text += f'<p style="margin:0 0 9px {INDENT}px">{asked}</p>'
    for at, (words, _) in enumerate(page.also):
        top = 12 if at == 0 else 3
        text += f'<p style="margin:{top}px 0 0 0">{ask(f"also:{at}", words)}</p>'
    return text


def _line(page: Page, path: Path, reason: Reason) -> str:
    t = theme()
    depth = len(path) - 1
    key = ".".join(map(str, path))
    open_ = path in page.unfolded
    if reason.known and not reason.because():
        mark = f'<span style="color:{t.hairline.name()}">·</span>'
    else:
        mark = ask(f"fold:{key}", "▾" if open_ else "▸")
    colour = t.ink
    if reason.sort == "obstacle":
        colour = t.finding
    elif reason.sort in ("start", "input", "chance", "limit"):
        colour = t.quiet
    words = escape(reason.sentence)
    if depth == 0 and reason.sort in ("firing", "value"):
        words = f"<b>{words}</b>"
    back = ""
    if path == page.chosen:
        back = f"; background-color:{_solid(with_alpha(t.cursor, 0.16))}"
    link = f'<a href="go:{key}" style="color:{colour.name()}; text-decoration:none{back}">{words}</a>'
    left = depth * INDENT + 16
    return f'<p style="margin:3px 0 3px {left}px; text-indent:-16px">{mark}&nbsp; {link}</p>'


def _solid(colour: object) -> str:
    """Return a colour laid over the paper, as rich text knows no see-through ones."""
    t = theme()
    part = colour.alphaF()  # type: ignore[attr-defined]
    mixed = [
        round(part * mine + (1 - part) * theirs)
        for mine, theirs in zip(
            (colour.red(), colour.green(), colour.blue()),  # type: ignore[attr-defined]
            (t.panel.red(), t.panel.green(), t.panel.blue()),
            strict=True,
        )
    ]
    return f"rgb({mixed[0]},{mixed[1]},{mixed[2]})"


def _table(page: Page) -> str:
    if not page.table:
        return ""
    t = theme()
    rows = ""
    for at, row in enumerate(page.table):
        style = f"color:{t.quiet.name()}" if at == 0 else ""
        cells = "".join(
            f'<td style="padding:2px 12px 2px 0; {style}"{" align=right" if n else ""}>{escape(cell)}</td>'
            for n, cell in enumerate(row)
        )
        rows += f"<tr>{cells}</tr>"
    return f'<table cellspacing="0" style="margin:6px 0">{rows}</table>'
