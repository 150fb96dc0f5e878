"""Finding what a question is about, by its name."""

from __future__ import annotations

from gatillo.inspect.reasons.reason_words import called
from gatillo.level.naming import did_you_mean
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.run.run import Run


def named_rule(run: Run, name: str) -> CompiledRule:
    """Return the rule or graph of a name. Raises KeyError with a sentence."""
    found = next((t for t in run.program.rules if t.source.name == name), None)
    if found is None:
        raise KeyError(
            f"there is no rule or graph “{name}”{did_you_mean(name, [rule.source.name for rule in run.program.rules])}"
        )
    return found


def named_object(run: Run, name: str) -> int:
    """Return the id of an object of a name, created by a rule or placed by hand. Raises KeyError with a sentence."""
    for object_id, known in run.program.names.items():
        if known == name:
            return object_id
    created = {called(run, object_id): object_id for object_id in run.world.created_of}
    if name in created:
        return created[name]
    known_names = [*run.program.names.values(), *created]
    raise KeyError(f"there is no object “{name}”{did_you_mean(name, known_names)}")
