"""The names of a level as they are typed: in small letters, begun, in the plural, with an article."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import Counter
from collections.abc import Iterable
from difflib import get_close_matches
from functools import cached_property
from typing import Any, NamedTuple
from weakref import WeakKeyDictionary

from gatillo.catalogue.declare.entry import Slot
from gatillo.catalogue.declare.slot_types import WRITABLE
from gatillo.catalogue.declare.wording import OPTION_WORDINGS
from gatillo.language.choices import choices
from gatillo.language.typed_words import NUMBERS, nearly, singular
from gatillo.level.naming import token
from gatillo.level.roles import Index, ValueType, all_logic

_EVERY = ("every ", "each ", "all ", "any ", "some ")
_OTHERS = ("another ", "third ", "new ")
_EVERYTHING = frozenset(
    ["everything", "everyone", "everybody", "anyone", "anybody", "something", "somebody", "someone", "all objects",
     "any object", "every object", "each object", "an object"]
)  # fmt: skip
_POINTER = frozenset(["pointer", "mouse", "cursor", "mouse pointer", "mouse cursor"])
PRONOUNS = frozenset(["it", "itself", "him", "himself", "her", "herself", "them", "they", "he", "she"])
"""Words for the object that was named last."""
_PROPERTIES = {
    "rotation": "angle",
    "size": "scale",
    "visible": "shown",
    "visibility": "shown",
    "direction": "angle",
}
KEY_ALIASES = {
    "spacebar": "Space", "space bar": "Space", "return": "Enter", "ctrl": "Control", "left arrow": "Left",
    "right arrow": "Right", "up arrow": "Up", "down arrow": "Down", "arrow left": "Left", "arrow right": "Right",
    "arrow up": "Up", "arrow down": "Down",
}  # fmt: skip
"""Keys by other words for them, in small letters."""
_WHERE = re.compile(
    r"where (?:the )?(.+?) (?:is|stands|lies|was|are)(?: now)?|(?:the )?(?:position|place|location) of (?:the )?(.+)|(?:the )?same place as (?:the )?(.+)"
)
"""How a place is named by what is there."""


class Found(NamedTuple):
    """What some words name: how ill they fit (0: exactly), the name as the level writes it, and whether it was only begun."""

    cost: float
    name: str
    begun: bool = False


class NameTable:
    """Names by how they may be typed."""

    def __init__(self, names: Iterable[tuple[str, str]]) -> None:
        """Take pairs of what is typed, in small letters, and what it names; the first of two is meant."""
        self.exact: dict[str, str] = {}
        for typed, name in names:
            self.exact.setdefault(typed, name)
        self._begun: dict[tuple[str, tuple[str, ...]], Found | None] = {}

    @cached_property
    def singulars(self) -> dict[str, str]:
        """Names by their singular."""
        found: dict[str, str] = {}
        for typed, name in self.exact.items():
            found.setdefault(singular(typed), name)
        return found

    @cached_property
    def of_shape(self) -> dict[tuple[int, str], list[str]]:
        """What may be typed, by how many spaces it has and its first letter."""
        found: dict[tuple[int, str], list[str]] = {}
        for typed in self.exact:
            found.setdefault((typed.count(" "), typed[:1]), []).append(typed)
        return found

    @cached_property
    def ordered(self) -> list[str]:
        """What may be typed, in the order of the alphabet."""
        return sorted(self.exact)

    def find(self, typed: str) -> Found | None:
        """Return what a text in small letters names, or None."""
        name = self.exact.get(typed)
        if name is not None:
            return Found(0.0, name)
        name = self.singulars.get(singular(typed))
        return Found(0.03, name) if name is not None else None

    def begun(self, typed: str, first: Iterable[str] = ()) -> Found | None:
        """Return the name that begins with a text, or None: one of `first`, one whose word ends there, else the shortest."""
        if len(typed) < 2:
            return None
        key = typed, tuple(first)
        if key not in self._begun:
            self._begun[key] = self._find_begun(typed, first)
        return self._begun[key]

    def _find_begun(self, typed: str, first: Iterable[str]) -> Found | None:
        at = bisect_left(self.ordered, typed)
        found: list[str] = []
        while at < len(self.ordered) and self.ordered[at].startswith(typed) and len(found) < 200:
            found.append(self.ordered[at])
            at += 1
        if not found:
            return None
        favoured = set(first)
        best = min(
            found, key=lambda t: (self.exact[t] not in favoured, self.exact[t].startswith("any "), len(t))
        )
        whole = best[len(typed) : len(typed) + 1] == " "
        cost = 0.15 if whole else 0.2
        return Found(cost - (0.03 if self.exact[best] in favoured else 0), self.exact[best], True)

    def near(self, typed: str, most: int = 3) -> list[str]:
        """Return the names that look most like a text, likest first."""
        typed = typed.lower()
        close = get_close_matches(typed, self.exact, n=most + 2, cutoff=0.7)
        # a name that holds the word, or is held by it, may be meant as well
        close += (
            [t for t in self.ordered if len(typed) > 2 and typed in t.split()] if len(close) < most else []
        )
        names = dict.fromkeys(self.exact[t] for t in close)
        return [name for name in names if not name.startswith(("another ", "third ", "new "))][:most]


class LevelNames:
    """The names of one level, made when they are first asked for."""

    def __init__(self, index: Index) -> None:
        self.index = index
        self._tables: dict[object, NameTable] = {}
        self._free: dict[str, bool] = {}
        self.fits: dict[tuple[object, ...], Any] = {}
        """What words were found to make in slots (slot_fits.py), for the next key press."""

    @cached_property
    def cased(self) -> tuple[dict[str, str], dict[str, str]]:
        """By their small letters: names of roles and places as a formula writes them, and the level's variables."""
        index = self.index
        known = {t.lower(): t for t in (*index.role_tokens, *index.place_tokens)}
        return known, {t.lower(): f"level.{t}" for t in index.level_tokens}

    @cached_property
    def formula_names(self) -> list[str]:
        """Names with which a word of a formula may begin, without those of a second or new object."""
        names = [*self.index.role_tokens, *self.index.place_tokens]
        return [n for n in names if not n.startswith(("another_", "new_"))]

    @cached_property
    def numbered(self) -> frozenset[str]:
        """Names of objects that end in a number, in small letters: “moth 2”; not of those that are alone of their kind."""
        many = Counter(thing.kind for thing in self.index.objects.values())
        return frozenset(
            name.lower()
            for name, thing in self.index.objects.items()
            if name[-1:].isdigit() and many[thing.kind] > 1
        )

    @cached_property
    def roles(self) -> NameTable:
        """Every role."""
        index = self.index
        names = [(role.text.lower().replace("_", " "), role.text) for role in index.role_tokens.values()]
        names += [(tag.lower(), f"any {tag}") for tag in index.tags]
        names += [(token_.replace("_", " ").lower(), r.text) for token_, r in index.role_tokens.items()]
        return NameTable(names)

    def table(self, slot: Slot) -> NameTable:
        """Return the names that may stand in a slot."""
        key = (slot.type, slot.options)
        found = self._tables.get(key)
        if found is None:
            if slot.kind.holds == "role" and not slot.kind.all_matches:
                found = self.roles
            else:
                names = [(n.lower().replace("_", " "), n) for n in choices(self.index, slot)]
                if slot.kind.holds == "where":
                    names += list(self.roles.exact.items())
                ways = [(said, option) for option in slot.options for said in OPTION_WORDINGS.get(option, ())]
                names += ways + [
                    (f"are {said[3:]}", option) for said, option in ways if said.startswith("is ")
                ]
                if slot.type == "setting":
                    names += [(typed.replace(": ", " "), n) for typed, n in tuple(names)]
                    names += [(typed.rpartition(": ")[2], n) for typed, n in tuple(names) if ": " in typed]
                if slot.type == "key":
                    names += list(KEY_ALIASES.items())
                found = NameTable(names)
            self._tables[key] = found
        return found

    def is_free(self, slot: Slot) -> bool:
        """Return whether any new name may stand in a slot, as that of a message."""
        known = self._free.get(slot.type)
        if known is None:
            wrong = slot.kind.wrong
            known = self._free[slot.type] = (
                slot.kind.names is not None and wrong is not None and not wrong(self.index, "a new name")
            )
        return known

    def role(self, typed: str) -> Found | None:
        """Return the role that a text in small letters names: an article and “every” may be before it, an “'s” after it."""
        found = self.roles.find(typed)
        if found is not None:
            return found
        if typed in _EVERYTHING:
            return Found(0.02, "anything")
        for every in _EVERY:
            if typed.startswith(every):
                rest = typed[len(every) :].removeprefix("of ").removeprefix("the ")
                found = self.roles.find(rest) if not rest.startswith(_OTHERS) else None
                # “all pods are gone” says more than “a pod is gone”
                return found and Found(found.cost + (0.7 if every == "all " else 0.02), found.name)
        for other in ("the other ", "other ", "second ", "a second ", "a different "):
            if typed.startswith(other):
                found = self.roles.find(f"another {typed[len(other) :]}")
                return found and Found(found.cost + 0.02, found.name)
        whose, apostrophe, what = typed.partition(" 's ")
        if apostrophe:
            found = self.roles.find(f"{what} of {whose}")
            return found and Found(found.cost + 0.02, found.name)
        return None

    def where(self, slot: Slot, typed: str) -> Found | None:
        """Return the place, object or point that a text in small letters names."""
        if typed in _POINTER:
            return Found(0.0 if typed == "pointer" else 0.02, "pointer")
        typed = typed.removesuffix(" 's position").removesuffix(" 's place").removesuffix(" 's location")
        said = _WHERE.fullmatch(typed)
        typed = (said[1] or said[2] or said[3]) if said is not None else typed
        found = self.table(slot).find(typed) or self.role(typed)
        if found is None and " 's " in typed:
            whose, _, point = typed.partition(" 's ")
            found = self.table(slot).find(f"{point} of {whose}")
        return found

    @cached_property
    def level_variables(self) -> NameTable:
        """The level's variables, without their owner."""
        return NameTable(
            (v.name.lower().replace("_", " "), f"level.{v.name}") for v in self.index.level.variables
        )

    @cached_property
    def owned_names(self) -> NameTable:
        """The variables of kinds, without their owner."""
        kinds = self.index.level.kinds
        return NameTable(
            (v.name.lower().replace("_", " "), f"{k.name}.{v.name}") for k in kinds for v in k.variables
        )

    @cached_property
    def owned_variables(self) -> dict[str, list[str]]:
        """By a variable's name in small letters: the kinds that have it."""
        found: dict[str, list[str]] = {}
        for kind in self.index.level.kinds:
            for variable in kind.variables:
                found.setdefault(variable.name.lower().replace("_", " "), []).append(kind.name)
        return found

    def variable_of(self, owner: str, name: str) -> tuple[str, ValueType] | None:
        """Return a variable of a role as a slot names it, and its type; None if it has none of that name."""
        role = self.index.role(owner)
        if role is None:
            return None
        plain = token(name)
        plain = _PROPERTIES.get(plain, plain)
        if plain in WRITABLE:
            return f"{owner}.{plain}", "yes/no" if plain == "shown" else "number"
        for kind in role.kinds[:1]:
            for variable in self.index.kinds[kind].variables:
                if token(variable.name.lower()) == plain:
                    known = self.index.variable_type(role, token(variable.name))
                    return (f"{owner}.{variable.name}", known) if known is not None else None
        return None

    def variables(self) -> NameTable:
        """Return all variables of the level and its kinds, as a slot names them."""
        found = self._tables.get("variables")
        if found is None:
            names = [f"level.{v.name}" for v in self.index.level.variables]
            names += [f"{k.name}.{v.name}" for k in self.index.level.kinds for v in k.variables]
            typed = [(n.lower(), n) for n in names]
            found = NameTable([*typed, *((n.rpartition(".")[2].lower(), n) for n in names)])
            self._tables["variables"] = found
        return found

    def near_variable(self, typed: str, owner: str) -> list[str]:
        """Return the variables whose names look most like a text, those of its owner first."""
        if owner and owner != "level" and (role := self.index.role(owner)) is not None:
            names = [v.name for k in role.kinds[:1] for v in self.index.kinds[k].variables] + sorted(WRITABLE)
            close = get_close_matches(typed.lower(), [n.lower() for n in names], n=2, cutoff=0.5)
            begins = [
                n for n in names if len(typed) > 1 and n.lower() in (typed.lower()[1:], typed.lower()[:-1])
            ]
            return [
                f"{owner}.{n}"
                for n in dict.fromkeys([*(x for c in close for x in names if x.lower() == c), *begins])
            ][:3]
        near = self.level_variables.near(typed, 2)
        more = [name for name in self.variables().near(typed) if name not in near]
        return [*near, *more][:3]

    @cached_property
    def scenery(self) -> frozenset[str]:
        """The names of what is scenery, in small letters: no line can speak of it."""
        return frozenset(name.lower() for name in self.index.scenery)

    @cached_property
    def told_messages(self) -> tuple[tuple[re.Pattern[str], str], ...]:
        """Messages that say what has happened, such as “pod gathered”, with the sentences that say so: “a pod is gathered”.

        Not those whose last word is a variable: “the lamp is lit” is a state.
        """
        index = self.index
        states = {v.name.lower() for kind in index.kinds.values() for v in kind.variables}
        states |= {v.name.lower() for v in index.level.variables}
        found = []
        for message in choices(index, Slot("message")):
            after = rf"^(?:on|upon) (?:the )?{re.escape(message)}[,:]? (?=\w)"
            found.append((re.compile(after, re.IGNORECASE), f"when {message} is heard, "))
            what, _, done = message.lower().rpartition(" ")
            if what and done not in states and _PARTICIPLE.fullmatch(done):
                said = rf"\b(?:(?:an?|the|any|each|every|another) )?{re.escape(what)}s? {_HAS_BEEN} {re.escape(done)}\b"
                found.append((re.compile(said, re.IGNORECASE), f"{message} is heard"))
        return tuple(found)

    def with_messages(self, text: str) -> str:
        """Return a line in which what a message says has happened is that message being heard."""
        for pattern, heard in self.told_messages:
            text = pattern.sub(heard, text)
        return _NEW_MESSAGE.sub(self._quoted, text)

    def _quoted(self, found: re.Match[str]) -> str:
        """Return a new message of several words that is heard in quotes, so that it is one name."""
        name = found["name"]
        known = self.table(Slot("message")).exact
        if name.lower() in known or any(word in known for word in name.lower().split()):
            return found[0]
        return f'{found["before"] or ""}"{name}" {found["heard"]}'

    @cached_property
    def _compared_timers(self) -> tuple[tuple[re.Pattern[str], str], ...]:
        made = []
        for timer in choices(self.index, Slot("timer")):
            said = rf"\b(?P<word>if|while|unless|when|once|as soon as) (?:the )?{re.escape(timer)}(?: timer| clock)? (?:is )?(?={_COMPARED})"
            made.append((re.compile(said, re.IGNORECASE), rf'\g<word> timer("{timer}") is '))
        return tuple(made)

    def with_timers(self, text: str) -> str:
        """Return a line in which a timer's name, where it is compared, is what the timer shows: “if the oven is over 3 s”."""
        for pattern, shown in self._compared_timers:
            text = pattern.sub(shown, text)
        return _SECONDS_OF_A_TIMER.sub(r"\g<compared>", text)

    def names_an_object(self, text: str) -> bool:
        """Return whether a text of several words without quotes has the name of an object or a kind in it."""
        words = text.lower().split() if '"' not in text else []
        roles = [self.role(word) for word in words] if len(words) > 1 else []
        return any(role is not None and not role.begun for role in roles)

    @cached_property
    def _after_a_rule(self) -> re.Pattern[str] | None:
        rules = [e.name for _, _, e in all_logic(self.index.level) if e.name]
        if not rules:
            return None
        named = "|".join(re.escape(name) for name in sorted(rules, key=len, reverse=True))
        return re.compile(
            r"(?P<what>(?!(?:when|if|while|wait|every|once|after|for)\b)\w+ \w.*?),? "
            r"(?P<time>(?:[\d.]+|an?|half an?|one|two|three|four|five|six|ten) ?(?:s|secs?|seconds?|minutes?)) after (?:the rule )?"
            rf"(?P<rule>{named})(?: (?:fires|fired|has fired))?",
            re.IGNORECASE,
        )

    def with_rule_first(self, text: str) -> str:
        """Return “hide the lamp 2 s after Bang” with the time after the rule first, where it is the name of a rule."""
        said = (
            self._after_a_rule.fullmatch(text)
            if self._after_a_rule is not None and " after " in text
            else None
        )
        return f"{said['time']} after {said['rule']}, {said['what']}" if said is not None else text

    @cached_property
    def several_words(self) -> tuple[str, ...]:
        """Every name of several words, in small letters: of rules, places, messages and the rest."""
        index = self.index
        names = [*index.kinds, *index.objects, *index.places, *(e.name for _, _, e in all_logic(index.level))]
        names += [v.name for v in index.level.variables]
        for type_ in ("message", "timer", "item", "section", "topic"):
            names += choices(index, Slot(type_))
        return tuple({name.lower() for name in names if " " in name})

    @cached_property
    def words(self) -> frozenset[str]:
        """Every single word of a name of the level, in small letters."""
        index = self.index
        names = [
            *index.kinds,
            *index.objects,
            *index.places,
            *index.tags,
            *(v.name for v in index.level.variables),
        ]
        return frozenset(word for name in names for word in name.lower().replace("_", " ").split())


_COMPARED = r"(?:above|over|more than|greater than|less than|below|under|at least|at most|between)\b|[<>]"
_SECONDS_OF_A_TIMER = re.compile(
    r'(?P<compared>timer\("[^"]+"\) is [a-z<>= ]+? ?\d+(?:\.\d+)?(?: and \d+(?:\.\d+)?)?) ?(?:s|secs?|seconds?)\b',
    re.IGNORECASE,
)
_NEW_MESSAGE = re.compile(
    r"^(?P<before>(?:when|whenever|once|if) )?(?:the )?(?:message )?(?P<name>(?!the\b|message\b|signal\b|when\b|whenever\b|once\b|if\b)[a-z]\w*(?: [a-z]\w*){1,2}) (?P<heard>is heard)\b",
    re.IGNORECASE,
)
_PARTICIPLE = re.compile(
    r"\w+(?:ed|en|wn)|lost|shut|hit|cut|put|left|met|won|done|gone|made|caught|struck|sent|spent|built"
)
_HAS_BEEN = r"(?:is|are|gets|was|were|has been|have been)"
_NAMES: WeakKeyDictionary[Index, LevelNames] = WeakKeyDictionary()


def names_of(index: Index) -> LevelNames:
    """Return a level's names, made once for each level."""
    found = _NAMES.get(index)
    if found is None:
        found = _NAMES[index] = LevelNames(index)
    return found


def number_in_words(typed: str) -> str | None:
    """Return a number that is written as a word, as digits; None for any other word."""
    return NUMBERS.get(typed)


def looks_like(typed: str, table: NameTable) -> bool:
    """Return whether a text of several words is nearly written like one of some names."""
    return any(nearly(typed, name) for name in table.of_shape.get((typed.count(" "), typed[:1]), ()))
