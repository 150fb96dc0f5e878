"""Cards of graphs: the ports of every catalogue entry, and the cards that only graphs have.

A card's ports are where signals (matches) come in and go out; values come into its slots, and some cards give one.
What the cards of graphs do is in sim/rules/graph_executor.py.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cache, lru_cache
from typing import Literal

from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Slot, choice, number, seconds, slot
from gatillo.catalogue.declare.wording import Wording, check_wordings
from gatillo.formula.compiling import KEEPING
from gatillo.level.graphs import INPUT, OUTPUT, OWN

NUMBERED = "1, 2, 3 …"
"""In the place of outputs: as many as are wired, by number."""
CASES = "case"
"""In the place of outputs: one for each case, by its text, and `else`."""
Gives = Literal["", "number", "yes/no", "text", "any"]


@dataclass(frozen=True, slots=True)
class Ports:
    """Where signals come into a card and go out of it; the first of each needs no name in a wire."""

    inputs: tuple[str, ...] = ("in",)
    outputs: tuple[str, ...] = ("then",)
    gives: Gives = ""
    """The type of value that it gives; `any` where that follows from what it is given."""
    later: tuple[str, ...] = ()
    """Outputs that carry matches in a later tick: a circle may lead over them."""


@dataclass(frozen=True, slots=True)
class Card:
    """A card that only graphs have."""

    name: str
    sentence: str
    help: str
    slots: dict[str, Slot] = field(default_factory=dict)
    ports: Ports = field(default_factory=Ports)
    value: Literal["", "formula", "kept", "count"] = ""
    """What its value is: its own formula's, what it keeps (of the type of its formula), or a count that it keeps."""
    watches: Literal["", "before", "after"] = ""
    """Whether it may do something though nothing reaches it: before a turn's occasions, or after them."""
    holds: Literal["", "conditions"] = ""
    """Whether lines stand within it."""
    wordings: tuple[Wording, ...] = ()
    """Further ways to say its sentence, by which a typed line finds it."""

    @property
    def keeps(self) -> bool:
        """Whether it remembers something for each match."""
        return self.shares or bool(self.watches) or self.name in ("both_come",)

    @property
    def shares(self) -> bool:
        """Whether what it keeps can be kept for all uses of a shared own node together."""
        return self.value in ("kept", "count") or self.name in ("gate", "first_time")


CARDS: dict[str, Card] = {}

FORMULA = "formula"
"""The card that works a value out."""

EACH_MATCH, ALL_MATCHES = "each match", "all matches"
"""For what a card remembers something: for the objects of each match, or once; a role may stand there too."""
_PER = Slot(
    "per", EACH_MATCH, "each match, all matches together, or a role for each of whose objects it is kept"
)


def _card(
    name: str,
    sentence: str,
    help: str,
    ports: Ports,
    /,
    *,
    value_is: Literal["", "formula", "kept", "count"] = "",
    watches: Literal["", "before", "after"] = "",
    holds: Literal["", "conditions"] = "",
    says: tuple[str, ...] = (),
    **slots: Slot,
) -> None:
    if name in CATALOGUE or name in CARDS:
        raise TypeError(f"two cards are called {name}")
    if bool(value_is) != bool(ports.gives):
        raise TypeError(f"nothing says what the value of {name} is")
    wordings = check_wordings(sentence, slots, says)
    CARDS[name] = Card(name, sentence, help, slots, ports, value_is, watches, holds, wordings)
    if value_is in ("kept", "count"):
        KEEPING.add(name)


_card(
    "formula",
    "{value}",
    "Works a value out when a card that is wired to it runs, over the matches that have reached that one.",
    Ports((), (), gives="any"),
    value_is="formula",
    value=slot("value", "0", "any formula"),
    says=(
        "calculate/compute {value}",
        "work out {value}",
        "value {value}",
        "= {value}",
    ),
)
_card(
    "in_order",
    "in order",
    "Hands the same matches to each output, one output after the other.",
    Ports(outputs=(NUMBERED,)),
    says=(
        "one after another/other",
        "in sequence",
        "sequence",
        "run/do in order",
        "one then the other",
        "step by step",
    ),
)
_card(
    "first_time",
    "the first time for {per}",
    "Lets a match through once, until “again” comes for it.",
    Ports(("in", "again")),
    per=_PER,
    says=(
        "only once [for {per}]",
        "only the first time for {per}",
        "once for {per}",
        "[the] first time only",
        "only [the] first time",
        "[only] once per/each {per}",
        "[the] first time per/for-each {per}",
        "just once",
    ),
)
_card(
    "on_change",
    "on change",
    "“begins” for matches that were not there a tick ago, “ends” for those that are there no longer.",
    Ports(outputs=("begins", "ends")),
    watches="after",
    says=(
        "when it changes",
        "changes",
        "begin and end",
        "only when changed",
        "only on [a] change",
        "on becoming true",
    ),
)
_card(
    "gate",
    "a gate for {per}, {start} at first",
    "Lets matches through while it is open; it is opened and closed by what comes in there.",
    Ports(("in", "open", "close")),
    start=choice("closed", "open"),
    per=_PER,
    says=(
        "latch/valve/switch for {per}",
        "[an] {start} gate [for {per}]",
        "open or closed for {per}",
        "[a] gate that starts/begins {start} [for {per}]",
        "gate {start} [for {per}]",
        "let through while open",
    ),
)
_card(
    "count_to",
    "count to {count} for {per}",
    "Counts how often matches come: “before” until the number is reached, then “at” and from 0 again. Its value is the count.",
    Ports(("in", "reset"), ("at", "before"), gives="number"),
    value_is="count",
    count=number("3", "how often"),
    per=_PER,
    says=(
        "counter [up] to {count} [for {per}]",
        "every {count} times",
        "after {count} times [for {per}]",
        "counter {count} [per/for] {per}",
        "count up to {count} [per/for] {per}",
        "count up to {count}",
    ),
)
_card(
    "each",
    "each on its own",
    "Hands on one match after the other along “one”, then all along “done”.",
    Ports(outputs=("one", "done")),
    says=(
        "one by one",
        "one at a time",
        "each alone/separately/individually",
        "for each",
    ),
)
_card(
    "both_come",
    "when both have come",
    "Hands a match on once both inputs have had it in this tick.",
    Ports(("1", "2")),
    says=(
        "wait for both",
        "both inputs",
        "both have come/arrived",
        "join both",
    ),
)
_card(
    "hold",
    "hold {value} for {per}",
    "Keeps a value from tick to tick, for each match's objects or as a whole; 0, no or an empty text before it has one.",
    Ports(gives="any"),
    value_is="kept",
    value=slot("value", "0", "what is kept"),
    per=_PER,
    says=(
        "remember/store/save/memorise {value} [for {per}]",
        "keep [the] value of {value} [for {per}]",
        "hold/latch [the] [value] [of] {value}",
        "remember/store {value} per/for-each {per}",
        "memory of {value}",
        "keep {value} for {per}",
    ),
)
_card(
    "beat",
    "every {period} s",
    "Beats for a match from when it comes, again and again, until “stop” comes for it.",
    Ports(("in", "stop"), ("beat",), later=("beat",)),
    watches="before",
    period=seconds("1", "from one beat to the next"),
    says=(
        "pulse/tick/beat every {period}",
        "repeat every {period}",
        "pulse/tick/beat each {period}",
        "metronome {period}",
    ),
)
_card(
    "switch_by",
    "by {value}: {cases}",
    "Parts the matches by a value: to the output of that case, or to “else”.",
    Ports(outputs=(CASES, "else")),
    value=slot("value", "0", "what they are parted by"),
    cases=slot("entries", "1, 2", "the cases, with commas between"),
    says=(
        "split/sort/part/branch/divide by {value} [into] {cases}",
        "depending on {value} {cases}",
        "switch on/by {value} {cases}",
        "case/cases of {value} {cases}",
        "choose by {value} {cases}",
    ),
)

GATHER, ALL_HOLD, FIRING, ELSE_FIRING = "gather", "all_hold", "firing", "else_firing"
"""Cards for what a rule says of its firings as a whole."""

_card(
    GATHER,
    "all that have come",
    "Keeps what comes in a turn and hands it on together, each match once, when the occasions have had their turn; that is a firing of its own.",
    Ports(),
    says=(
        "collect/merge/gather/join all [that] [comes]",
        "all matches together",
        "gather/collect all [matches] [together]",
        "collect what comes",
        "everything that has come",
        "bring all together",
    ),
)
_card(
    ALL_HOLD,
    "if all of these hold",
    "The conditions and picks within it are looked at one after the other, as those of a rule: “yes” for what passes all, “no” for what fails one.",
    Ports(outputs=("yes", "no")),
    holds="conditions",
    says=(
        "if all/every of these are true",
        "and",
        "if all [are] true",
        "check all of these",
        "all conditions [hold]",
        "if every one of these holds",
    ),
)
_card(
    FIRING,
    "fire {fires} for {per}, rest {rest} s for {rest_per}, {takes}; {meanwhile} while it waits",
    "Lets through what may fire now, and is the beginning of the firing, whether an action follows or not.",
    Ports(),
    fires=choice("each tick", "on becoming true", "first time only"),
    per=choice(ALL_MATCHES, EACH_MATCH),
    rest=seconds("0", "how long it does not fire after it has fired"),
    rest_per=choice(ALL_MATCHES, EACH_MATCH),
    takes=choice("all at once", "one at a time", "one for all"),
    meanwhile=choice("stack", "ignore", "restart"),
    says=(
        "fire only {fires}",
        "cooldown [of] {rest} [for {rest_per}]",
        "rest {rest} [after firing]",
        "limit [the] firing",
    ),
)
_card(
    ELSE_FIRING,
    "else, as a firing of its own",
    "Keeps what comes until what the occasion leads to is over, and then hands it on: a firing of its own, reported as “else”.",
    Ports(),
    says=(
        "otherwise as a firing",
        "else firing",
        "otherwise on its own",
    ),
)


PASS = "pass_on"
"""What is in the place of an own node's inputs and outputs when it runs."""
MATCHES, A_VALUE, A_ROLE = "matches", "a value", "a role"
"""What an input of an own node can carry; an output, matches or a value."""

_card(
    OWN,
    "{graph}",
    "An own node: another graph, put in the place of this card. Its inputs and outputs are this card's.",
    Ports(outputs=(CASES,)),
    graph=slot("own node", "", "the name of a graph with inputs or outputs, and no occasion"),
)
_card(
    INPUT,
    "input {name}: {carries}",
    "An input of an own node: where matches come in, a value, or a role by which its cards name objects.",
    Ports((), ("then",), gives="any"),
    value_is="formula",
    name=slot("entry", "in", "its name, which is the port's"),
    carries=choice(MATCHES, A_VALUE, A_ROLE),
    value=slot("value", "0", "for a value or a role: what it is, or who, when none is given"),
    says=(
        "input [called/named] {name} [as/of] [a/type] {carries}",
        "in/entry/parameter {name}",
        "incoming {name}",
        "takes in {name}",
    ),
)
_card(
    OUTPUT,
    "output {name}: {carries}",
    "An output of an own node: where matches go out, or a value.",
    Ports(("in",), (), gives="any"),
    value_is="formula",
    name=slot("entry", "then", "its name, which is the port's"),
    carries=choice(MATCHES, A_VALUE),
    value=slot("value", "0", "for a value: its formula"),
    says=(
        "out/result/return {name}",
        "outgoing {name}",
        "gives out {name}",
    ),
)
_card(PASS, "hand on", "Hands on what comes: an input or an output of an own node in its place.", Ports())


def _not_as_a_line(*given: object) -> None:
    raise AssertionError("a card that only graphs have is no line of the catalogue")


CARD_ENTRIES: dict[str, Entry] = {
    card.name: Entry(
        card.name,
        "action",
        "flow",
        card.sentence,
        card.help,
        card.slots,
        _not_as_a_line,
        wordings=card.wordings,
    )
    for card in CARDS.values()
    if card.name not in (OWN, PASS)
}
"""The cards as catalogue entries: sentences with slots, to be typed, shown and edited."""


def sentence_of(use: str) -> Entry | None:
    """Return the sentence and slots of a card, whether the catalogue has it or only graphs do."""
    return CATALOGUE.get(use) or CARD_ENTRIES.get(use)


def ports_of_entry(entry: Entry) -> Ports:
    """Return the ports of a catalogue entry's card."""
    if entry.group == "occasion":
        return Ports(())
    if entry.group == "condition":
        return Ports(outputs=("yes", "no"))
    if entry.group == "pick":
        return Ports(outputs=("kept", "rest"))
    if entry.derived.waits:
        return Ports(outputs=("then", "after"), later=("after",))
    return Ports()


@cache
def ports_of(use: str) -> Ports | None:
    """Return the ports of a card by what it uses; None for what is no card."""
    if use in CARDS:
        return CARDS[use].ports
    entry = CATALOGUE.get(use)
    if entry is None or entry.group == "behaviour":
        return None
    return ports_of_entry(entry)


@lru_cache(maxsize=1_000)
def cases_of(text: str) -> tuple[str, ...]:
    """Return the cases of a card that parts matches by a value."""
    return tuple(dict.fromkeys(part.strip() for part in text.split(",") if part.strip()))


def find_output(ports: Ports, port: str, cases: tuple[str, ...] = ()) -> str | None:
    """Return the output that a wire's end names; None where there is no such one."""
    if port in ports.outputs and port not in (NUMBERED, CASES):
        return port
    if not port and len(ports.outputs) == 1 and ports.outputs[0] not in (NUMBERED, CASES):
        return ports.outputs[0]
    if NUMBERED in ports.outputs:
        named = port or "1"
        return str(int(named)) if named.isdecimal() and len(named) <= 4 and 1 <= int(named) <= 1_000 else None
    names = tuple(n for name in ports.outputs for n in (cases if name == CASES else (name,)))
    return _found(names, port)


def find_input(ports: Ports, port: str) -> str | None:
    """Return the input that a wire's end names; None where there is no such one."""
    return _found(ports.inputs, port)


def _found(names: tuple[str, ...], port: str) -> str | None:
    if not port:
        return names[0] if names else None
    return port if port in names else None
