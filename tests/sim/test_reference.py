"""Matching against a reference in plain Python: candidates, conditions with subjects and negation, groups, picks, else."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from building import c, kind, level, rule, run, things
from gatillo.level.model import Clause

ROLES = {"Gull": "Gull", "another Gull": "Gull", "Lamp": "Lamp"}


def is_true(line, match):
    """Whether one condition holds for one match; `match` holds objects by their roles."""
    what, *rest = line
    if what == "above":
        role, limit = rest
        return match[role].values["v"] > limit
    if what == "near":
        one, other, far = (match[rest[0]], match[rest[1]], rest[2])
        return (one.x - other.x) ** 2 + (one.y - other.y) ** 2 <= far**2
    if what == "same":
        return match[rest[0]].values["v"] == match[rest[1]].values["v"]
    some = [is_true(inner, match) is not inner_negated for inner, inner_negated in rest[0]]
    return all(some) if what == "all" else any(some) is not (what == "none")


def roles_of(line):
    if line[0] == "pick":
        return list(dict.fromkeys(word for word in line[2:4] if word in ROLES))
    if line[0] in ("all", "any", "none"):
        return list(dict.fromkeys(role for inner, _ in line[1] for role in roles_of(inner)))
    return [word for word in line[1:] if isinstance(word, str)]


def joined(matches, role, objects):
    """Every match with every object for a role, never the same object twice for roles of one kind."""
    return [
        (unit, {**match, role: thing})
        for unit, match in matches
        for thing in objects
        if thing.kind == ROLES[role]
        and not any(other is thing and ROLES[r] == ROLES[role] for r, other in match.items())
    ]


def picked(line, matches):
    """Of the matches (of each object of a role) the one with the lowest or highest value, or the first so many."""
    _, how, role, per, count = line
    groups = {}
    for at, (_, match) in enumerate(matches):
        groups.setdefault(None if per == "all matches" else match[per].name, []).append(at)
    sign = {"lowest": 1, "highest": -1, "first": 0}[how]
    kept = []
    for some in groups.values():
        best = sorted(some, key=lambda at: sign * matches[at][1][role].values["v"] if role in ROLES else 0)
        kept += best[: count if how == "first" else 1]
    return [matches[at] for at in sorted(kept)]


def asked(line, negated, brings, matches, objects):
    """The matches that pass one condition: its subject is there, others are looked for."""
    for role in roles_of(line)[:1]:
        if matches and role not in matches[0][1]:
            matches = joined(matches, role, objects)
    if line[0] == "none" and not negated:
        for inner, inner_negated in line[1]:
            matches = asked(inner, not inner_negated, False, matches, objects)
        return matches
    if line[0] == "none":
        line, negated = ("any", line[1]), False
    if line[0] == "pick":
        for role in roles_of(line):
            if matches and role not in matches[0][1]:
                matches = joined(matches, role, objects)
        return picked(line, matches)
    passed = []
    for unit, match in matches:
        found = [(unit, match)]
        missing = [role for role in roles_of(line) if role not in match]
        for role in missing:
            found = joined(found, role, objects)
        if missing and (negated or not brings):
            if any(is_true(line, m) for _, m in found) is not negated:
                passed.append((unit, match))
        else:
            passed += [(u, m) for u, m in found if is_true(line, m) is not negated]
    return passed


def reference(occasions, lines, objects):
    """What fires and what fails: two lists of matches."""
    matches, failed = [((), {})], []
    come = [role for role in occasions if any(thing.kind == role for thing in objects)]
    if occasions and not come:
        return [], []
    for role in come:
        matches = [((*unit, m[role].name), m) for unit, m in joined(matches, role, objects)]
    for line, negated in lines:
        subject = roles_of(line)[:1]
        units = {unit: None for unit, _ in matches}
        if subject and matches and subject[0] not in matches[0][1]:
            matches = [((*unit, m[subject[0]].name), m) for unit, m in joined(matches, subject[0], objects)]
            units = dict(matches)
        matches = asked(line, negated, True, matches, objects)
        left = {unit for unit, _ in matches}
        failed += [unit for unit in units if unit not in left]
    return [m for _, m in matches], failed


plain = st.one_of(
    st.tuples(st.just("above"), st.sampled_from(sorted(ROLES)), st.integers(0, 2)),
    st.tuples(
        st.just("near"), st.sampled_from(["Gull", "another Gull"]), st.just("Lamp"), st.integers(5, 40)
    ),
    st.tuples(
        st.just("near"), st.just("Lamp"), st.sampled_from(["Gull", "another Gull"]), st.integers(5, 40)
    ),
    st.tuples(st.just("near"), st.just("Gull"), st.just("another Gull"), st.integers(5, 40)),
    st.tuples(st.just("same"), st.sampled_from(["Gull", "another Gull"]), st.just("Lamp")),
)
lined = st.tuples(plain, st.booleans())
kinds_of_group = st.sampled_from(["all", "any", "none"])
inner = st.tuples(st.tuples(kinds_of_group, st.lists(lined, min_size=1, max_size=2)), st.booleans())
grouped = st.tuples(
    st.tuples(kinds_of_group, st.lists(st.one_of(lined, lined, inner), min_size=1, max_size=2)), st.booleans()
)
extremes = st.tuples(
    st.just("pick"),
    st.sampled_from(["lowest", "highest"]),
    st.sampled_from(sorted(ROLES)),
    st.sampled_from(["all matches", "Gull", "Lamp"]),
    st.just(1),
)
firsts = st.tuples(
    st.just("pick"),
    st.just("first"),
    st.just(""),
    st.sampled_from(["all matches", "Gull", "Lamp"]),
    st.integers(0, 3),
)
picks = st.tuples(st.one_of(extremes, firsts), st.just(False))
rules = st.lists(st.one_of(lined, lined, grouped, picks), min_size=1, max_size=3)
begins = st.sampled_from([[], [], ["Gull"], ["Lamp"], ["Gull", "Lamp"], ["Lamp", "Gull"]])


def clause(line, negated):
    what, *rest = line
    if what == "above":
        made = c("compare", left=f"{rest[0].replace(' ', '_')}.v", comparison=">", right=str(rest[1]))
    elif what == "near":
        made = c("within", who=rest[0], distance=str(rest[2]), where=rest[1])
    elif what == "pick":
        how, role, per, count = rest
        if how == "first":
            return c("first_n", count=str(count), per=per)
        return c("best_by", end=how, value=f"{role.replace(' ', '_')}.v", per=per)
    elif what == "same":
        one, other = (role.replace(" ", "_") for role in rest)
        made = c("formula_holds", formula=f"{one}.v = {other}.v")
    else:
        made = Clause(use=f"{what}_of", of=tuple(clause(*inner) for inner in rest[0]))
    return replace(made, negated=negated)


spots = st.tuples(st.integers(0, 40), st.integers(0, 40), st.integers(0, 2))


@settings(max_examples=300, deadline=None)
@given(begins, rules, st.lists(spots, max_size=4), st.lists(spots, max_size=3))
def test_random_rules_match_pass_and_fail_as_in_a_plain_loop(occasions, lines, gulls, lamps):
    def placed(of, some, first):
        made = things(of, *((float(x), float(y)) for x, y, _ in some), first=first)
        return tuple(replace(o, values={"v": float(v)}) for o, (_, _, v) in zip(made, some, strict=True))

    objects = (*placed("Gull", gulls, 1), *placed("Lamp", lamps, 50))
    built = level(
        rule(
            "r",
            when=[c("each_in_every_tick", who=role) for role in occasions],
            if_=[clause(*line) for line in lines],
            do=c("add_to", variable="level.n", amount="1"),
            else_=c("add_to", variable="level.m", amount="1"),
        ),
        has={"n": 0.0, "m": 0.0},
        kinds=tuple(kind(name, 2, has={"v": 0.0}, contact="none") for name in ("Gull", "Lamp")),
        objects=objects,
    )
    made = run(built, 1)
    passed, failed = reference(occasions, lines, objects)
    seen = made.witness(1)
    names = {o.id: o.name for o in objects}
    assert made.world.level["n"] == len(passed)
    assert made.world.level["m"] == len(failed)
    if passed and passed[0]:
        fired = seen[0].ids
        got = [dict(zip(fired, match, strict=True)) for match in zip(*fired.values(), strict=True)]
        got = [{role.replace("_", " "): names[i] for role, i in match.items()} for match in got]
        assert got == [{role: o.name for role, o in match.items()} for match in passed]
