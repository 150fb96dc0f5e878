"""Entries that steer the rules themselves: timers, switching, repeating, ending, messages to the player."""

from typing import Any

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers
from gatillo.catalogue.declare.entry import action, number, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("timers, switching, telling", place=120)


@action("start timer {timer}", "Starts a timer, or continues it from its present time.", timer=slot("timer"))
def start_timer(world: ActionApi, timer: str) -> None:
    world.timer(timer, "start")


@action("stop timer {timer}", "Stops a timer; it keeps its time.", timer=slot("timer"))
def stop_timer(world: ActionApi, timer: str) -> None:
    world.timer(timer, "stop")


@action("reset timer {timer}", "Sets a timer to 0; if it runs, it runs on from there.", timer=slot("timer"))
def reset_timer(world: ActionApi, timer: str) -> None:
    world.timer(timer, "reset")


@action(
    "switch rule {rule} on",
    "The rule takes its turn again, from now on.",
    rule=slot("rule"),
)
def switch_rule_on(world: ActionApi, rule: str) -> None:
    world.switch(f"rule {rule}", True)


@action("switch rule {rule} off", "The rule takes no more turns, from now on.", rule=slot("rule"))
def switch_rule_off(world: ActionApi, rule: str) -> None:
    world.switch(f"rule {rule}", False)


@action(
    "switch section {section} on",
    "The section's rules take their turns again.",
    section=slot("section"),
)
def switch_section_on(world: ActionApi, section: str) -> None:
    world.switch(f"section {section}", True)


@action(
    "switch section {section} off",
    "The section's rules take no turn from now on.",
    section=slot("section"),
)
def switch_section_off(world: ActionApi, section: str) -> None:
    world.switch(f"section {section}", False)


@action(
    "repeat {count} times",
    "Does the lines within it several times, in the same tick.",
    holds="actions",
    count=number("3"),
)
def repeat(world: ActionApi, count: Numbers) -> None:
    """Carried out by the executor, line by line."""


@action(
    "if {formula}",
    "Does the lines within it for those matches for which the formula holds now.",
    holds="actions",
    branch="if",
    formula=slot("yes/no formula"),
)
def if_so(world: ActionApi, formula: Any) -> None:
    """Carried out by the executor, line by line."""


@action(
    "otherwise",
    "Does the lines within it for those matches for which the “if” just above did not hold.",
    holds="actions",
    branch="otherwise",
)
def otherwise(world: ActionApi) -> None:
    """Carried out by the executor, line by line."""


@action(
    "cancel the waits of {rule}",
    "Everything that waits in that rule is cancelled; the rule may fire again.",
    rule=slot("rule"),
)
def cancel_waits(world: ActionApi, rule: str) -> None:
    world.cancel_waits(rule)


@action("end the trial", "The run ends after this tick.", one_shot=True)
def end_trial(world: ActionApi) -> None:
    world.end()


@action(
    "tell the player {text}", "Shows a message until another comes or it is cleared.", text=slot("text", "…")
)
def tell_player(world: ActionApi, text: Any) -> None:
    world.show_message(text)


@action("clear the message to the player", "Removes the message that is shown.")
def clear_message(world: ActionApi) -> None:
    world.show_message("")


@action("note {text} to the trace", "Writes a text into the trace.", text=slot("text", "…"))
def note(world: ActionApi, text: Any) -> None:
    world.note(text)
