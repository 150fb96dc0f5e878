"""Every command of the window in one table: its name, menu, label, keys, tooltip and what it needs.

The menus, the command finder and the table of keys are made from it. What a command does is given by name when the
window is made (`bound`); a command without a function, or a function without a command, is an error.
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
    """Its menu; after a slash, the submenu."""
    label: str
    """As it stands in the menu; `&` marks its letter there."""
    keys: str | QKeySequence.StandardKey | None = None
    tip: str = ""
    """Its tooltip, where the label is not enough."""
    checkable: bool = False
    one_of: str = ""
    """Of the checkable commands with the same word, one is checked."""
    parted: bool = False
    """Whether a separator stands above it."""
    needs: str = ""
    """What must be selected or shown before it can act (`needs.NEEDS`); nothing for a command that always can."""

    @property
    def plain(self) -> str:
        """Its label without the mark of its letter."""
        return self.label.replace("&", "").replace(" …", "")


STUDIES = "&File/Open a s&tudy"
"""The menu in which the studies stand."""
_PLACES, _ARRANGE = "&Level/New &place", "&Level/&Arrange objects"
_LINES, _GROUP = "R&ule/&Line", "R&ule/&Group the condition"
_CARDS, _OWN = "&Graph/&Cards", "&Graph/Own &nodes"
_PLAY = "&Run/P&lay"
_STOPS, _COMPARE = "&Run/St&ops", "&Ask/&Compare"
_STANDS = "&View/A &graph stands"
_OVER, _ZOOM, _LOOK = "&View/Show &over the level", "&View/&Zoom", "&View/Loo&k"
EDGES = ("left", "right", "top", "bottom", "middle across", "middle up")

COMMANDS: tuple[Command, ...] = (
    Command("new", "&File", "&New level", _Standard.New),
    Command("start page", "&File", "Start &page", "Ctrl+Shift+O"),
    Command("open", "&File", "&Open …", _Standard.Open),
    Command("save", "&File", "&Save", _Standard.Save, parted=True),
    Command("save as", "&File", "Save &as …", "Ctrl+Shift+S"),
    Command(
        "save kit", "&File", "Save a &kit …", tip="Save kinds with their rules, for other levels", parted=True
    ),
    Command("bring kit", "&File", "A&dd a kit …", tip="Add the kinds and rules of a kit to this level"),
    Command(
        "save page",
        "&File",
        "Save the &run as a page …",
        tip="Write the run as one page that any browser shows, for a colleague",
    ),
    Command(
        "compare level",
        "&File",
        "Compare &with …",
        tip="Show what differs from the last save, a version that git keeps, or another level",
        parted=True,
    ),
    Command(
        "settle merge",
        "&File",
        "Settl&e the merge",
        tip="Choose between two versions of what a merge of levels left",
        needs="merge",
    ),
    Command("close", "&File", "&Quit", "Ctrl+Q", parted=True),
    Command("undo", "&Edit", "&Undo", _Standard.Undo),
    Command("redo", "&Edit", "&Redo", "Ctrl+Shift+Z"),
    Command("cut", "&Edit", "Cu&t", _Standard.Cut, "Cut the selection", parted=True),
    Command("copy", "&Edit", "&Copy", _Standard.Copy, "Copy the selection"),
    Command("paste", "&Edit", "&Paste", _Standard.Paste, "Paste what was copied, here or in another level"),
    Command(
        "copy with rules",
        "&Edit",
        "Copy &with its rules",
        "Ctrl+Shift+C",
        "Copy the selected kind with the rules that speak of it",
        needs="kind",
    ),
    Command("duplicate", "&Edit", "&Duplicate", "Ctrl+D", "Duplicate the selection"),
    Command("delete", "&Edit", "De&lete", "Del", "Delete the selection"),
    Command("select all", "&Edit", "Select &all objects", "Ctrl+Shift+A", parted=True),
    Command("index", "&Edit", "&Find in the level", "Ctrl+F"),
    Command("rename", "&Edit", "Re&name everywhere …", "F2"),
    Command("new kind", "&Level", "New &kind", "Ctrl+K"),
    Command(
        "put object",
        "&Level",
        "New &object in the middle",
        "Ctrl+Shift+K",
        "Add an object of the current kind in the middle of the view; arrow keys move it",
    ),
    Command("new spot", _PLACES, "&Spot", "Ctrl+M, S"),
    Command("new area", _PLACES, "&Area", "Ctrl+M, A"),
    Command("new route", _PLACES, "&Route", "Ctrl+M, R"),
    Command("new trial", "&Level", "New &trial", "Ctrl+M, T"),
    Command(
        "new variant",
        "&Level",
        "New &variant",
        tip="Add another setting of rules and variables, to compare with",
    ),
    Command("settings", "&Level", "Level &settings and variables", "Ctrl+M, L", parted=True),
    Command("this trial", "&Level", "The trial's keys and e&xpectations", "Ctrl+M, E"),
    Command(
        "take layout",
        "&Level",
        "Lay out &from a file …",
        tip="Take objects, areas and routes from a drawing (SVG) or a table (CSV); read again, it moves what it placed",
        parted=True,
    ),
    Command(
        "save layout",
        "&Level",
        "Save the la&yout …",
        tip="Write the level as a drawing in layers by kind (SVG), or its objects as a table (CSV)",
    ),
    *(Command(f"align {edge}", _ARRANGE, f"Align: {edge}", needs="objects") for edge in EDGES),
    Command("spread x", _ARRANGE, "Spread evenly across", needs="objects"),
    Command("spread y", _ARRANGE, "Spread evenly up", needs="objects"),
    Command("row", _ARRANGE, "Copies in a ro&w …", "Ctrl+Shift+D", needs="object"),
    Command("ring", _ARRANGE, "Copies in a r&ing …", "Ctrl+M, D", needs="one object"),
    Command("group objects", _ARRANGE, "&Group", "Ctrl+M, G", needs="objects"),
    Command("ungroup objects", _ARRANGE, "&Ungroup", "Ctrl+M, U", needs="object"),
    Command("new rule", "R&ule", "New &rule", "Ctrl+Return"),
    Command("new section", "R&ule", "New &section", "Ctrl+Shift+Return"),
    Command(
        "new behaviour",
        "R&ule",
        "New own &behaviour",
        tip="Add a section whose rules can be given to any kind as a behaviour, with settings",
    ),
    Command("new line", _LINES, "&New line", "Ctrl+L", needs="rule"),
    Command("new else", _LINES, "New &else line", "Ctrl+Shift+L", needs="rule"),
    Command("negate", _LINES, "Ne&gate the condition (not)", "Ctrl+B", needs="rule"),
    Command("group any_of", _GROUP, "a&ny of these", "Ctrl+G", needs="rule"),
    Command("group all_of", _GROUP, "&all of these", "Ctrl+Shift+G", needs="rule"),
    Command("group none_of", _GROUP, "n&one of these", needs="rule"),
    Command("rule on", "R&ule", "Switch on or &off", "Ctrl+T", parted=True),
    Command("rule up", "R&ule", "Move &up", "Alt+Up"),
    Command("rule down", "R&ule", "Move &down", "Alt+Down"),
    Command("unfold", "R&ule", "&Fold or unfold", "Ctrl+."),
    Command(
        "copy with",
        "R&ule",
        "Copy &with …",
        tip="Copy the rule, graph, section or cards, with other kinds, objects, places, variables or messages in it",
        needs="logic or section",
        parted=True,
    ),
    Command(
        "to graph",
        "R&ule",
        "&Convert to a graph",
        tip="Replace the rule by cards and wires; the trace stays the same",
        needs="rule",
        parted=True,
    ),
    Command("new graph", "&Graph", "Ne&w graph", "Ctrl+M, H"),
    Command("open graph", "&Graph", "&Open", "F4", needs="graph"),
    Command("to level", "&Graph", "Put the graph awa&y", "Shift+F4", needs="shown graph"),
    Command("back graph", "&Graph", "Back to the graph that &uses it", "Alt+Left", needs="way back"),
    Command(
        "to rule",
        "&Graph",
        "Con&vert to a rule",
        tip="Replace a graph that is a plain chain by a rule; the trace stays the same",
        needs="graph",
    ),
    Command("type card", _CARDS, "&Type a card", "Ctrl+M, Return", needs="shown graph"),
    Command("find card", _CARDS, "&Find a card", "Ctrl+M, K", needs="shown graph"),
    Command("frame cards", _CARDS, "Put a f&rame around the cards", "Ctrl+M, F", needs="cards"),
    Command("align cards", _CARDS, "&Align the cards", "Ctrl+M, I", needs="cards"),
    Command("tidy cards", _CARDS, "T&idy", "Ctrl+M, Y", needs="shown graph"),
    Command("fold cards", _OWN, "&Fold the cards into an own node", "Ctrl+M, N", needs="cards"),
    Command("unfold card", _OWN, "&Unfold the own node", "Ctrl+M, O", needs="own node"),
    Command("go into", _OWN, "&Open the own node", "Alt+Right", needs="own node"),
    Command("wire earlier", "&Graph", "Run the wire &earlier", "Ctrl+M, Up", needs="wire", parted=True),
    Command("wire later", "&Graph", "Run the wire l&ater", "Ctrl+M, Down", needs="wire"),
    Command("fit graph", "&Graph", "&Show the whole graph", "Ctrl+M, 0", needs="shown graph", parted=True),
    Command("fit cards", "&Graph", "Show the selecte&d cards", "Ctrl+M, 8", needs="cards"),
    Command("save graph", "&Graph", "Export as a &picture or for another program …", needs="shown graph"),
    Command("run", "&Run", "&Run or pause", "Ctrl+R"),
    Command(
        "play keys",
        _PLAY,
        "From the &cursor",
        "Ctrl+P",
        "Play from the cursor with keys and pointer; the trial stays as it is",
    ),
    Command(
        "play start",
        _PLAY,
        "From the &start",
        "Ctrl+Shift+P",
        "Play from the start with keys and pointer; the trial stays as it is",
    ),
    Command("play again", _PLAY, "&Again", "F5", "Play again, from where the last play began"),
    Command(
        "play mark",
        _PLAY,
        "From the &marked stretch",
        "Ctrl+Shift+M",
        "Play from where the stretch begins that is marked on the time axis (drag there with Shift)",
        needs="stretch",
    ),
    Command(
        "loop",
        _PLAY,
        "&Loop the marked stretch",
        "Ctrl+Shift+R",
        "Run the stretch that is marked on the time axis round and round; numbers can be changed meanwhile",
        needs="stretch",
    ),
    Command("keep script", _PLAY, "&Keep the take as this trial's script", needs="take", parted=True),
    Command("keep trial", _PLAY, "Keep the take as a &new trial", needs="take"),
    Command(
        "split bar",
        _PLAY,
        "S&plit the key at the cursor",
        tip="Let the chosen key of the input go at the cursor, and press it again",
        parted=True,
    ),
    Command("show script", _PLAY, "&Back to the script", "Shift+F5", needs="take"),
    Command(
        "start", "&Run", "To the &start", "Ctrl+Home", "To the start: the level as laid out", parted=True
    ),
    Command("back tick", "&Run", "Pre&vious tick", "Ctrl+Left"),
    Command("back firing", "&Run", "Previous f&iring", "Ctrl+Shift+Left"),
    Command("back step", "&Run", "Previous s&tep", "F7", "Previous step: a line or a card"),
    Command("step", "&Run", "Ne&xt step", "F8", "Next step: a line or a card"),
    Command("firing", "&Run", "Next &firing", "Ctrl+Shift+Right"),
    Command("tick", "&Run", "&Next tick", "Ctrl+Right"),
    Command("end", "&Run", "To the &end", "Ctrl+End"),
    Command(
        "try values",
        "&Run",
        "Tr&y values …",
        "Ctrl+Shift+T",
        "Run the trial with several values of a number, side by side",
    ),
    Command(
        "stop at it",
        _STOPS,
        "&Stop here (on/off)",
        "Ctrl+M, P",
        "Pause a run wherever the selected rule fires or the selected card runs",
        needs="logic",
    ),
    Command("stop at", _STOPS, "Stop &when …", tip="Pause a run at the moments that a text describes"),
    Command("next stop", _STOPS, "&Next stop", "F3"),
    Command("previous stop", _STOPS, "&Previous stop", "Shift+F3"),
    Command("stops", _STOPS, "&All stops"),
    Command("ask why", "&Ask", "&Why?", "F9", "Why the selected rule fired at the cursor, or why it did not"),
    Command(
        "ask why not",
        "&Ask",
        "Why &not?",
        "Shift+F9",
        "Why the selected rule did not fire at the cursor",
        needs="logic",
    ),
    Command(
        "ask never",
        "&Ask",
        "Why n&ever?",
        "Ctrl+M, 9",
        "Why the selected rule never fires, and where it came closest",
        needs="logic",
    ),
    Command("ask caused", "&Ask", "What did it c&ause?", "Ctrl+M, C", "What the firing at the cursor led to"),
    Command(
        "ask value", "&Ask", "Why this &value? …", "Ctrl+M, V", "Why a formula has its value at the cursor"
    ),
    Command("answer again", "&Ask", "&Reopen the answer", "Ctrl+M, 3", parted=True),
    Command("answer done", "&Ask", "C&lose the answer", "Ctrl+Backspace", needs="answer"),
    Command("find moment", "&Ask", "&Find a moment …", "Ctrl+M, M", parted=True),
    Command("next of it", "&Ask", "Ne&xt firing of the selection", "Ctrl+M, Right", needs="logic or objects"),
    Command(
        "previous of it",
        "&Ask",
        "&Previous firing of the selection",
        "Ctrl+M, Left",
        needs="logic or objects",
    ),
    Command("beside before", _COMPARE, "With the run &before the last edit", "Ctrl+M, B"),
    Command("beside other", _COMPARE, "With another &trial or variant …", "Ctrl+M, J"),
    Command("beside saved", _COMPARE, "With a &saved trace …"),
    Command("next difference", _COMPARE, "&Next difference", "F6", needs="comparison", parted=True),
    Command("previous difference", _COMPARE, "&Previous difference", "Shift+F6", needs="comparison"),
    Command("beside none", _COMPARE, "&Close the comparison", needs="comparison"),
    Command(
        "expect as now",
        "&Checks",
        "&Expect what the selection did",
        "Ctrl+Shift+E",
        "A rule: to fire as often as it did. Objects: to be where they are at the cursor",
        needs="logic or objects",
    ),
    Command(
        "trials",
        "&Checks",
        "A&ll trials",
        "Ctrl+M, 6",
        "Show or close the page of all trials: run them, and say what must hold",
    ),
    Command(
        "accept order",
        "&Checks",
        "Accept this order of f&iring …",
        tip="Show how the order of firing differs from the accepted one, and accept it",
    ),
    Command("next finding", "&Checks", "&Next finding", "Ctrl+Shift+J", parted=True),
    Command("repair", "&Checks", "&Repair this rule's finding", "Ctrl+J", needs="logic"),
    Command(
        "ask order",
        "&Checks",
        "&Order of rules …",
        "Ctrl+M, W",
        "Rules whose order matters in this run",
        parted=True,
    ),
    Command(
        "ask rates",
        "&Checks",
        "Check at other &tick rates",
        "Ctrl+M, 1",
        "Run the trial at 30, 60 and 120 ticks a second; show what differs first, and why",
    ),
    Command(
        "ask seeds",
        "&Checks",
        "Check with ten &seeds",
        "Ctrl+M, 2",
        "Run the trial with ten seeds; show what differs first, and why",
    ),
    Command(
        "ask coverage",
        "&Checks",
        "What the trials re&ach",
        "Ctrl+M, 4",
        "Run all trials; list and mark what none of them reaches",
    ),
    Command(
        "ask changes",
        "&Checks",
        "Would the trials notice a &change?",
        "Ctrl+M, 5",
        "Change the level a little, many times over; list the changes that no trial notices, and what would",
    ),
    Command(
        "explore",
        "&Checks",
        "What if something else is &pressed?",
        "Ctrl+M, 7",
        "Look for input that breaks what must hold whatever is pressed, ends in a fault, or leaves the level stuck",
    ),
    *(Command(f"overlay {name}", _OVER, label, checkable=True) for name, label in OVERLAYS),
    Command(
        "follow",
        "&View",
        "Follo&w the object",
        tip="Keep the selected object in the middle of the view; F in the level does the same, a drag of the view lets it go",
        needs="one object",
    ),
    Command("snap", "&View", "S&nap to the grid", "Ctrl+Shift+N", checkable=True),
    Command("zoom in", _ZOOM, "Zoom &in", "Ctrl+Shift++", "Make ticks wider"),
    Command("zoom out", _ZOOM, "Zoom &out", "Ctrl+Shift+-", "Make ticks narrower"),
    Command(
        "numbered",
        _ZOOM,
        "To the order of &firing",
        "Ctrl+1",
        "Make ticks wide enough to number the firings in them",
    ),
    Command("fit run", _ZOOM, "To the whole &run", "Ctrl+0"),
    Command("fit level", _ZOOM, "To the whole &level", "Ctrl+9"),
    Command("show sheet", "&View", "&Sheet", "Ctrl+2", checkable=True, parted=True),
    Command(
        "tall sheet",
        "&View",
        "Sheet over the whole h&eight",
        tip="Let the sheet take the lanes' corner too, so that its page needs less scrolling",
        checkable=True,
    ),
    Command("show level", "&View", "Le&vel", "Ctrl+3", checkable=True),
    Command("next part", "&View", "Next &pane", "Ctrl+Tab"),
    Command("previous part", "&View", "P&revious pane", "Ctrl+Shift+Tab"),
    Command("graph beside", _STANDS, "&Beside the level", checkable=True, one_of="graph"),
    Command("graph below", _STANDS, "Be&low the level", checkable=True, one_of="graph"),
    Command("graph instead", _STANDS, "&In the place of the level", checkable=True, one_of="graph"),
    Command("look desktop", _LOOK, "As the &desktop", checkable=True, one_of="look"),
    Command("look light", _LOOK, "&Light", checkable=True, one_of="look"),
    Command("look dark", _LOOK, "D&ark", checkable=True, one_of="look"),
    Command(
        "high contrast",
        _LOOK,
        "&High contrast",
        tip="Colours that stand out more; at first as the desktop asks for",
        checkable=True,
    ),
    Command("tour", "&Help", "First &steps: a tour"),
    Command("catalogue", "&Help", "What &rules can be made of", "Shift+F1"),
    Command("find command", "&Help", "&Find a command", "Ctrl+Shift+F"),
    Command("keys", "&Help", "&Keys and mouse", "F1"),
    Command("about", "&Help", "&About Gatillo"),
)


def by_menu() -> dict[str, list[str]]:
    """Return the names of all commands by the menu or submenu that they are in, in the order of the menus."""
    groups: dict[str, list[str]] = {}
    for command in COMMANDS:
        groups.setdefault(command.menu.replace("&", "").replace("/", " › "), []).append(command.name)
    return groups


def bound(runs: Mapping[str, Run]) -> list[tuple[Command, Run]]:
    """Return every command with what it does, in the table's order.

    Raises TypeError for a command without a function, and for a function without a command.
    """
    names = [command.name for command in COMMANDS]
    if missing := sorted(set(names) - set(runs)):
        raise TypeError(f"these commands do nothing: {missing}")
    if unknown := sorted(set(runs) - set(names)):
        raise TypeError(f"these functions belong to no command: {unknown}")
    return [(command, runs[command.name]) for command in COMMANDS]
