"""A variable of the level and one of a kind may have one name: each answers with what set it."""

from __future__ import annotations

import pytest

from building import START, c, kind, level, rule, run, things
from gatillo.inspect.reasons.why import Explainer


@pytest.mark.parametrize(("start", "value"), [(1.0, "5"), ((1.0, 2.0), "(5, 6)"), ("a", '"b"')])
def test_a_value_is_explained_by_the_line_that_set_it(start, value):
    first = c("set_variable", variable="level.mark", value=value)
    second = c("set_variable", variable="Moth.mark", value=value)
    for lines, of_level in (((first, second), 1), ((second, first), 2)):
        built = level(
            rule("set", when=START, do=lines),
            kinds=(kind("Moth", has={"mark": start}),),
            objects=things("Moth", (0, 0)),
            has={"mark": start},
        )
        explainer = Explainer(run(built, 3))
        for formula, action in (("level.mark", of_level), ("Moth_1.mark", 3 - of_level)):
            assert f"action {action}" in "\n".join(explainer.value(formula, 3).lines(2))
