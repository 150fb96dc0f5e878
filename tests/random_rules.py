"""Lines and modes of which random rules are made; they speak of moths, of a lamp, and of the level's n."""

from __future__ import annotations

from hypothesis import strategies as st

from building import add, c, isnt, send
from gatillo.level.model import Clause

CONDITIONS = st.sampled_from(
    [
        c("formula_holds", formula="Moth.x < 100"),
        isnt("formula_holds", formula="Moth.n > 3"),
        c("within", who="Moth", distance="60", where="Lamp"),
        isnt("within", who="Moth", distance="60", where="Lamp"),
        c("chance", percent="60"),
        c("within", who="another Moth", distance="60", where="Moth"),
        c("nearest", a="Moth", where="Lamp", per="all matches"),
    ]
)
ACTIONS = st.sampled_from(
    [
        add("Moth.n"),
        add("level.n", "random(0, 1)"),
        c("move_by", who="Moth", dx="random(-5, 5)"),
        send("go"),
        c("set_variable", variable="Lamp.n", value="Moth.x"),
        c("wait", time="0.05"),
        c("wait_until", formula="Moth.n > 2"),
        c("create", kind="Moth", where="Lamp"),
        c("note", text="{Moth.name}"),
        c("remove", who="Moth"),
        Clause(use="repeat", slots={"count": "2"}, of=(add("level.n", "random(0, 1)"),)),
        Clause(use="if_so", slots={"formula": "Moth.n mod 2 = 0"}, of=(add("Moth.n"), send("go"))),
        Clause(use="otherwise", of=(c("note", text="otherwise {Moth.x}"), add("level.n"))),
    ]
)
OCCASIONS = st.sampled_from(
    [
        (),
        (c("each_in_every_tick", who="Moth"),),
        (c("message_heard", message="go"),),
        (c("message_heard", message="go"), c("each_in_every_tick", who="Moth")),
        (
            c("each_in_every_tick", who="Lamp"),
            c("every_seconds", period="0.1"),
            c("message_heard", message="go"),
        ),
    ]
)
MODES = st.fixed_dictionaries(
    {
        "fires": st.sampled_from(["each tick", "each tick", "on becoming true", "first time only"]),
        "first_per": st.sampled_from(["rule", "object"]),
        "cooldown": st.sampled_from([0.0, 0.0, 0.07]),
        "cooldown_per": st.sampled_from(["rule", "object"]),
        "once_for_all": st.booleans(),
        "one_at_a_time": st.booleans(),
        "while_waiting": st.sampled_from(["stack", "ignore", "restart"]),
    }
)
