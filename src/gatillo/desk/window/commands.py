"""Every command of the window in one table: its name, where it stands, its keys, and what it says of itself.

Menus, the finder of commands and the page of keys read it. What a command does is given by name when the window is put
together (`bound`); a command for which nothing is given, or what is given for no command, is an error then.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PySide6.QtGui import QKeySequence

from gatillo.desk.level_view.overlays import OVERLAYS

Run = Callable[[], object]
_Standard = QKeySequence.StandardKey


@dataclass(frozen=True, slots=True)
class Command:
    """Something that can be asked for in the menus, by keys and in the finder."""

    name: str
    menu: str
    """Its menu, and after a stroke the menu within that."""
    label: str
    """As it stands in the menu; `&` marks its letter there."""
    keys: str | QKeySequence.StandardKey | None = None
    tip: str = ""
    """What it says of itself where its label is not enough."""
    checkable: bool = False
    one_of: str = ""
    """Of several checkable ones with the same word one is checked."""
    parted: bool = False
    """A line parts it from what stands above."""

    @property
    def plain(self) -> str:
        """Its label without the mark of its letter."""
        return self.label.replace("&", "").replace(" …", "")


STUDIES = "&File/Open a &study"
"""The menu in which the studies stand."""
_PLACES, _ARRANGE, _GROUP = "&Level/New &place", "&Level/&Arrange objects", "&Level/&Group the condition"
_OVER = "&View/Show &over the level"
EDGES = ("left", "right", "top", "bottom", "middle across", "middle up")

COMMANDS: tuple[Command, ...] = (
    Command("new", "&File", "&New level", _Standard.New),
    Command("start page", "&File", "S&tart page", "Ctrl+Shift+O"),
    Command("open", "&File", "&Open …", _Standard.Open),
    Command("save", "&File", "&Save", _Standard.Save, parted=True),
    Command("save as", "&File", "Save &as …", "Ctrl+Shift+S"),
    Command("save kit", "&File", "Save a &kit …", parted=True),
    Command("bring kit", "&File", "&Bring in a kit …"),
    Command("close", "&File", "&Close", "Ctrl+Q", parted=True),
    Command("undo", "&Edit", "&Undo", _Standard.Undo),
    Command("redo", "&Edit", "&Redo", "Ctrl+Shift+Z"),
    Command("cut", "&Edit", "Cu&t the rule", _Standard.Cut, parted=True),
    Command("copy", "&Edit", "&Copy the rule", _Standard.Copy),
    Command("paste", "&Edit", "&Paste rules", _Standard.Paste),
    Command("duplicate", "&Edit", "&Duplicate", "Ctrl+D", "Duplicate what is selected"),
    Command("delete", "&Edit", "De&lete", "Del", "Delete what is selected"),
    Command("new kind", "&Level", "New &kind", "Ctrl+K"),
    Command(
        "put object",
        "&Level",
        "Put one of the kind &in the middle",
        "Ctrl+Shift+K",
        "An object of the kind at hand in the middle of what is seen; arrow keys move it",
    ),
    Command("new spot", _PLACES, "&Spot", "Ctrl+Alt+S"),
    Command("new area", _PLACES, "&Area", "Ctrl+Alt+A"),
    Command("new route", _PLACES, "&Route", "Ctrl+Alt+R"),
    Command("new trial", "&Level", "New &trial", "Ctrl+Alt+T"),
    Command(
        "new variant",
        "&Level",
        "New &variant",
        tip="A way to run the level otherwise, to lay beside another run",
    ),
    Command("settings", "&Level", "Level &settings and variables", "Ctrl+Alt+L", parted=True),
    Command("this trial", "&Level", "The trial's keys and e&xpectations", "Ctrl+Alt+E"),
    Command("index", "&Level", "&Find in the level", "Ctrl+F"),
    *(Command(f"align {edge}", _ARRANGE, f"Align: {edge}") for edge in EDGES),
    Command("spread x", _ARRANGE, "Spread evenly across"),
    Command("spread y", _ARRANGE, "Spread evenly up"),
    Command("row", _ARRANGE, "Copies in a ro&w …", "Ctrl+Shift+D"),
    Command("ring", _ARRANGE, "Copies in a r&ing …", "Ctrl+Alt+D"),
    Command("group objects", _ARRANGE, "&Group", "Ctrl+Alt+G"),
    Command("ungroup objects", _ARRANGE, "&Ungroup", "Ctrl+Alt+U"),
    Command("new rule", "&Level", "New r&ule", "Ctrl+Return", parted=True),
    Command("new line", "&Level", "New l&ine in the rule", "Ctrl+L"),
    Command("new else", "&Level", "New &else line in the rule", "Ctrl+Shift+L"),
    Command("new section", "&Level", "New se&ction", "Ctrl+Shift+Return"),
    Command("new graph", "&Level", "New grap&h", "Ctrl+Alt+H"),
    Command(
        "to graph",
        "&Level",
        "Turn the rule into a graph",
        tip="The rule as cards and wires in its place; the trace stays as it was",
    ),
    Command(
        "to rule",
        "&Level",
        "Turn the graph into a rule",
        tip="A graph that is a plain chain as a rule in its place; the trace stays as it was",
    ),
    Command("negate", "&Level", "Turn the condition r&ound (not)", "Ctrl+B"),
    Command("group any_of", _GROUP, "a&ny of these", "Ctrl+G"),
    Command("group all_of", _GROUP, "&all of these", "Ctrl+Shift+G"),
    Command("group none_of", _GROUP, "&none of these"),
    Command("select all", "&Level", "Select &all objects", "Ctrl+Shift+A", parted=True),
    Command("rename", "&Level", "Re&name everywhere …", "F2", parted=True),
    Command("rule on", "&Level", "Switch the rule on or &off", "Ctrl+T"),
    Command("rule up", "&Level", "Move the rule or line u&p", "Alt+Up"),
    Command("rule down", "&Level", "Move the rule or line dow&n", "Alt+Down"),
    Command("unfold", "&Level", "&Fold or unfold", "Ctrl+."),
    Command("open graph", "&Graph", "&Open it beside the level", "F4"),
    Command("to level", "&Graph", "Back to the &level", "Shift+F4"),
    Command("back graph", "&Graph", "Back to the graph that &uses it", "Alt+Left"),
    Command("type card", "&Graph", "T&ype a card", "Ctrl+Alt+Return", parted=True),
    Command("go into", "&Graph", "Go &into the own node", "Alt+Right"),
    Command("fold cards", "&Graph", "Fold the cards into an own &node", "Ctrl+Alt+N"),
    Command("unfold card", "&Graph", "Un&fold the own node here", "Ctrl+Alt+O"),
    Command("frame cards", "&Graph", "Put a f&rame about the cards", "Ctrl+Alt+F"),
    Command("align cards", "&Graph", "&Align the cards", "Ctrl+Alt+I"),
    Command("tidy cards", "&Graph", "&Tidy", "Ctrl+Alt+Y"),
    Command("wire earlier", "&Graph", "Let the wire come &earlier", "Ctrl+Alt+Up", parted=True),
    Command("wire later", "&Graph", "Let the wire come l&ater", "Ctrl+Alt+Down"),
    Command("find card", "&Graph", "Find a &card", "Ctrl+Alt+K", parted=True),
    Command("fit graph", "&Graph", "&Show all of it", "Ctrl+Alt+0"),
    Command("fit cards", "&Graph", "Show the selected cards", "Ctrl+Alt+8"),
    Command("save graph", "&Graph", "Save as a &picture, or for another program …"),
    Command("start", "&Run", "To &start", "Ctrl+Home", "To the start: the level as laid out"),
    Command("back tick", "&Run", "&Back a tick", "Ctrl+Left"),
    Command("back firing", "&Run", "Ba&ck a firing", "Ctrl+Shift+Left"),
    Command("run", "&Run", "&Run or pause", "Ctrl+R"),
    Command("firing", "&Run", "A &firing on", "Ctrl+Shift+Right"),
    Command("back step", "&Run", "Back a s&tep: a line or a card", "F7"),
    Command("step", "&Run", "A &step on: a line or a card", "F8"),
    Command("tick", "&Run", "A &tick on", "Ctrl+Right"),
    Command("end", "&Run", "To &end", "Ctrl+End"),
    Command(
        "play keys",
        "&Run",
        "&Play by keys and record",
        "Ctrl+P",
        "Play from the cursor by keys; what you press is recorded into the trial",
        parted=True,
    ),
    Command("ask why", "&Ask", "&Why?", "F9", "Why the selected rule fired at the cursor, or why it did not"),
    Command(
        "ask why not", "&Ask", "Why &not?", "Shift+F9", "Why the selected rule did not fire at the cursor"
    ),
    Command(
        "ask never",
        "&Ask",
        "Why n&ever?",
        "Ctrl+Shift+F9",
        "Why the selected rule never fires, and where it came closest",
    ),
    Command("ask caused", "&Ask", "What did it &cause?", "Ctrl+F9", "What the firing at the cursor led to"),
    Command("ask value", "&Ask", "Why is a &value what it is? …", "Ctrl+Alt+V"),
    Command("answer again", "&Ask", "Show the &answer again", "Ctrl+Alt+3"),
    Command("answer done", "&Ask", "Put the answer a&way", "Ctrl+Backspace"),
    Command(
        "ask order",
        "&Ask",
        "Whose &turn first?",
        "Ctrl+Alt+W",
        "Entries whose order matters in this run",
        parted=True,
    ),
    Command(
        "ask rates",
        "&Ask",
        "Check at other tick &rates",
        "Ctrl+Alt+1",
        "Run the trial at 30, 60 and 120 ticks a second: what differs first, and why",
    ),
    Command(
        "ask seeds",
        "&Ask",
        "Check with ten &seeds",
        "Ctrl+Alt+2",
        "Run the trial with ten seeds: what differs first, and why",
    ),
    Command(
        "beside before", "&Ask", "Lay the run &before the last edit beside this", "Ctrl+Alt+B", parted=True
    ),
    Command("beside other", "&Ask", "Lay another trial or variant beside this …", "Ctrl+Alt+J"),
    Command("beside saved", "&Ask", "Lay a saved trace beside this …"),
    Command("beside none", "&Ask", "Show this run alone"),
    Command("next difference", "&Ask", "Next difference", "F6"),
    Command("previous difference", "&Ask", "Previous difference", "Shift+F6"),
    Command("find moment", "&Ask", "&Find a moment …", "Ctrl+Alt+M", parted=True),
    Command("next of it", "&Ask", "Next firing of what is selected", "Ctrl+Alt+Right"),
    Command("previous of it", "&Ask", "Previous firing of what is selected", "Ctrl+Alt+Left"),
    Command(
        "stop at it",
        "&Ask",
        "St&op at it, or no more",
        "Ctrl+F8",
        "A run stands still wherever the selected rule fires or the selected card runs",
        parted=True,
    ),
    Command("stop at", "&Ask", "Stop at …", tip="A run stands still at the moments that a text speaks of"),
    Command("next stop", "&Ask", "To the next stop", "Ctrl+F7"),
    Command("previous stop", "&Ask", "To the stop before", "Ctrl+Shift+F7"),
    Command("stops", "&Ask", "The stops"),
    Command(
        "expect as now",
        "&Checks",
        "&Expect what is selected to do as it did",
        "Ctrl+Shift+E",
        "A rule: to fire as often as it did. Objects: to stand where they do at the cursor",
    ),
    Command("next finding", "&Checks", "&Next finding", "Ctrl+Shift+J"),
    Command("repair", "&Checks", "&Repair this rule's finding", "Ctrl+J"),
    *(Command(f"overlay {name}", _OVER, label, checkable=True) for name, label in OVERLAYS),
    Command("snap", "&View", "S&nap to the grid", "Ctrl+Shift+N", checkable=True),
    Command("zoom in", "&View", "Wider &ticks", "Ctrl+Shift++", parted=True),
    Command("zoom out", "&View", "Narrower t&icks", "Ctrl+Shift+-"),
    Command("numbered", "&View", "Ticks wide enough for the &order of firing", "Ctrl+1"),
    Command("fit run", "&View", "The whole &run", "Ctrl+0"),
    Command("fit level", "&View", "The whole &level", "Ctrl+9"),
    Command("show sheet", "&View", "&Sheet", "Ctrl+2", checkable=True, parted=True),
    Command("show level", "&View", "Le&vel", "Ctrl+3", checkable=True),
    Command("next part", "&View", "To the next &part of the window", "Ctrl+Tab"),
    Command("previous part", "&View", "To the part before", "Ctrl+Shift+Tab"),
    Command("look desktop", "&View", "Look: as the &desktop", checkable=True, one_of="look", parted=True),
    Command("look light", "&View", "Look: l&ight", checkable=True, one_of="look"),
    Command("look dark", "&View", "Look: d&ark", checkable=True, one_of="look"),
    Command("tour", "&Help", "First &steps: a tour"),
    Command("catalogue", "&Help", "What &rules can be made of", "Ctrl+F1"),
    Command("find command", "&Help", "&Find a command", "Ctrl+Shift+F"),
    Command("keys", "&Help", "&Keys and pointing", "F1"),
    Command("about", "&Help", "&About Gatillo"),
)


def bound(runs: Mapping[str, Run]) -> list[tuple[Command, Run]]:
    """Every command with what it does, in the table's order.

    Raises TypeError for a command for which nothing is given, and for what is given of which the table knows nothing.
    """
    names = [command.name for command in COMMANDS]
    if missing := sorted(set(names) - set(runs)):
        raise TypeError(f"nothing is done for these commands: {missing}")
    if unknown := sorted(set(runs) - set(names)):
        raise TypeError(f"these are done, but stand in no menu: {unknown}")
    return [(command, runs[command.name]) for command in COMMANDS]
