"""New kinds, places, trials and variants, and the pages of the sheet that commands open."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QLineEdit

from gatillo.desk.level_view.object_commands import ObjectCommands
from gatillo.desk.level_view.placement_tools import PlacementTools
from gatillo.desk.session.selection import Selection, Thing, ThingSort
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.level_page import add_kind, add_place, add_trial
from gatillo.desk.sheet.sheet import Sheet
from gatillo.desk.sheet.variant_page import add_variant
from gatillo.desk.window.commands import Run


class ThingCommands:
    """What the Level menu does with things that have a page in the sheet; `to_level` gives the keyboard to the level."""

    def __init__(
        self,
        bench: Workbench,
        sheet: Sheet,
        tools: PlacementTools,
        objects: ObjectCommands,
        to_level: Callable[[], object],
    ) -> None:
        self.bench = bench
        self.sheet = sheet
        self.tools = tools
        self.objects = objects
        self.to_level = to_level
        self._named_next = ""
        """A new kind whose name is being typed."""
        bench.levelChanged.connect(self._arm_named)
        tools.placeDrawn.connect(lambda: self.type_name("place-name"))
        tools.clipRecorded.connect(lambda: self.type_name("clip-name"))

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "new kind": self.new_kind,
            "new spot": lambda: self.new_place("spot"),
            "new area": lambda: self.new_place("area"),
            "new route": lambda: self.new_place("route"),
            "new trial": self.new_trial,
            "new variant": self.new_variant,
            "settings": lambda: self.show("level", ""),
            "this trial": lambda: self.show("trial", self.bench.trial.name),
            "index": self.find_in_level,
        }

    def new_kind(self) -> None:
        """A new kind, its name ready to be typed over."""
        self._named_next = add_kind(self.bench)
        self.type_name("kind-name")

    def _arm_named(self) -> None:
        """A new kind that has just been named is to be placed next."""
        old, thing = self._named_next, self.bench.selection.thing
        if not old or any(k.name == old for k in self.bench.level.kinds):
            return
        self._named_next = ""
        if thing is not None and thing.sort == "kind":
            self.tools.arm(thing.name)

    def new_place(self, sort: str) -> None:
        """A new place, its name ready to be typed over."""
        add_place(self.bench, sort)
        self.type_name("place-name")

    def new_trial(self) -> None:
        """A new trial, its name ready to be typed over."""
        add_trial(self.bench)
        self.type_name("trial-name")

    def new_variant(self) -> None:
        """A new variant, its name ready to be typed over."""
        add_variant(self.bench)
        self.type_name("variant-name")

    def find_in_level(self) -> None:
        """Show the index of the whole level, with the keyboard in its search."""
        self.bench.select(Selection())
        self.type_name("index-search")

    def type_name(self, field: str) -> None:
        """Give the keyboard to a field of the sheet, what is in it ready to be typed over."""
        self.sheet.show()
        line = self.sheet.findChild(QLineEdit, field)
        if line is not None:
            line.setFocus()
            line.selectAll()

    def show(self, sort: ThingSort, name: str) -> None:
        """Open the sheet of something, with the keyboard in its first field."""
        self.bench.select(Selection(thing=Thing(sort, name)))
        self.sheet.show()
        self.sheet.focus_first()

    def put_in_middle(self, kind: str) -> None:
        """Put an object of a kind into the middle of what is seen of the level, with the keyboard there."""
        self.tools.arm(None)
        self.objects.place_in_middle(kind)
        self.to_level()
