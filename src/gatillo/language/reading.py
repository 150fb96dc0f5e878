"""Reading a typed line: which sentences of the catalogue it may be, with their slots filled in, and what of it was not read.

A line is laid along the sentence and the further wordings of each entry (alignment.py); what its words make in slots is in
slot_fits.py. A line that says several lines of a rule is read in rule_lines.py.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import NamedTuple

from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES, FORMULA
from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Group, Slot
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.catalogue.declare.slot_types import WRITABLE
from gatillo.catalogue.declare.subjects import in_order
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.language.alignment import UNREAD, Alignment, Line, align
from gatillo.language.binding import bind
from gatillo.language.fits import PRONOUN, Missing
from gatillo.language.formula_fits import FormulaFits
from gatillo.language.level_names import names_of
from gatillo.language.likely import likelihood
from gatillo.language.slot_fits import MOST_NAME_WORDS, SlotFits
from gatillo.language.typed_words import TypedWord, split_words
from gatillo.language.wordings import Pattern, pattern_index
from gatillo.level.edits import Part
from gatillo.level.graphs import OUTPUT, OWN
from gatillo.level.model import Clause, Graph, Value
from gatillo.level.naming import name_problem, token
from gatillo.level.roles import Index, all_logic

PART_OF: dict[Group, Part] = {"occasion": "when", "condition": "if", "pick": "if", "action": "do"}
GROUPS_OF: dict[Part, tuple[Group, ...]] = {
    "when": ("occasion",),
    "if": ("condition", "pick"),
    "do": ("action",),
    "else": ("action",),
}

_CONTINUING = 0.05
_LATER_PART = 0.1
_WORST = 2.6
_OTHER_PART = 0.6
"""What it costs to take an occasion for a condition, or the other way round, against the word before it."""
_ASKS = 0.5
_LIKELY = 8
"""How many of the likeliest sentences come first where nothing is typed yet."""
_GOOD, _NEAR = 0.5, 1.6
"""Beside a reading that costs less than the first, those are looked at that cost at most so much more."""
_COMMANDS = ("let", "make")
_MOST_WORDS = 40
MARKERS: dict[str, Part | None] = {
    "when": "when",
    "whenever": "when",
    "once": "when",
    "on": "when",
    "upon": "when",
    "as soon as": "when",
    "every time": "when",
    "each time": "when",
    "if": "if",
    "only if": "if",
    "provided": "if",
    "unless": "if",
    "and": None,
    "and if": "if",
    "or": None,
    "or when": "when",
    "while": None,
    "as long as": None,
    "do": "do",
    "then": "do",
    "and then": "do",
    "else": "else",
    "otherwise": "else",
    "or else": "else",
    "if not": "if",
}
"""Words that say at the start of a line which part of a rule it is; None where they do not."""
_MARKER = re.compile(rf"\s*({'|'.join(sorted(MARKERS, key=len, reverse=True))})\b[:,]?\s*", re.IGNORECASE)
_CONTINUES = ("while", "as long as")
_MAYBE_OWN: dict[str, tuple[Part, ...]] = {
    "on": (),
    "once": (),
    "or": (),
    "and": (),
    "do": ("do", "else"),
    "then": ("do", "else"),
    "otherwise": ("do", "else"),
    "if": ("do", "else"),
}
"""Markers with which a sentence itself may begin, and the parts in which it then is; () for any."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A name in a reading that the level lacks: what was typed, and what may be meant."""

    slot: str
    typed: str
    make: str = ""
    """What can be made of that name: “kind”, “object”, “spot”, “area”, “route”, “level variable”, “kind variable”, “message”, “item” …"""
    owner: str = ""
    """For a variable: the role before its dot, "level" for the level."""
    filled: str = ""
    """For a name that was only begun: the name that the slot has been given. Such an offer needs no answer."""
    accepted: bool = False
    """Whether it was chosen to make that name."""

    def nearest(self, index: Index, entry: Entry) -> list[str]:
        """Return the existing names that look most like it, as the slot writes them."""
        if self.filled:
            return [self.filled]
        slot = entry.slots.get(self.slot)
        return nearest_names(index, slot, self) if slot is not None else []


def nearest_names(index: Index, slot: Slot, offer: Offer) -> list[str]:
    """Return the existing names that look most like the name that an offer is about, as a slot writes them."""
    names = names_of(index)
    if offer.make.endswith("variable") or slot.kind.holds in ("variable", "formula"):
        return names.near_variable(offer.typed.rpartition(".")[2], offer.owner)
    return names.table(slot).near(offer.typed)


@dataclass(frozen=True, slots=True)
class Reading:
    """A sentence that a typed line may be, or several lines of a rule. Lower cost is the better reading."""

    clause: Clause
    part: Part
    cost: float
    unread: tuple[str, ...] = ()
    """Typed words that have no place in it."""
    offers: tuple[Offer, ...] = ()
    remark: str = ""
    """What should be known of it, such as an amount in each tick."""
    lines: tuple[Reading, ...] = ()
    """The readings of its lines, if it is several lines of a rule; its clause and part are those of the first."""

    @property
    def entry(self) -> Entry:
        """The entry whose sentence it is."""
        if self.clause.use == OWN:
            return own_entry(self.clause.slots["graph"])
        return CATALOGUE.get(self.clause.use) or CARD_ENTRIES[self.clause.use]

    @property
    def label(self) -> str:
        """The small word before it."""
        if self.clause.use == OWN:
            return "own node"
        return "card" if self.clause.use in CARD_ENTRIES else self.part

    @property
    def all_lines(self) -> tuple[Reading, ...]:
        """Its lines; itself, if it is one."""
        return self.lines or (self,)

    def questions(self, index: Index) -> list[Offer]:
        """Return the offers that need an answer before it is taken: names nearly like others, and those that cannot be made."""
        return [
            offer
            for line in self.all_lines
            for offer in line.offers
            if not (offer.filled or offer.accepted) and (not offer.make or offer.nearest(index, line.entry))
        ]

    @property
    def all_unread(self) -> tuple[str, ...]:
        """The words that are not read in any of its lines."""
        return (*self.unread, *(word for line in self.lines for word in line.unread))

    def new_variables(self, index: Index) -> list[tuple[str, str, Value]]:
        """Variables that it names and the level lacks: owner (`level` or a kind), name, and what it starts with."""
        found: list[tuple[str, str, Value]] = []
        for line in self.all_lines:
            found += _new_variables(index, line)
        return list(dict.fromkeys(found))

    def empty_slots(self) -> list[str]:
        """Slots still to be filled."""
        return [
            name
            for name, slot in self.entry.slots.items()
            if not self.clause.slots.get(name, slot.default) and not slot.kind.optional
        ]


def _new_variables(index: Index, reading: Reading) -> list[tuple[str, str, Value]]:
    found: list[tuple[str, str, Value]] = []
    for name, slot in reading.entry.slots.items():
        owner, dot, variable = reading.clause.slots.get(name, "").rpartition(".")
        if slot.kind.holds == "variable" and dot and _is_new(index, owner, variable):
            value = reading.clause.slots.get("value", "")
            yes_no = slot.kind.gives == "yes/no" or value in ("yes", "no")
            text = not slot.kind.gives and value.startswith('"')
            found.append((_kind_of(index, owner), variable, False if yes_no else "" if text else 0.0))
    for offer in reading.offers:
        slot_ = reading.entry.slots.get(offer.slot)
        if slot_ is not None and slot_.kind.holds == "formula" and offer.make.endswith("variable"):
            wanted = slot_.kind.gives == "yes/no" and reading.clause.slots.get(offer.slot, "").endswith(
                offer.typed
            )
            found.append((_kind_of(index, offer.owner), offer.typed, False if wanted else 0.0))
    return found


def _kind_of(index: Index, owner: str) -> str:
    """Return the kind that a role's new variable would belong to; `level` for the level's."""
    role = index.role(owner)
    return (
        role.kinds[0]
        if role is not None and owner not in index.kinds and owner != "level" and role.kinds
        else owner
    )


def _is_new(index: Index, owner: str, variable: str) -> bool:
    if name_problem(variable) or variable in WRITABLE:
        return False
    if owner == "level":
        return token(variable) not in index.level_tokens
    role = index.role(owner)
    if role is None or len(role.kinds) != 1:
        return False
    return token(variable) not in {token(v.name) for v in index.kinds[role.kinds[0]].variables}


class _Way(NamedTuple):
    """One way to take a line: its words without what marks its part, and what that mark says."""

    text: str
    parts: tuple[Part, ...]
    negated: bool = False
    continues: bool = False
    more: float = 0.0
    marked: bool = False


def readings(
    index: Index,
    text: str,
    parts: Iterable[Part] = ("when", "if", "do"),
    *,
    here: Iterable[str] = (),
    most: int = 12,
    cards: bool = False,
    after: str = "",
    ended: bool = True,
) -> list[Reading]:
    """Return the best readings of a typed line as one sentence, best first.

    It may begin with `when`, `if`, `do` or `else`, which then says the part; *not* and the like turn a condition round.
    With `cards` it may also be a card that only graphs have, or an own node by its name. With no words, every sentence that
    may stand there is given: first those that are likeliest after the line or card `after`, then all, part by part, in the order
    of subjects. A line that is only a name gives the sentences that can speak of it, likeliest first. `here` are the roles that
    the rule speaks of already: they are preferred. `ended` is false for a piece of a line: its last word is whole, and nothing
    is still to be typed.
    """
    allowed, known = tuple(parts), tuple(here)
    if not text.strip():
        return _everything(index, allowed, known, cards, after)
    found: dict[tuple[object, ...], Reading] = {}
    if cards and "do" in allowed:
        for reading in _own_nodes(index, text, allowed.index("do") * _LATER_PART):
            found["do", OWN, False, reading.clause.slots["graph"]] = reading
    for way in _ways(text, allowed):
        if way.more >= _OTHER_PART and any(r.cost < _GOOD and not r.unread for r in found.values()):
            # what the word before it says has been found
            continue
        for reading in _read(index, way, known, cards, ended):
            clause = reading.clause
            key = (
                reading.part,
                clause.use,
                clause.negated,
                clause.slots.get("graph") if clause.use == OWN else None,
            )
            if key not in found or reading.cost < found[key].cost:
                found[key] = reading
    if ended and all(reading.cost > _ASKS + 1 or reading.unread for reading in found.values()):
        about = _about(index, text.strip(), allowed, known, cards, after)
        if about:
            return about[:most]
    ordered = sorted(found.values(), key=lambda r: r.cost)
    return [r for r in ordered[:most] if r.cost <= ordered[0].cost + _WORST]


def _own_nodes(index: Index, text: str, more: float) -> list[Reading]:
    """Return the own nodes whose name a line is, or begins."""
    typed = text.strip().lower()
    return [
        Reading(
            Clause(use=OWN, slots={"graph": name}), "do", more - 0.1 if typed == name.lower() else more + 0.2
        )
        for name in own_nodes_of(index)
        if name.lower().startswith(typed)
    ]


def _everything(
    index: Index, parts: tuple[Part, ...], here: tuple[str, ...], cards: bool, after: str
) -> list[Reading]:
    """Return every sentence that may stand in some parts: the likeliest first, then all by subject."""
    found = [
        Reading(
            Clause(use=entry.name, slots={"graph": entry.sentence} if entry.name == OWN else {}), part, 0.0
        )
        for part in parts
        for entry in (*CATALOGUE.values(), *(_cards_of(index) if cards and part == "do" else ()))
        if entry.group in GROUPS_OF[part]
    ]
    chance = likelihood(index, after)
    first_part = {use for use, entry in CATALOGUE.items() if entry.group in GROUPS_OF[parts[0]]}
    # what follows nothing directly is the likelier for being of the first part
    chance = {use: many if many >= 1 or use in first_part else many / 10 for use, many in chance.items()}
    by_subject = sorted(found, key=lambda r: (parts.index(r.part), in_order(r.entry.subject)))
    likely = sorted(
        (r for r in by_subject if chance.get(r.clause.use, 0.0) > 0 and r.clause.use != OWN),
        key=lambda r: -chance[r.clause.use],
    )[:_LIKELY]
    first = [_with_roles(index, reading, here) for reading in likely]
    return [*first, *(r for r in by_subject if r not in likely)]


def _with_roles(index: Index, reading: Reading, here: tuple[str, ...]) -> Reading:
    """Return a reading whose empty slots for objects are filled with the roles at hand: the last for the only one."""
    known = [text for text in here if index.role(text) is not None]
    wanted = [
        n
        for n, s in reading.entry.slots.items()
        if s.kind.holds == "role" and not s.default and s.type == "role"
    ]
    if not known or not wanted:
        return reading
    filling = [known[-1]] if len(wanted) == 1 else list(dict.fromkeys([*known[:1], known[-1]]))
    slots = dict(zip(wanted, filling, strict=False))
    return replace(reading, clause=Clause(use=reading.clause.use, slots=slots))


def _about(
    index: Index, text: str, parts: tuple[Part, ...], here: tuple[str, ...], cards: bool, after: str
) -> list[Reading]:
    """Return the sentences that can speak of what a line names, likeliest first; [] if it is not just a name."""
    words = split_words(text)
    if not words or len(words) > MOST_NAME_WORDS:
        return []
    fits = SlotFits(index, text, words, here)
    chance = likelihood(index, after)
    found: list[Reading] = []
    for part in parts:
        for entry in (*CATALOGUE.values(), *(CARD_ENTRIES.values() if cards and part == "do" else ())):
            if entry.group not in GROUPS_OF[part]:
                continue
            for name, slot in entry.slots.items():
                if slot.kind.holds in ("text", "formula", "given", "entries") or slot.options:
                    continue
                fit = fits.fit(slot, 0, len(words), after_verb=False)
                if fit is not None and not fit.missing and not fit.begun and fit.text != PRONOUN:
                    clause = Clause(use=entry.name, slots={name: fit.text})
                    found.append(Reading(clause, part, 2.0 - min(chance.get(entry.name, 0.0), 100.0) / 100))
                    break
    return sorted(found, key=lambda r: r.cost)


def _cards_of(index: Index) -> list[Entry]:
    return [*CARD_ENTRIES.values(), *map(own_entry, own_nodes_of(index))]


def _ways(text: str, allowed: tuple[Part, ...]) -> list[_Way]:
    """Return the ways to take a line: with and without what marks its part, and turned round where it says *not*."""
    ways: list[_Way] = []
    marked = _MARKER.match(text)
    if marked is None:
        ways.append(_Way(text, allowed))
    else:
        word = marked.group(1).lower()
        part = MARKERS[word]
        rest = text[marked.end() :]
        said: tuple[Part, ...] = (part,) if part is not None else allowed
        if word in _CONTINUES:
            said = ("when", "if")
        if word == "and" and allowed == ("when", "if", "do"):
            said = ("if", "do", "when")
        if rest.strip():
            ways.append(_Way(rest, said, word in ("unless", "if not"), word in _CONTINUES, marked=True))
            if said == ("when",) and ("if" in allowed or len(allowed) == 1):
                ways.append(_Way(rest, ("if",), more=_OTHER_PART, marked=True))
            elif said == ("if",) and ("when" in allowed or len(allowed) == 1) and word == "if":
                ways.append(_Way(rest, ("when",), more=_OTHER_PART, marked=True))
        if word in _MAYBE_OWN or not rest.strip():
            own = tuple(p for p in allowed if not _MAYBE_OWN.get(word) or p in _MAYBE_OWN[word])
            ways.append(_Way(text, own, more=0.05))
    for way in tuple(ways):
        turned = _without_negation(way.text)
        if turned is not None and "if" in way.parts:
            ways.append(_Way(turned, ("if",), not way.negated, way.continues, way.more + 0.02, way.marked))
    return ways


def _sets(text: str) -> bool:
    """Return whether a line has a plain sign of equality."""
    return re.search(r"(?<![<>=!+\-*/])=(?!=)", text) is not None


def _without_negation(text: str) -> str | None:
    """Return a line without its one *not*, *never*, *without* or *no longer*; None if it has none, or several."""
    words = split_words(text)
    found = [n for n, w in enumerate(words) if w.plain in _NEGATING or _no_longer(words, n)]
    if found and found[0] > 0 and words[found[0] - 1].plain in _IN_FORMULA:
        return None
    if len(found) != 1:
        return None
    first = words[found[0]]
    last = words[found[0] + 1] if _no_longer(words, found[0]) else first
    end = last.end + (1 if text[last.end : last.end + 1] == ":" else 0)
    instead = "has " if first.plain == "without" else ""
    return (
        f"{text[: first.start]}{instead}{text[end:].lstrip()}"
        if instead
        else f"{text[: first.start]}{text[end:]}"
    )


_NEGATING = ("not", "never", "without")
_IN_FORMULA = ("=", "and", "or", "<>")


def _no_longer(words: tuple[TypedWord, ...], n: int) -> bool:
    return words[n].plain == "no" and n + 1 < len(words) and words[n + 1].plain == "longer"


def _read(index: Index, way: _Way, here: tuple[str, ...], cards: bool, ended: bool) -> list[Reading]:
    words = split_words(way.text)[:_MOST_WORDS]
    if not words:
        return []
    fits = SlotFits(index, way.text, words, here)
    line = Line(fits, ended=ended)
    groups: dict[Group, list[tuple[int, Part]]] = {}
    for place, part in enumerate(way.parts):
        for group in GROUPS_OF[part]:
            groups.setdefault(group, []).append((place, part))
    best: dict[str, Alignment] = {}
    cheapest = UNREAD * len(words)
    for pattern in _candidates(line):
        entry = pattern.entry
        if entry.group not in groups or (entry.name in CARD_ENTRIES and not cards):
            continue
        if pattern.negated and entry.group != "condition":
            continue
        key = f"{entry.name}{pattern.negated}"
        far = _NEAR if cheapest < _GOOD else _WORST + 0.5
        limit = min(cheapest + far, best[key].cost if key in best else UNREAD * 99)
        laid = align(pattern, line, limit)
        if laid is None or (not pattern.content and _is_a_guess(laid, way)):
            continue
        best[key] = laid
        cheapest = min(cheapest, laid.cost)
    made: list[Reading] = []
    for laid in best.values():
        entry = laid.pattern.entry
        for place, part in groups[entry.group]:
            more = way.more + _LATER_PART * place
            if entry.name == FORMULA and not laid.pattern.content:
                # a bare word is more often the beginning of a sentence
                more += _ASKS
            if entry.continuing and not way.continues:
                more += _CONTINUING
            if not way.marked and part == "if" and _sets(way.text) and "do" in way.parts:
                # “pods = 5” alone sets; after “if” it compares
                more += _ASKS
            if entry.group != "action" and line.plain[0] in _COMMANDS:
                more += _ASKS
            if way.continues and entry.group == "occasion" and not entry.continuing:
                more += _ASKS
            made.append(_made(index, laid, line, words, part, way, more, here))
    return made


def _is_a_guess(laid: Alignment, way: _Way) -> bool:
    """Whether words that name nothing would be taken for a formula, without a sign that they are one."""
    if not any(fit.missing for _, fit in laid.fits):
        # “no” alone is no condition, if nothing says that it is one
        return not way.marked and any(fit.text in ("yes", "no") for _, fit in laid.fits)
    formula_like = way.parts == ("if",) or re.search(r"[.=<>(*/+]", way.text) is not None
    return not formula_like or len(laid.fits) < len(laid.pattern.pieces)


def _candidates(line: Line) -> list[Pattern]:
    """Return the patterns of which a word is typed, and those that are nearly all slots."""
    patterns = pattern_index()
    found: dict[int, Pattern] = {id(p): p for p in patterns.wordless}
    for word in line.all_likes:
        for pattern in patterns.by_word.get(word, ()):
            found[id(pattern)] = pattern
    # those of which most is typed come first: what costs much more than they is not looked at to the end
    return sorted(found.values(), key=lambda p: len(p.content) - 2 * line.met_words(p))


def _made(
    index: Index,
    laid: Alignment,
    line: Line,
    words: tuple[TypedWord, ...],
    part: Part,
    way: _Way,
    more: float,
    here: tuple[str, ...],
) -> Reading:
    entry = laid.pattern.entry
    slots: dict[str, str] = {}
    offers: list[Offer] = []
    unread = [words[j].text for j in laid.unread]
    remark = ""
    cost = laid.cost + more
    for name, fit in laid.fits:
        slot, text = entry.slots[name], fit.text
        if text == PRONOUN and slot.kind.holds in ("role", "where"):
            text = here[-1] if here else PRONOUN
        if (
            slot.kind.holds == "role"
            and not slot.kind.all_matches
            and text in slots.values()
            and text != PRONOUN
        ):
            # a second role of one kind is distinguished
            other = f"another {text.removeprefix('any ')}"
            if index.role(other) is not None:
                text = other
        slots[name] = text
        offers += [
            Offer(name, m.typed, m.make, m.owner) for m in fit.missing if _is_missing(index, entry, name, m)
        ]
        offers += [Offer(name, typed, "", "", filled) for typed, filled in fit.begun]
        remark = remark or fit.remark
    _fill_by_wording(laid.pattern, slots)
    cost += _of_one_type(index, entry, slots, offers)
    ordered = {name: slots[name] for name in ("graph", *entry.slots) if name in slots}
    negated = way.negated != laid.pattern.negated
    clause = Clause(use=entry.name, slots=ordered, negated=negated)
    return Reading(clause, part, cost, tuple(unread), tuple(offers), remark)


def _is_missing(index: Index, entry: Entry, slot: str, missing: Missing) -> bool:
    """Whether a name is really missing: a free one, such as of a message, may be there already; a card names its own ports."""
    if entry.name in CARD_ENTRIES and entry.slots[slot].type == "entry":
        return False
    known = names_of(index).table(entry.slots[slot]).exact if entry.slots[slot].kind.holds == "name" else {}
    return missing.typed.lower() not in known


def _fill_by_wording(pattern: Pattern, slots: dict[str, str]) -> None:
    """Fill the slots that a wording's own words fill: a number is worked out, a formula put in brackets."""
    typed = {name: slot.default for name, slot in pattern.entry.slots.items() if slot.default} | slots
    for name, template in pattern.filled.items():
        named = re.findall(r"\{(\w+)\}", template)
        if any(n not in typed for n in named):
            continue
        text = template
        for n in named:
            inner = typed[n]
            plain = re.fullmatch(r"[\w.]+", inner) or template == f"{{{n}}}"
            text = text.replace(f"{{{n}}}", inner if plain else f"({inner})")
        sum_ = re.fullmatch(r"(-?\d+(?:\.\d+)?) ([-+/*]) (\d+(?:\.\d+)?)", text)
        if sum_:
            left, right = float(sum_[1]), float(sum_[3])
            worked = {
                "+": left + right,
                "-": left - right,
                "*": left * right,
                "/": left / right if right else 0.0,
            }[sum_[2]]
            text = f"{worked:.12g}" if sum_[2] != "/" or right else text
        slots[name] = text.removeprefix("--")


def _of_one_type(index: Index, entry: Entry, slots: dict[str, str], offers: list[Offer]) -> float:
    """Let a value be of its variable's type: a word for a text variable is a text. Return what it costs if it is not."""
    variable = next((n for n, s in entry.slots.items() if s.kind.holds == "variable"), None)
    value = next((n for n, s in entry.slots.items() if s.type == "value"), None)
    if variable is None or value is None or variable not in slots or value not in slots:
        return 0.0
    owner, _, name = slots[variable].rpartition(".")
    if owner == "level":
        known = index.level_tokens.get(token(name))
    else:
        found = names_of(index).variable_of(owner, name)
        known = found[1] if found is not None else None
    text = slots[value]
    if known == "text" and re.fullmatch(r"[^\W\d]\w*", text) and any(o.slot == value for o in offers):
        slots[value] = f'"{text}"'
        offers[:] = [o for o in offers if o.slot != value]
        return -0.7
    if known == "number" and text in ("yes", "no"):
        return 0.5
    return 0.0


def own_nodes_of(index: Index) -> list[str]:
    """Return the own nodes of a level, by their names."""
    return [e.name for _, _, e in all_logic(index.level) if isinstance(e, Graph) and is_own_node(e)]


def own_entry(name: str) -> Entry:
    """Return an own node as a sentence: its name."""
    return replace(
        CARD_ENTRIES[OUTPUT],
        name=OWN,
        sentence=name,
        help="An own node of this level.",
        slots={},
        wordings=(),
    )


def written_out(index: Index, formula: str) -> str:
    """Return a formula with its names as the level writes them, and those that are begun written to their end."""
    text = formula.strip()
    fits = FormulaFits(index, text, (), ())
    for tried in (text, fits.cased(text), fits.written_out(text)):
        try:
            compile_formula(index, tried)
        except FormulaError:
            continue
        return tried
    return text


def runs(index: Index, reading: Reading) -> str:
    """Return what keeps a reading from running as it stands; empty if nothing does."""
    for line in reading.all_lines:
        group = "occasion" if line.part == "when" else "condition" if line.part == "if" else "action"
        problems = bind(index, line.clause, group).problems  # type: ignore[arg-type]
        if problems:
            return problems[0].message
    return ""
