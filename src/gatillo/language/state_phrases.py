"""Reading “open the door” and “turn the lamp off”: actions and conditions about the yes/no variable of an object."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from gatillo.language.amount_phrases import COUNT_SIGNS
from gatillo.language.level_names import names_of
from gatillo.language.reading import Reading
from gatillo.language.typed_words import ALL_WORDS, ARTICLES, NUMBERS, OPPOSITES, TypedWord, split_words, stem
from gatillo.language.variable_fits import as_formula, known_variable
from gatillo.level.edits import Part
from gatillo.level.model import Clause
from gatillo.level.naming import token
from gatillo.level.roles import Index

_SWITCHED = ("on", "lit", "active", "powered", "enabled", "running", "working", "open")
"""Of several yes/no variables, which one is meant by “on” and “off”; the first that is there."""
_MAKES = frozenset(["set", "make", "mark", "let", "leave", "keep"])
_BETWEEN = frozenset(["to", "be", "as", "become"])
_FORMS = {
    stem(word): named
    for named, words in {
        stem("lit"): "light ignite kindle lit",
        f"-{stem('lit')}": "extinguish douse unlit dark",
        stem("active"): "activate active",
        f"-{stem('active')}": "deactivate inactive",
        f"-{stem('open')}": "shut",
        stem("awake"): "wake waken awaken awake",
        f"-{stem('awake')}": "asleep sleep",
    }.items()
    for word in words.split()
}
"""Words by their stems: the stem of the state that they name, with “-” before it for its opposite."""
_COST = 0.12
_TOLD = 0.3
"""What it costs to take a line that says what happens for an action."""
_IS = 0.2
"""What it costs to take “is” for “becomes”."""
_COUNTED_COST = -0.05
"""“All lamps are lit” is no condition of one lamp."""


def state_readings(index: Index, text: str, parts: tuple[Part, ...], here: tuple[str, ...]) -> list[Reading]:
    """Return what a line says of an object's yes/no variable: at most one action, one occasion and one condition."""
    words = [w for w in split_words(text) if w.plain not in ARTICLES and w.plain not in (".", ",")]
    if not 2 <= len(words) <= 8 or any(w.quoted for w in words[:-1]):
        return []
    found: list[Reading] = []
    if words[-1].plain in ("left", "now", "anymore"):
        words = words[:-1]
    words = _present(words)
    action: Part | None = next((part for part in parts if part in ("do", "else")), None)
    if action is not None:
        for clause in _actions(index, words, here):
            found.append(Reading(clause, action, _COST, named=clause.slots["variable"].rpartition(".")[0]))
            break
        for clause in _done(index, words, here) if not found else ():
            named = clause.slots["variable"].rpartition(".")[0]
            found.append(Reading(clause, action, _COST + _TOLD, named=named))
            break
    if "when" in parts and (changed := _changes(index, words, here)) is not None:
        variable, condition = changed
        owner = variable.rpartition(".")[0]
        occasion = Clause(use="variable_changes", slots={"variable": variable})
        asked: tuple[tuple[Clause, Part], ...] = ((occasion, "when"), (condition, "if"))
        lines = tuple(Reading(one, part, 0.05, named=owner) for one, part in asked)
        # “the lamp is lit” alone is a condition
        cost = _COST + (_IS if any(w.plain in ("is", "are") for w in words) else 0.0)
        found.append(Reading(occasion, "when", cost, named=owner, lines=lines))
    if "if" in parts:
        for clause, owner in _conditions(index, words, here):
            counted = "count_where" in clause.slots["formula"]
            found.append(Reading(clause, "if", _COUNTED_COST if counted else _COST, named=owner))
            break
    return found


def state_of(index: Index, owner: str, state: str) -> bool:
    """Return whether a word names a yes/no variable of an object, or the opposite of one: “lit” of a lamp."""
    return _state_of(index, owner, state, ()) is not None


def _present(words: list[TypedWord]) -> list[TypedWord]:
    """Return “was hit” and “has been hit” as “is hit”."""
    made: list[TypedWord] = []
    for word in words:
        before = made[-1].plain if made else ""
        if word.plain == "been" and before in ("has", "have", "is", "are"):
            made[-1] = replace(made[-1], text="is")
        elif word.plain in ("was", "were"):
            made.append(replace(word, text="is"))
        else:
            made.append(word)
    return made


def formula_of_state(index: Index, text: str, here: tuple[str, ...]) -> str:
    """Return what a text says of the states of objects as a formula: “all lamps are lit”; "" if it says nothing of the kind."""
    words = [w for w in split_words(text) if w.plain not in ARTICLES]
    if len(words) < 3 or any(w.quoted for w in words):
        return ""
    for clause, _ in _conditions(index, words, here):
        formula = clause.slots["formula"]
        return f"not {formula}" if clause.negated else formula
    return ""


def _actions(index: Index, words: list[TypedWord], here: tuple[str, ...]) -> Iterator[Clause]:
    plain = [w.plain for w in words]
    plain = ["extinguish", *plain[2:]] if plain[:2] == ["put", "out"] else plain
    if len(plain) < 2:
        return
    first, rest = plain[0], plain[1:]
    if first in ("turn", "switch", "flick") and len(rest) > 1:
        for way, owner in ((rest[0], rest[1:]), (rest[-1], rest[:-1])):
            if way in ("on", "off"):
                yield from _set(_switched(index, " ".join(owner), here), way == "on")
        return
    if len(plain) > 2 and plain[-2:] in (["goes", "out"], ["go", "out"]):
        plain = [*plain[:-1], "off"]
    if (
        len(plain) > 2
        and plain[-2] in ("turns", "switches", "goes", "turn", "switch", "go")
        and plain[-1] in ("on", "off")
    ):
        # “every lamp turns on”
        whose = plain[:-2]
        whose = whose[1:] if whose[0] in ALL_WORDS and len(whose) > 1 else whose
        yield from _set(_switched(index, " ".join(whose), here), plain[-1] == "on")
        return
    if plain[-1] in ("on", "off") and len(plain) < 4 and "is" not in plain:
        # “lamp off”
        yield from _set(_switched(index, " ".join(plain[:-1]), here), plain[-1] == "on")
        return
    if plain[-1] == "toggles":
        variable = _switched(index, " ".join(plain[:-1]), here, alone=True)
        if variable:
            yield Clause(use="toggle", slots={"variable": variable})
        return
    if first in ("toggle", "flip", "invert"):
        # “flip the crate” may be said of how it stands
        variable = _switched(index, " ".join(rest), here, alone=True) if first == "toggle" else ""
        if variable:
            yield Clause(use="toggle", slots={"variable": variable})
        return
    if first in _MAKES and len(rest) > 1:
        state, owner = rest[-1], rest[:-1]
        on = True
        while owner and (owner[-1] in _BETWEEN or owner[-1] == "not"):
            on = on and owner[-1] != "not"
            owner = owner[:-1]
        if state in ("on", "off") and owner:
            yield from _set(_switched(index, " ".join(owner), here), (state == "on") == on)
        found = _state_of(index, " ".join(owner), state, here)
        yield from _set(found[0], found[1] == on) if found else ()
        return
    if first in ("set", "mark", "unset", "clear"):
        known = names_of(index).level_variables.find(" ".join(rest))
        if known is not None and index.level_tokens.get(token(known.name.rpartition(".")[2])) == "yes/no":
            yield from _set(known.name, first in ("set", "mark"))
            return
    found = _state_of(index, " ".join(rest), first, here)
    if found is None and first in _POWER:
        found = _switched(index, " ".join(rest), here), _POWER[first]
    yield from _set(found[0], found[1]) if found else ()


_POWER = {"activate": True, "enable": True, "deactivate": False, "disable": False}
"""Verbs that switch on or off what has no state of that name."""


def _done(index: Index, words: list[TypedWord], here: tuple[str, ...]) -> Iterator[Clause]:
    """Yield what a line tells as if it happened: “the door opens”."""
    plain = [w.plain for w in words]
    if len(plain) >= 2 and plain[-1].endswith("s") and plain[0] not in _NONE:
        whose = plain[1:-1] if plain[0] in ALL_WORDS and len(plain) > 2 else plain[:-1]
        found = _state_of(index, " ".join(whose), plain[-1], here)
        yield from _set(found[0], found[1]) if found else ()


def _conditions(index: Index, words: list[TypedWord], here: tuple[str, ...]) -> Iterator[tuple[Clause, str]]:
    plain = [w.plain for w in words]
    if plain[0] in COUNTING and len(plain) > 2:
        plain = [COUNTING[plain[0]], *plain[1:]]
    elif plain[0] == "either" and len(plain) > 2:
        # “either lamp is lit” is said of any
        plain = plain[1:]
    verb = next((n for n, word in enumerate(plain) if word in ("is", "are") and n > 0), None)
    if verb is None:
        if plain[-1] not in ("on", "off") and plain[0] not in ALL_WORDS | _NONE and not plain[0].isdigit():
            # “the bomb flies”
            does = (
                _state_of(index, " ".join(plain[:-1]), plain[-1], here) if plain[-1].endswith("s") else None
            )
            if does is not None:
                slots = {"formula": as_formula(does[0])}
                clause = Clause(use="formula_holds", slots=slots, negated=not does[1])
                yield clause, does[0].rpartition(".")[0]
            return
        # “lamp off”, “all lamps lit”
        plain, verb = [*plain[:-1], "is", plain[-1]], len(plain) - 1
    after = [word for word in plain[verb + 1 :] if word not in ("now", "still", "already")]
    turned = after[:1] == ["not"]
    after = after[turned:]
    if plain[0] == "there" and after[:1] == ["no"] and len(after) >= 3:
        # “there are no lit lamps”
        yield from _of_many(index, ["no", *after[2:]], after[1], False, here)
        yield from _of_many(index, ["no", *after[1:-1]], after[-1], False, here)
        return
    if "or" in after:
        yield from _one_of_values(index, " ".join(plain[:verb]), " ".join(after), turned, here)
        return
    if len(after) != 1:
        return
    owner = " ".join(plain[:verb])
    level = known_variable(names_of(index), (), f"{owner} {after[0]}", "yes/no")
    if level is not None and not level.begun and level.text.startswith("level."):
        # “the valve is open”, where “valve open” is a variable of the level
        yield Clause(use="formula_holds", slots={"formula": as_formula(level.text)}, negated=turned), ""
        return
    yield from _of_many(index, plain[:verb], after[0], turned, here)
    if plain[0] in ALL_WORDS or plain[0] in _NONE:
        # “all lights are lit” is not about one of them
        return
    found = _on_off_or_state(index, owner, after[0], here)
    if found is not None:
        variable, on = found
        clause = Clause(use="formula_holds", slots={"formula": as_formula(variable)}, negated=on == turned)
        yield clause, variable.rpartition(".")[0]


_NONE = frozenset(["no", "none"])


def _one_of_values(
    index: Index, typed: str, values: str, turned: bool, here: tuple[str, ...]
) -> Iterator[tuple[Clause, str]]:
    """Yield the condition that a text is one of some: “the mood is either calm or angry”."""
    found = known_variable(names_of(index), here, typed, "text")
    each = [value.strip() for value in values.removeprefix("either ").split(" or ")]
    if found is None or found.begun or any(not value or " " in value or '"' in value for value in each):
        return
    formula = " or ".join(f'{as_formula(found.text)} = "{value}"' for value in each)
    clause = Clause(use="formula_holds", slots={"formula": formula}, negated=turned)
    yield clause, found.text.rpartition(".")[0].removeprefix("level")


COUNTING = {"both": "all"} | {
    word: n for word, n in NUMBERS.items() if n.isdigit() and word not in ("a", "an", "zero", "once", "twice")
}
"""Words before a kind that say how many of its objects are meant, with what they are read as."""


def _of_many(
    index: Index, who: list[str], state: str, turned: bool, here: tuple[str, ...]
) -> Iterator[tuple[Clause, str]]:
    """Yield what is said of all, none or some number of a kind's objects: “all lamps are lit”."""
    sign, number, rest, share = "", "0", who, ""
    at = next((n for n, word in enumerate(who[:4]) if word in ("half", "most")), None)
    before = " ".join(who[:at]) if at is not None else ""
    if at is not None and before in ("", "over", *COUNT_SIGNS):
        share = who[at]
        sign = COUNT_SIGNS.get(before, ">" if before == "over" or share == "most" else ">=")
        rest = who[at + 1 :]
    elif who[0] in ALL_WORDS:
        sign, rest, turned = "=", who[1:], not turned
    elif who[0] in _NONE:
        sign, rest = "=", who[1:]
    else:
        two = " ".join(who[:2])
        if two in COUNT_SIGNS and len(who) > 3:
            sign, rest = COUNT_SIGNS[two], who[2:]
        elif who[0] in COUNT_SIGNS and len(who) > 2:
            sign, rest = COUNT_SIGNS[who[0]], who[1:]
        elif who[0].isdigit():
            sign = "="
        if sign and not share:
            number, rest = NUMBERS.get(rest[0], rest[0]), rest[1:]
            if not number.isdigit():
                return
    rest = [word for word in rest if word not in ("of", "the", "them")]
    if not sign or not rest:
        return
    typed = " ".join(rest)
    on_off = _switched(index, typed, here) if state in ("on", "off") else ""
    found = (on_off, state == "on") if on_off else _state_of(index, typed, state, here)
    if found is None:
        return
    variable, on = found
    role = variable.rpartition(".")[0]
    if role not in index.kinds:
        return
    holds = as_formula(variable) if on != turned else f"not {as_formula(variable)}"
    if share:
        number = f"count({token(role)}) / 2"
    formula = f"count_where({token(role)}, {holds}) {sign} {number}"
    yield Clause(use="formula_holds", slots={"formula": formula}), role


def _changes(index: Index, words: list[TypedWord], here: tuple[str, ...]) -> tuple[str, Clause] | None:
    """Return the variable that a line says to have changed, and the condition that it now has the value: “the door opens”."""
    plain = [w.plain for w in words]
    at = next((n for n, word in enumerate(plain) if word in _BECOMES and n > 0), None)
    if at is not None and at + 1 < len(plain):
        after = plain[at + 1 :]
        if (
            plain[at] in ("changes", "goes", "turns", "switches")
            and after[0] in ("to", "into")
            and len(after) > 1
        ):
            after = after[1:]
        if after[0] in ("switched", "turned") and len(after) > 1:
            after = after[1:]
        if after[:2] == ["set", "to"] and len(after) > 2:
            after = after[2:]
        owner = " ".join(plain[:at])
        if plain[0] in ALL_WORDS or plain[0] in _NONE:
            # “every lamp is lit” is not about one lamp
            return None
        if after == ["out"] and plain[at] == "goes":
            after = ["off"]
        if len(after) == 1:
            found = _on_off_or_state(index, owner, after[0], here)
            if found is not None:
                return found[0], _holds(*found)
        turned = after[0] == "not"
        value = " ".join(w for w in after[turned:] if w not in ("any", "more", "anymore", "longer"))
        return _becomes_value(index, owner, value, turned, here)
    found = _state_of(index, " ".join(plain[:-1]), plain[-1], here)
    return (found[0], _holds(*found)) if found is not None and plain[-1].endswith("s") else None


_BECOMES = frozenset(["becomes", "comes", "turns", "gets", "goes", "changes", "switches", "is"])


def _becomes_value(
    index: Index, typed: str, value: str, turned: bool, here: tuple[str, ...]
) -> tuple[str, Clause] | None:
    """Return a variable and the condition that it has a value, or with `turned` another: “mood changes to calm”."""
    found = known_variable(names_of(index), here, typed, "text")
    if found is not None and " or " in value and '"' not in value:
        # “the mood is calm or angry” is said of two values
        return None
    if found is not None and not found.begun and names_of(index).names_an_object(value):
        # “the mood turns to calm all moths …”: a second sentence begins there
        return None
    if found is not None and not found.begun:
        formula = f'{as_formula(found.text)} {"<>" if turned else "="} "{value.strip(chr(34))}"'
        return found.text, Clause(use="formula_holds", slots={"formula": formula})
    number = NUMBERS.get(value, value)
    found = known_variable(names_of(index), here, typed, "number")
    if found is not None and not found.begun and number.lstrip("-").replace(".", "", 1).isdigit():
        formula = f"{as_formula(found.text)} {'<>' if turned else '='} {number}"
        return found.text, Clause(use="formula_holds", slots={"formula": formula})
    found = known_variable(names_of(index), here, typed, "yes/no")
    if found is not None and not found.begun and value in ("true", "yes", "on", "false", "no", "off"):
        return found.text, _holds(found.text, (value in ("true", "yes", "on")) != turned)
    return None


def _holds(variable: str, on: bool) -> Clause:
    return Clause(use="formula_holds", slots={"formula": as_formula(variable)}, negated=not on)


def _set(variable: str, on: bool) -> Iterator[Clause]:
    if variable:
        yield Clause(use="set_variable", slots={"variable": variable, "value": "yes" if on else "no"})


def _yes_no(index: Index, typed: str, here: tuple[str, ...]) -> tuple[str, list[str]]:
    """Return the role that some words name, and the yes/no variables of its kind; ("", []) if they name none."""
    names = names_of(index)
    role = here[-1] if typed == "it" and here else getattr(names.role(typed), "name", "")
    known = index.role(role) if role else None
    if known is None or len(known.kinds) != 1:
        return "", []
    variables = index.kinds[known.kinds[0]].variables
    return role, [v.name for v in variables if isinstance(v.value, bool)]


def _switched(index: Index, typed: str, here: tuple[str, ...], *, alone: bool = False) -> str:
    """Return the variable of an object that “on” and “off” are about; "" if that is not clear."""
    role, names = _yes_no(index, typed, here)
    plain = {name.lower(): name for name in names}
    name = next((plain[one] for one in _SWITCHED if one in plain), "") if not alone else ""
    name = name or (names[0] if len(names) == 1 else "")
    return f"{role}.{name}" if name else ""


def _on_off_or_state(index: Index, typed: str, state: str, here: tuple[str, ...]) -> tuple[str, bool] | None:
    """Return the variable that “on”, “off” or another word of state is about, and whether it is then yes."""
    if state not in ("on", "off"):
        return _state_of(index, typed, state, here)
    switched = _switched(index, typed, here)
    return (switched, state == "on") if switched else None


def _state_of(index: Index, typed: str, state: str, here: tuple[str, ...]) -> tuple[str, bool] | None:
    """Return the variable of an object that a word names, and whether it names it or its opposite."""
    if not typed:
        return None
    role, names = _yes_no(index, typed, here)
    said = stem(state)
    said = _FORMS.get(said, said)
    for name in names:
        own = _FORMS.get(stem(name.lower()), stem(name.lower()))
        if said == own:
            return f"{role}.{name}", True
        if said == f"-{own}" or said == f"un{own}" or own in OPPOSITES.get(said, ()):
            return f"{role}.{name}", False
    return None
