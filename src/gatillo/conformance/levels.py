"""The small levels, in the groups in which a runtime can take them up: core, motion, graphs, interaction."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import msgspec
from msgspec.structs import replace

from gatillo.catalogue.declare.entry import CATALOGUE, Entry
from gatillo.conformance.random_rules import RandomLogic
from gatillo.conformance.scene import count, near, plainest, scene
from gatillo.files.exports import write_trace
from gatillo.files.level_file import encode_level
from gatillo.graphs.conversion import as_graph
from gatillo.level.edits import as_tried
from gatillo.level.model import Clause, Level, Rule, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial

CORE, MOTION, GRAPHS, INTERACTION = "core", "motion", "graphs", "interaction"
RANDOM, DRAWN = 60, 30
"""Levels of random rules, and how many of them are there as graphs too."""
AT_HALF = Clause(use="every_seconds", slots={"period": "0.5", "first": "0.5"})
ASKED = "Lamp.x > 30"
"""What is asked in the core, where nothing moves: it holds for one lamp and not for the other."""
OWN_NODE = "own node"
"""The type of a slot that names an own node: levels of those entries have one."""
STILL = frozenset({"changes", "flow", "messages", "time", "variables", "tags", "life"})
"""Subjects whose entries need neither motion nor a player: they belong to the core."""
MOVING = frozenset({"moving", "timed_moves", "falling", "bonds", "walking", "clips", "goals"})


@dataclass(frozen=True, slots=True)
class Small:
    """A small level: the group that it belongs to, and its file name without an ending."""

    group: str
    name: str
    level: Level


def small_levels() -> Iterator[Small]:
    """Yield every small level: random rules, each entry in its plainest use, and random rules as graphs."""
    for seed in range(RANDOM):
        yield Small(CORE, f"random-{seed:02}", random_level(seed))
    for entry in CATALOGUE.values():
        yield Small(_group(entry), f"{entry.group}-{entry.name.replace('_', '-')}", of_entry(entry))
    for seed in range(DRAWN):
        level = random_level(seed)
        drawn = replace(level, order=tuple(as_graph(one) for one in level.order if isinstance(one, Rule)))
        yield Small(GRAPHS, f"random-{seed:02}", replace(drawn, name=f"{level.name}, as graphs"))


def random_level(seed: int) -> Level:
    """Return the level of random rules of a seed, whose trial watches its numbers."""
    level = RandomLogic(seed).level()
    watches = (
        "level.u",
        "level.v",
        *(f"{o.name.replace(' ', '_')}.{v}" for o in level.objects for v in "pq"),
    )
    trial = Trial(name="trial", length=level.trials[0].length, watches=watches)
    return replace(level, name=f"Random rules {seed}", trials=(trial,))


def _uses_a_node(entry: Entry) -> bool:
    return any(slot.type == OWN_NODE for slot in entry.slots.values())


def _group(entry: Entry) -> str:
    if entry.group == "behaviour" or entry.subject in MOVING:
        return MOTION
    if _uses_a_node(entry):
        return GRAPHS
    return CORE if entry.subject in STILL else INTERACTION


def of_entry(entry: Entry) -> Level:
    """Return a level with an entry in its plainest use. In those of the core nothing moves by itself."""
    core = _group(entry) == CORE
    line = plainest(entry, formula=ASKED) if core else plainest(entry)
    if entry.holds:
        inner = Clause(use="formula_holds", slots={"formula": "Moth.x > 10"})
        line = replace(line, of=(inner,) if entry.holds == "conditions" else (count("level.m"),))
    name = entry.sentence
    if entry.group == "behaviour":
        wanted = (plainest(CATALOGUE[entry.wants]),) if entry.wants else ()
        return scene(name, note=entry.help, behaviours=(*wanted, line))
    if entry.group == "occasion":
        rule = Rule(id=1, name="r", when=(line,), do=(count("level.n"),))
    elif entry.group == "action":
        before = tuple(
            replace(plainest(one, formula=ASKED), of=(count("level.m", "2"),))
            for one in CATALOGUE.values()
            if entry.branch == "otherwise" and one.branch == "if"
        )
        rule = Rule(id=1, name="r", when=(AT_HALF,), do=(*before, line, count("level.n")))
    else:
        rule = Rule(id=1, name="r", when=(AT_HALF,), if_=(line,), do=(count("level.n"),))
    if _uses_a_node(entry):
        # each moth is a match, and the node is asked about each
        each = Clause(use="each_in_every_tick", slots={"who": "Moth"})
        return scene(name, replace(rule, when=(each,)), near(), note=entry.help)
    return scene(name, rule, note=entry.help, behaviours=() if core else None)


def run_of(level: Level) -> Run:
    """Return the run of a small level's trial."""
    trial = level.trials[0]
    return run_trial(Program(as_tried(level, trial)), trial)


def write_levels(folder: Path) -> dict[str, int]:
    """Write every small level and its trace into folders for each group, and a list of them; return how many of each group.

    Raises OSError where something cannot be written.
    """
    many: dict[str, int] = {}
    listed = []
    for small in small_levels():
        place = folder / small.group
        place.mkdir(parents=True, exist_ok=True)
        run = run_of(small.level)
        (place / f"{small.name}.gatillo").write_bytes(encode_level(small.level))
        write_trace(run, place / f"{small.name}.jsonl")
        many[small.group] = many.get(small.group, 0) + 1
        listed.append(
            {
                "group": small.group,
                "level": f"{small.group}/{small.name}.gatillo",
                "trace": f"{small.group}/{small.name}.jsonl",
                "about": small.level.name,
                "ticks": run.done,
                "digest": run.trace.digest(),
            }
        )
    (folder / "levels.json").write_bytes(msgspec.json.format(msgspec.json.encode(listed), indent=2) + b"\n")
    return many
