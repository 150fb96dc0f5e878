"""Reading a typed line: which sentences of the catalogue it may be, with their slots filled in.

The typed words are laid along each sentence: a word of the sentence may be met, nearly met or left out, a
slot takes the words that fit it, and what fits nowhere counts against the reading. The cheapest ways of
laying them are the best readings (alignment by dynamic programming: Needleman & Wunsch, J. Mol. Biol. 48
(1970), 443).
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from difflib import SequenceMatcher
from functools import lru_cache
from operator import ne

from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES
from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Group, Slot
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.catalogue.declare.slot_types import WRITABLE, variables_for
from gatillo.catalogue.declare.subjects import in_order
from gatillo.formula.compiling import compile_formula
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError
from gatillo.language.binding import bind
from gatillo.language.choices import choices
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

_LEFT_OUT = 0.35
_SMALL_LEFT_OUT = 0.06
_EMPTY_SLOT = 0.55
_DEFAULT_SLOT = 0.25
_TO_COME = 0.12
_STRAY = 1.7
_CONTINUING = 0.6
_LATER_PART = 0.35
_TURNED = 0.6
_NEW_VARIABLE = 0.5
_NEW_INSTEAD = 0.05
_WORST = 2.6
_MOST_WORDS = 24
_NEVER = float("inf")
_SMALL = frozenset(
    [
        "the",
        "a",
        "an",
        "is",
        "are",
        "of",
        "at",
        "to",
        "by",
        "on",
        "in",
        "for",
        "with",
        "it",
        "s",
        "and",
        "let",
        "be",
        "begins",
    ]
)


@dataclass(frozen=True, slots=True)
class Reading:
    """A sentence that a typed line may be. Lower cost is the better reading."""

    clause: Clause
    part: Part
    cost: float

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

    def new_variables(self, index: Index) -> list[tuple[str, str, Value]]:
        """Variables that it names and the level lacks: owner (`level` or a kind), name, and what it starts with."""
        found: list[tuple[str, str, Value]] = []
        for name, slot in self.entry.slots.items():
            owner, dot, variable = self.clause.slots.get(name, "").rpartition(".")
            if slot.kind.holds == "variable" and dot and _is_new(index, owner, variable):
                value = self.clause.slots.get("value", "")
                yes_no = slot.kind.gives == "yes/no" or value in ("yes", "no")
                text = not slot.kind.gives and value.startswith('"')
                found.append((owner, variable, False if yes_no else "" if text else 0.0))
        return found

    def empty_slots(self) -> list[str]:
        """Slots still to be filled."""
        return [
            name
            for name, slot in self.entry.slots.items()
            if not self.clause.slots.get(name, slot.default) and not slot.kind.optional
        ]


def _is_new(index: Index, owner: str, variable: str) -> bool:
    if name_problem(variable) or variable in WRITABLE:
        return False
    if owner == "level":
        return token(variable) not in index.level_tokens
    return owner in index.kinds and token(variable) not in {
        token(v.name) for v in index.kinds[owner].variables
    }


@dataclass(frozen=True, slots=True)
class _Word:
    text: str
    start: int
    end: int

    @property
    def plain(self) -> str:
        return self.text.lower().strip('.,;:"“”')


def readings(
    index: Index,
    text: str,
    parts: Iterable[Part] = ("when", "if", "do"),
    *,
    here: Iterable[str] = (),
    most: int = 12,
    cards: bool = False,
) -> list[Reading]:
    """Return the best readings of a typed line, best first.

    It may begin with `when`, `if`, `do` or `else`, which then says the part, and a condition with `not`.
    With `cards` it may also be a card that only graphs have, or an own node by its name. With no words, every sentence that may stand there is given, part by part, in the order of subjects. `here` are the
    roles that the rule speaks of already: they are preferred.
    """
    allowed = tuple(parts)
    negated = False
    first = re.match(r"\s*(when|if|do|else|or|and|then)\b\s*", text)
    if first:
        said: Part | None = {
            "when": "when",
            "if": "if",
            "and": "if",
            "do": "do",
            "then": "do",
            "else": "else",
        }.get(  # type: ignore[assignment]
            first.group(1)
        )
        allowed = (said,) if said is not None else allowed
        text = text[first.end() :]
    if re.match(r"\s*not\b", text) and "if" in allowed:
        negated, allowed = True, ("if",)
        text = re.sub(r"^\s*not\b:?\s*", "", text)
    words = _words(text)
    known = tuple(here)
    found: list[Reading] = []
    reader = _Reader(index, text, words[:_MOST_WORDS], known)
    turned = None
    if 2 <= len(words) <= 3:
        # “press space” for “space is pressed”
        swapped = f"{text[words[1].start :].rstrip()} {words[0].text}"
        turned = _Reader(index, swapped, _words(swapped), known)
    more = [*CARD_ENTRIES.values(), *map(own_entry, own_nodes_of(index))] if cards else []
    for place, part in enumerate(allowed):
        for entry in (*CATALOGUE.values(), *(more if part == "do" else ())):
            if entry.group not in GROUPS_OF[part]:
                continue
            own = {"graph": entry.sentence} if entry.name == OWN else {}
            if not words:
                found.append(Reading(Clause(use=entry.name, slots=own, negated=negated), part, 0.0))
                continue
            laid = reader.match_sentence(entry)
            other = turned.match_sentence(entry) if turned is not None else None
            if other is not None and (laid is None or other[0] + _TURNED < laid[0]):
                laid = other[0] + _TURNED, other[1]
            if laid is not None:
                cost, slots = laid[0] + _LATER_PART * place, {**laid[1], **own}
                clause = Clause(use=entry.name, slots=slots, negated=negated)
                found.append(Reading(clause, part, cost))
                new = {
                    name: reader.instead[filled]
                    for name, filled in slots.items()
                    if filled in reader.instead
                    and name in entry.slots
                    and entry.slots[name].kind.holds == "variable"
                }
                if new:
                    clause = Clause(use=entry.name, slots={**slots, **new}, negated=negated)
                    found.append(Reading(clause, part, cost + _NEW_INSTEAD))
    if not words:
        return sorted(found, key=lambda r: (allowed.index(r.part), in_order(r.entry.subject)))
    found.sort(key=lambda r: r.cost)
    return [r for r in found[:most] if r.cost <= found[0].cost + _WORST]


def own_nodes_of(index: Index) -> list[str]:
    """Return the own nodes of a level, by their names."""
    return [e.name for _, _, e in all_logic(index.level) if isinstance(e, Graph) and is_own_node(e)]


def own_entry(name: str) -> Entry:
    """Return an own node as a sentence: its name."""
    return replace(CARD_ENTRIES[OUTPUT], name=OWN, sentence=name, help="An own node of this level.", slots={})


def written_out(index: Index, formula: str) -> str:
    """Return a formula with its names as the level writes them, and those that are begun written to their end."""
    text = formula.strip()
    reader = _Reader(index, text, [], ())
    for tried in (text, reader.cased(text), reader.written_out(text)):
        try:
            compile_formula(index, tried)
        except FormulaError:
            continue
        return tried
    return text


def _words(text: str) -> list[_Word]:
    found = re.finditer(r'"[^"]*"|“[^”]*”|[^\s,]+', text)
    return [_Word(m.group(), m.start(), m.end()) for m in found]


class _Reader:
    """Lays one typed line along sentences; what fits a type of slot is worked out once."""

    def __init__(self, index: Index, text: str, words: list[_Word], here: tuple[str, ...]) -> None:
        self.index = index
        self.text = text
        self.words = words
        self.here = here
        self._fits: dict[tuple[str, str, int, int], tuple[float, str]] = {}
        self._names: dict[str, list[tuple[str, str]]] = {}
        self.instead: dict[str, str] = {}
        """By variable that was read for a word that is nearly its name: the new one that may be meant instead."""

    def match_sentence(self, entry: Entry) -> tuple[float, dict[str, str]] | None:
        """Return cost and slots of the cheapest match with a sentence, or None if too little of it is met."""
        pieces = _pieces(entry.sentence)
        n = len(self.words)
        met_words = any(
            _likeness(word.plain, p) < 1 for word in self.words for p in pieces if not p.startswith("{")
        )
        # without a word of its own in the line, only a sentence that is nearly all slots may be meant
        wordless = entry.group == "condition" and all(p.startswith("{") for p in pieces)
        if not met_words and not wordless:
            return None
        # best[j]: cost of having laid the first j words along the pieces so far, and how
        best: list[tuple[float, dict[str, str], float]] = [(_NEVER, {}, 0.0)] * (n + 1)
        best[0] = (0.0, {}, 0.0)
        for j in range(1, n + 1):
            best[j] = (best[j - 1][0] + _STRAY, {}, 0.0)
        for piece in pieces:
            best = self._slot(entry, piece[1:-1], best) if piece.startswith("{") else self._plain(piece, best)
            for j in range(1, n + 1):
                if best[j - 1][0] + _STRAY < best[j][0]:
                    best[j] = (best[j - 1][0] + _STRAY, best[j - 1][1], best[j - 1][2])
        cost, slots, met = best[n]
        if cost == _NEVER or (met < 0.5 and len(slots) < (min(2, len(pieces)) if wordless else 2)):
            return None
        if entry.continuing:
            cost += _CONTINUING
        return cost, slots

    def _plain(
        self, piece: str, best: list[tuple[float, dict[str, str], float]]
    ) -> list[tuple[float, dict[str, str], float]]:
        out = _SMALL_LEFT_OUT if piece in _SMALL else _LEFT_OUT
        new = [(cost + out, slots, met) for cost, slots, met in best]
        # what comes after the last typed word may yet be typed
        cost, slots, met = best[-1]
        new[-1] = (cost + min(out, _TO_COME), slots, met)
        for j, word in enumerate(self.words):
            cost, slots, met = best[j]
            unlike = _likeness(word.plain, piece)
            if unlike < 1 and cost + unlike < new[j + 1][0]:
                new[j + 1] = (cost + unlike, slots, met + (0.1 if piece in _SMALL else 1.0))
        return new

    def _slot(
        self, entry: Entry, name: str, best: list[tuple[float, dict[str, str], float]]
    ) -> list[tuple[float, dict[str, str], float]]:
        slot = entry.slots[name]
        empty = _DEFAULT_SLOT if slot.default else _EMPTY_SLOT
        new = [(cost + empty, slots, met) for cost, slots, met in best]
        cost, slots, met = best[-1]
        new[-1] = (cost + min(empty, _TO_COME), slots, met)
        longest = slot.kind.words
        for j in range(len(self.words)):
            cost, slots, met = best[j]
            if cost == _NEVER:
                continue
            for k in range(j + 1, min(len(self.words), j + longest) + 1):
                unfit, filled = self.fit(slot, j, k)
                if cost + unfit < new[k][0]:
                    # a second role of one kind is distinguished
                    if slot.kind.holds == "role" and not slot.kind.all_matches and filled in slots.values():
                        other = f"another {filled.removeprefix('any ')}"
                        if self.index.role(other) is None:
                            continue
                        filled = other
                    new[k] = (cost + unfit, {**slots, name: filled}, met)
        return new

    def fit(self, slot: Slot, start: int, end: int) -> tuple[float, str]:
        """Return how ill some words fit a slot (0: well, infinite: not at all), and the text they make there."""
        key = (slot.type, "|".join(slot.options), start, end)
        found = self._fits.get(key)
        if found is None:
            raw = self.text[self.words[start].start : self.words[end - 1].end].strip()
            found = self._fits[key] = self._fit(slot, raw, end - start)
        return found

    def _fit(self, slot: Slot, raw: str, many: int) -> tuple[float, str]:
        kind = slot.kind
        if kind.holds == "formula":
            if kind.gives != "number":
                return self._formula(raw, kind.gives or None)
            return self._number(raw.removesuffix(kind.unit).strip())
        if kind.holds == "text":
            quoted = raw[:1] in '"“' and raw[-1:] in '"”'
            return (0.0 if quoted else 0.25 + 0.02 * many), raw.strip('"“”')
        if kind.holds == "variable":
            known = self._variable(raw, kind.gives)
            if known[0] < _NEVER:
                return known
            new, near = self._new_variable(raw), self._near_variable(raw, kind.gives)
            if near[0] == _NEVER:
                return new
            if new[0] < _NEVER:
                self.instead[near[1]] = new[1]
            return near
        if kind.wrong is not None and kind.names is None and not kind.optional:
            # of what has a form and no names
            return (0.0, raw) if not kind.wrong(self.index, raw) else (_NEVER, "")
        free = kind.wrong is not None and not kind.wrong(self.index, "a new name")
        if free and many <= 3 and not re.search(r"[()=<>]", raw):
            named = self._named(slot, raw)
            return named if named[0] < 0.3 else (0.4 + 0.15 * (many - 1), raw.strip('"“”'))
        return self._named(slot, raw)

    def _number(self, raw: str) -> tuple[float, str]:
        if re.fullmatch(r"-?\d+(\.\d+)?", raw):
            return 0.0, raw
        return self._formula(raw, "number")

    def _formula(self, raw: str, wanted: str | None) -> tuple[float, str]:
        if (
            re.fullmatch(r"\w+", raw)
            and not re.fullmatch(r"[\d.]+", raw)
            and raw
            not in (("yes", "no", "time") if wanted == "number" else ("yes", "no", "time", "tick", "dt"))
        ):
            # a single word is a variable of the level, if anything
            owned = self._variable(raw, wanted or "")
            return (owned[0] + 0.1, owned[1].replace(" ", "_")) if owned[0] < _NEVER else (_NEVER, "")
        for text in dict.fromkeys((raw, self.cased(raw), self.written_out(raw))):
            try:
                compiled = compile_formula(self.index, text, wanted)  # type: ignore[arg-type]
            except FormulaError:
                continue
            if compiled.type not in ("object", "place"):
                return 0.08, text
        return _NEVER, ""

    def cased(self, raw: str) -> str:
        """Return a formula with names written as the level writes them."""
        known = {t.lower(): t for t in (*self.index.role_tokens, *self.index.place_tokens)}
        level = {t.lower(): f"level.{t}" for t in self.index.level_tokens}

        def named(match: re.Match[str]) -> str:
            word = match.group()
            return known.get(word.lower()) or level.get(word.lower(), word)

        return re.sub(r'(?<![\w."])[^\W\d]\w*(?!["\w(])', named, raw)

    def written_out(self, raw: str) -> str:
        """Return a formula with names and functions begun written to their end, where only one begins so: dist(mo, la)."""
        names = [*self.index.role_tokens, *self.index.place_tokens]
        names = [n for n in names if not n.startswith(("another_", "new_"))]

        def ended(match: re.Match[str]) -> str:
            word = match.group()
            known = FUNCTIONS if raw[match.end() :].lstrip().startswith("(") else names
            begun = sorted((n for n in known if n.lower().startswith(word.lower())), key=len)
            # “mo” means Moth where all that begins so is a Moth, as Moth_1 is
            sure = begun and all(n == begun[0] or n.startswith(f"{begun[0]}_") for n in begun)
            return begun[0] if sure and word not in known else word

        # what follows a dot, or stands for itself, is not a beginning
        return self.cased(
            re.sub(r'(?<![\w."])(?!(?:level|pointer|time|dt)\b)[^\W\d]\w+(?!["\w])', ended, raw)
        )

    def _variable(self, raw: str, type: str) -> tuple[float, str]:
        plain = token(raw.lower())
        best = (_NEVER, "")
        for name in variables_for(self.index, type):
            owner, _, variable = name.rpartition(".")
            if plain == token(name.lower()):
                return 0.0, name
            if plain == token(variable.lower()):
                cost = 0.1 if owner == "level" else 0.2 if owner in self.here else 0.3
                best = min(best, (cost, name), key=lambda b: b[0])
        # a variable of another role than the kind itself
        owner, dot, variable = raw.rpartition(".")
        role = self._named(Slot("role"), owner) if dot else (_NEVER, "")
        if role[0] < 0.5 and best[0] == _NEVER:
            wanted = f"{role[1]}.{variable}"
            known = self.index.role(role[1])
            if known is not None and (
                self.index.variable_type(known, token(variable)) or variable in WRITABLE
            ):
                return role[0], wanted
        return best

    def _near_variable(self, raw: str, type: str) -> tuple[float, str]:
        """Return the variable whose name begins so, or is nearly written so: more likely than a new one that is called nearly the same."""
        plain = raw.lower().replace("_", " ")
        best = (_NEVER, 0, "")
        for name in variables_for(self.index, type) if len(plain) > 2 else ():
            owner, _, variable = name.rpartition(".")
            whole = (name if "." in plain else variable).lower()
            unlike = _unlike_name(plain, whole)
            if unlike == _NEVER and len(plain) == len(whole) > 3 and sum(map(ne, plain, whole)) == 1:
                unlike = 0.4  # one letter amiss
            if unlike < _NEVER:
                cost = unlike + (0.0 if owner == "level" else 0.1 if owner in self.here else 0.2)
                best = min(best, (cost, len(name), name))
        return min(best[0], _NEW_VARIABLE) if best[2] else _NEVER, best[2]

    def _new_variable(self, raw: str) -> tuple[float, str]:
        """Return a variable that is to be made: of the level, or of the kind before its dot."""
        owner, dot, name = raw.rpartition(".")
        if not dot:
            owner = "level"
        elif owner != "level":
            kind = self._named(Slot("kind"), owner)
            owner = kind[1] if kind[0] < 0.3 else ""
        known = {*self.index.role_tokens, *self.index.place_tokens}
        taken = token(name.lower()) in {k.lower() for k in known}
        if not owner or taken or not _is_new(self.index, owner, name):
            return _NEVER, ""
        return _NEW_VARIABLE, f"{owner}.{name}"

    def _named(self, slot: Slot, raw: str) -> tuple[float, str]:
        key = f"{slot.type}|{'|'.join(slot.options)}"
        names = self._names.get(key)
        if names is None:
            names = self._names[key] = [
                (name.lower().replace("_", " "), name) for name in choices(self.index, slot, self.here)
            ]
            if slot.kind.holds in ("role", "where"):
                # a tag alone means any that carries it
                names += [(tag.lower(), f"any {tag}") for tag in self.index.tags]
        plain = raw.lower().replace("_", " ").strip('"“”')
        best = (_NEVER, "")
        for lower, name in names:
            cost = _unlike_name(plain, lower)
            if slot.options and cost > 0.15 and f" {plain} " in f" {lower} ":
                # some words of a choice, without a gap, will do
                cost = 0.15
            if name in self.here and cost > 0:
                cost -= 0.03
            if cost < best[0]:
                best = (cost, name)
                if cost <= 0:
                    break
        return best


def _pieces(sentence: str) -> list[str]:
    return re.findall(r"\{\w+\}|[^\s{},;:]+", sentence)


@lru_cache(maxsize=50_000)
def _unlike_name(typed: str, name: str) -> float:
    if typed == name:
        return 0.0
    if typed.rstrip("s") == name.rstrip("s"):
        return 0.05
    if len(typed) >= 2 and name.startswith(typed):
        return 0.2
    if (
        len(typed) >= 4
        and abs(len(typed) - len(name)) <= 2
        and SequenceMatcher(None, typed, name).ratio() > 0.8
    ):
        return 0.35
    return _NEVER


@lru_cache(maxsize=50_000)
def _likeness(typed: str, word: str) -> float:
    """Return how unlike a typed word and a word of a sentence are: 0 the same, 1 nothing in common."""
    word = word.lower().strip("°“”")
    if typed == word:
        return 0.0
    if _stem(typed) == _stem(word) and len(typed) > 2:
        return 0.1
    if len(typed) >= 3 and word.startswith(typed):
        return 0.2
    if len(typed) >= 4 and len(word) >= 4 and SequenceMatcher(None, typed, word).ratio() > 0.8:
        return 0.4
    return 1.0


def _stem(word: str) -> str:
    for ending in ("es", "ed", "ing", "s"):
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            return word[: -len(ending)]
    return word


def runs(index: Index, reading: Reading) -> str:
    """Return what keeps a reading from running as it stands; empty if nothing does."""
    group = "occasion" if reading.part == "when" else "condition" if reading.part == "if" else "action"
    problems = bind(index, reading.clause, group).problems  # type: ignore[arg-type]
    return problems[0].message if problems else ""
