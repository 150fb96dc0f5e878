"""Entries about messages between rules, and texts shown in the level."""

from typing import Any

from gatillo.catalogue.entry import action, occasion, role, seconds, slot
from gatillo.catalogue.surroundings import Asked, Candidates, Deed, Numbers, Rows


@occasion(
    "{message} is heard",
    "In the tick after the message was sent, once for each time it was sent.",
    wakes=lambda message: [("heard", message)],
    message=slot("message"),
)
def message_heard(world: Asked, message: str) -> Candidates:
    return Candidates(world.heard(message))


@action(
    "send {message}",
    "Every rule that listens hears it in the next tick, wherever it stands in the order.",
    one_shot=True,
    message=slot("message"),
)
def send_message(deed: Deed, message: str) -> None:
    deed.send(message)


@action(
    "say {text} at {who} for {time} s",
    "Shows a text above an object. A new text at the same object takes the place of the old.",
    one_shot=True,
    text=slot("text", "…"),
    who=role(),
    time=seconds("2"),
)
def say(deed: Deed, text: Any, who: Rows, time: Numbers) -> None:
    deed.say(who, text, time)
