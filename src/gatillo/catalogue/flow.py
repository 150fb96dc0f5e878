"""Entries that steer the rules themselves: timers, switching, repeating, ending, telling."""

from typing import Any

from gatillo.catalogue.entry import action, number, slot
from gatillo.catalogue.surroundings import Deed, Numbers


@action("start timer {timer}", "Starts a timer, or continues it from its present time.", timer=slot("timer"))
def start_timer(deed: Deed, timer: str) -> None:
    deed.timer(timer, "start")


@action("stop timer {timer}", "Stops a timer; it keeps its time.", timer=slot("timer"))
def stop_timer(deed: Deed, timer: str) -> None:
    deed.timer(timer, "stop")


@action("reset timer {timer}", "Sets a timer to 0; if it runs, it runs on from there.", timer=slot("timer"))
def reset_timer(deed: Deed, timer: str) -> None:
    deed.timer(timer, "reset")


@action(
    "switch rule {rule} on",
    "The rule takes its turn again, from now on.",
    rule=slot("rule"),
)
def switch_rule_on(deed: Deed, rule: str) -> None:
    deed.switch(f"rule {rule}", True)


@action("switch rule {rule} off", "The rule takes no more turns, from now on.", rule=slot("rule"))
def switch_rule_off(deed: Deed, rule: str) -> None:
    deed.switch(f"rule {rule}", False)


@action(
    "switch section {section} on",
    "The section's rules take their turns again.",
    section=slot("section"),
)
def switch_section_on(deed: Deed, section: str) -> None:
    deed.switch(f"section {section}", True)


@action(
    "switch section {section} off",
    "The section's rules take no turn from now on.",
    section=slot("section"),
)
def switch_section_off(deed: Deed, section: str) -> None:
    deed.switch(f"section {section}", False)


@action(
    "repeat {count} times",
    "Does the lines within it several times, in the same tick.",
    holds="actions",
    count=number("3"),
)
def repeat(deed: Deed, count: Numbers) -> None:
    """Carried out by the executor, line by line."""


@action(
    "if {formula}",
    "Does the lines within it for those matches for which the formula holds now.",
    holds="actions",
    branch="if",
    formula=slot("yes/no formula"),
)
def if_so(deed: Deed, formula: Any) -> None:
    """Carried out by the executor, line by line."""


@action(
    "otherwise",
    "Does the lines within it for those matches for which the “if” just above did not hold.",
    holds="actions",
    branch="otherwise",
)
def otherwise(deed: Deed) -> None:
    """Carried out by the executor, line by line."""


@action(
    "cancel the waits of {rule}",
    "Everything that waits in that rule is cancelled; the rule may fire again.",
    rule=slot("rule"),
)
def cancel_waits(deed: Deed, rule: str) -> None:
    deed.cancel_waits(rule)


@action("end the trial", "The run ends after this tick.", one_shot=True)
def end_trial(deed: Deed) -> None:
    deed.end()


@action(
    "tell the player {text}", "Shows a message until another comes or it is cleared.", text=slot("text", "…")
)
def tell_player(deed: Deed, text: Any) -> None:
    deed.tell(text)


@action("clear the message to the player", "Removes the message that is shown.")
def clear_message(deed: Deed) -> None:
    deed.tell("")


@action("note {text} to the trace", "Writes a text into the trace.", text=slot("text", "…"))
def note(deed: Deed, text: Any) -> None:
    deed.note(text)
