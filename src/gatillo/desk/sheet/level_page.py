"""The sheet of the level: its settings and variables; and the index of everything in it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout

from gatillo.catalogue.declare.named_types import known_names
from gatillo.desk.looks.small_pictures import blank_picture, kind_picture, place_picture
from gatillo.desk.looks.theme import theme
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.picture_field import picture_field
from gatillo.desk.sheet.variable_fields import variable_fields
from gatillo.desk.sheet.word_page import WORD_SORTS
from gatillo.desk.writing.pointing import Named, drag_name
from gatillo.level import thing_edits
from gatillo.level.model import Area, Graph, Kind, Place, Route
from gatillo.level.roles import all_logic

GROUND_SIDE = 1_024
"""Pixels of a ground's picture, of its longer side."""
TARGET = Qt.ItemDataRole.UserRole
NAMED = Qt.ItemDataRole.UserRole + 1
LONGEST = 9


def level_page(bench: Workbench, column: QVBoxLayout) -> None:
    """Fields of the level itself."""
    form = Form(bench, column, "level")
    level = bench.level

    def put(label: str, **fields: object) -> None:
        bench.edit(replace(bench.level, **fields), label, join=f"level {' '.join(fields)}")

    def setting(field: str):  # type: ignore[no-untyped-def]
        def take(value: float) -> None:
            whole = int(value) if isinstance(getattr(level.settings, field), int) else value
            put(
                f"change {field.replace('_', ' ')} of the level",
                settings=replace(bench.level.settings, **{field: whole}),
            )

        return take

    def name(text: str) -> str | None:
        if not text:
            return "a level needs a name"
        put("rename the level", name=text)
        return None

    form.text("name", "name", level.name, name)
    form.text(
        "note",
        "note",
        level.note,
        lambda text: put("change the note", note=text),
        hint="what this level shows",
    )
    settings = level.settings
    form.number(
        "tick rate",
        "rate",
        settings.rate,
        setting("rate"),
        least=10,
        most=240,
        decimals=0,
        suffix=" a second",
    )
    form.number("width", "width", settings.width, setting("width"), least=10, step=20)
    form.number("height", "height", settings.height, setting("height"), least=10, step=20)
    form.number(
        "gravity",
        "gravity",
        settings.gravity,
        setting("gravity"),
        step=50,
        none="none: seen from above",
        least=0.0,
        most=1e5,
    )

    def ground(field: str, label: str):  # type: ignore[no-untyped-def]
        def take(value: object) -> None:
            put(label, settings=replace(bench.level.settings, **{field: value}))

        return take

    form.swatches(
        "ground", "ground", settings.ground, thing_edits.COLOURS, ground("ground", "change the ground")
    )
    picture_field(
        form,
        "its picture",
        "ground-picture",
        settings.ground_picture,
        ground("ground_picture", "change the ground's picture"),
        tip="A PNG or SVG, drawn over the whole ground",
        side=GROUND_SIDE,
    )
    form.heading("Variables of the level")
    variable_fields(form, None)
    form.heading("Bounds: reaching one is a fault, never a hang")
    for field, label in (
        ("most_objects", "objects"),
        ("most_creations", "creations a tick"),
        ("most_messages", "messages a tick"),
        ("most_matches", "rows of a match table"),
        ("most_repeats", "turns of a repeat"),
    ):
        form.number(
            label, field, getattr(settings, field), setting(field), least=1, most=1e9, decimals=0, step=100
        )


def index_page(bench: Workbench, column: QVBoxLayout) -> None:
    """Everything in the level, to be searched and chosen; and what can be added."""
    form = Form(bench, column, "index")
    form.buttons(
        form.button("Level settings", "level", lambda: bench.select(Selection(thing=Thing("level", "")))),
        form.button("+ kind", "add-kind", lambda: add_kind(bench)),
        form.button("+ spot", "add-spot", lambda: add_place(bench, "spot")),
        form.button("+ area", "add-area", lambda: add_place(bench, "area")),
        form.button("+ route", "add-route", lambda: add_place(bench, "route")),
        form.button("+ trial", "add-trial", lambda: add_trial(bench)),
    )
    search = QLineEdit()
    search.setObjectName("index-search")
    search.setAccessibleName("Search the level")
    search.setPlaceholderText("find in this level: a kind, an object, a place, a rule, a message")
    found = _Index(bench)
    search.textChanged.connect(found.show_matching)
    search.returnPressed.connect(found.choose_first)
    column.addWidget(search)
    column.addWidget(found)


MOST_LISTED = 200


def _kind_icon(kind: Kind) -> QIcon:
    return QIcon(kind_picture(kind, 18))


def _place_icon(place: Place) -> QIcon:
    return QIcon(place_picture(place))


class _Index(QListWidget):
    """What there is, filtered by words."""

    def __init__(self, bench: Workbench) -> None:
        super().__init__()
        self.bench = bench
        self.setObjectName("index-list")
        self.setAccessibleName("Everything in this level")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setDragEnabled(True)
        self.itemActivated.connect(self._choose)
        self.itemClicked.connect(self._choose)
        self.show_matching("")

    def show_matching(self, words: str) -> None:
        """Show what has all the words in its name or sort."""
        self.clear()
        wanted = words.lower().split()
        level = self.bench.level
        many = Counter(thing.kind for thing in level.objects)
        for kind in level.kinds:
            count = f"{many[kind.name]:,} object{'s' if many[kind.name] != 1 else ''}"
            self._add(
                wanted,
                kind.name,
                f"kind, {count}",
                Selection(thing=Thing("kind", kind.name)),
                partial(_kind_icon, kind),
            )
        for place in level.places:
            sort = "area" if isinstance(place, Area) else "route" if isinstance(place, Route) else "spot"
            target = Selection(thing=Thing("place", place.name))
            self._add(wanted, place.name, sort, target, partial(_place_icon, place))
        for clip in level.clips:
            target = Selection(thing=Thing("clip", clip.name))
            self._add(wanted, clip.name, f"clip, {clip.length:g} s", target)
        for trial in level.trials:
            self._add(
                wanted, trial.name, f"trial, {trial.length:g} s", Selection(thing=Thing("trial", trial.name))
            )
        for variant in level.variants:
            self._add(wanted, variant.name, "variant", Selection(thing=Thing("variant", variant.name)))
        for sort in WORD_SORTS:
            for name in known_names(level, sort):
                self._add(wanted, name, sort, Selection(thing=Thing(sort, name)))
        if wanted:
            for thing in level.objects:
                self._add(wanted, thing.name, f"one {thing.kind}", Selection(frozenset({thing.id})))
            for _, _, entry in all_logic(level):
                sort = "graph" if isinstance(entry, Graph) else "rule"
                self._add(wanted, entry.name, sort, Selection(rule=entry.id))
        if self.count() > MOST_LISTED:
            more = QListWidgetItem("… and more; type a part of the name to find it")
            more.setFlags(Qt.ItemFlag.NoItemFlags)
            more.setSizeHint(QSize(0, 26))
            self.addItem(more)
        rows = min(max(self.count(), 1), LONGEST)
        self.setFixedHeight(rows * 26 + 4)

    def _add(
        self,
        wanted: list[str],
        name: str,
        sort: str,
        target: Selection,
        icon: Callable[[], QIcon] = lambda: QIcon(blank_picture()),
    ) -> None:
        text = f"{name}   {sort}"
        if self.count() > MOST_LISTED or not all(word in text.lower() for word in wanted):
            return
        item = QListWidgetItem(icon(), text)
        item.setData(TARGET, target)
        item.setData(NAMED, Named(name, _sort_of(target, sort)))
        item.setForeground(theme().ink)
        item.setSizeHint(QSize(0, 26))
        self.addItem(item)

    def named_at(self, point: QPoint, kind: bool) -> Named | None:
        """Return what the line at a point names, for it to be filled in."""
        item = self.itemAt(self.viewport().mapFrom(self, point))
        named: Named | None = item.data(NAMED) if item is not None else None
        return named

    def startDrag(self, supported: Qt.DropAction) -> None:
        item = self.currentItem()
        named: Named | None = item.data(NAMED) if item is not None else None
        if item is not None and named is not None:
            drag_name(self, named.name, item.icon().pixmap(18, 18))

    def choose_first(self) -> None:
        """Choose the first one shown."""
        if self.count():
            self._choose(self.item(0))

    def _choose(self, item: QListWidgetItem) -> None:
        target: Selection = item.data(TARGET)
        self.bench.select(target)


def _sort_of(target: Selection, sort: str) -> str:
    """Return the sort of name that a line of the index is."""
    if target.rule is not None:
        return "rule"
    return target.thing.sort if target.thing is not None else "object"


def add_kind(bench: Workbench) -> str:
    """Return a new kind, shown in the sheet with its name ready to be typed over; its name."""
    level, name = thing_edits.add_kind(bench.level)
    bench.edit(level, f"add the kind {name}")
    bench.select(Selection(thing=Thing("kind", name)))
    return name


def add_place(bench: Workbench, sort: str) -> None:
    """A new place in the middle of the level."""
    settings = bench.level.settings
    x, y = settings.width / 2, settings.height / 2
    made: dict[str, Place] = {
        "spot": thing_edits.new_spot(x, y),
        "area": thing_edits.new_area(x, y, 160.0, 100.0),
        "route": thing_edits.new_route([(x - 100, y), (x, y + 40), (x + 100, y)]),
    }
    place = made[sort]
    level, name = thing_edits.add_place(bench.level, place)
    bench.edit(level, f"add the {sort} {name}")
    bench.select(Selection(thing=Thing("place", name)))


def add_trial(bench: Workbench) -> None:
    """A new trial, shown."""
    level, name = thing_edits.add_trial(bench.level)
    bench.edit(level, f"add the trial “{name}”")
    bench.choose_trial(name)
    bench.select(Selection(thing=Thing("trial", name)))
