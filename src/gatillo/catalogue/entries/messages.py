"""Entries about messages between rules, and texts shown in the level."""

from typing import Any

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, Numbers, Rows
from gatillo.catalogue.declare.entry import action, choice, condition, number, occasion, role, seconds, slot
from gatillo.catalogue.declare.facts import Heard
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.catalogue.entries.variables import COMPARISONS
from gatillo.level.roles import Role

SUBJECT = Subject("messages", place=50)


@occasion(
    "{message} is heard",
    "In the tick after the message was sent, once for each time.",
    wakes=lambda message: [Heard(message)],
    message=slot("message"),
    says=[
        "{message} message/signal comes/arrives [in]",
        "{message} arrives/received/comes",
        "{message} comes in",
        "hear/receive/get/hears/receives {message}",
        "[message/signal] {message} is received/sent/broadcast/heard",
        "message/signal {message} arrives/comes",
        "on message/signal {message}",
        "on/upon {message}",
        "message/signal {message}",
        "{message} message/signal",
        "someone/somebody/anyone/anything says/sends/shouts/broadcasts {message}",
        "message {message} comes/arrives [in]",
        worded("[the] {message} sounds/rings/goes [off]", known=True),
        worded("[the] {message} is raised/sounded/given/triggered", known=True),
    ],
)
def message_heard(world: QueryApi, message: str) -> Candidates:
    return Candidates(world.heard(message))


@occasion(
    "{message} is heard from {a}",
    "In the tick after an object sent it, once for each sender.",
    wakes=lambda message, a: [Heard(message)],
    message=slot("message"),
    a=role("who sent it"),
    says=[
        "{message} from {a}",
        "{message} was/is sent/heard/received by/from {a}",
        "{message} is received/arrives/comes from {a}",
        "{message} comes from {a}",
        "message/signal {message} from {a}",
        "message/signal {message} comes/arrives from {a}",
        "{message} from {a} is heard/received",
        "{a} sends/broadcasts/emits/shouts {message}",
        "{a} has sent {message}",
        "hear/receive {message} from {a}",
        "{message} is sent/broadcast by {a}",
    ],
)
def heard_from(world: QueryApi, message: str, a: Role) -> Candidates:
    rows = world.senders(message, a)
    return Candidates(len(rows), {a.token: rows})


@condition(
    "the number sent with {message} by {a} is {comparison} {limit}",
    "Compares the number that an object sent with a message in the previous tick; the last one if it "
    "sent several.",
    message=slot("message"),
    a=role("who sent it"),
    comparison=choice("=", ">", ">=", "<>", "<=", "<"),
    limit=number("0"),
    measured=("sent", "message", "a", "comparison", "limit"),
    says=[
        "{message} came/comes/arrived/arrives/is-heard/was-sent with [a/the] number/value [that] [is] {comparison} {limit}",
        "{message} carries/has [a/the] number/value {comparison} {limit}",
        "{message} carries/has [a/the] number/value {limit}",
        "number/value sent with {message} [by/from {a}] is {comparison} {limit}",
        "number/value from {a} with {message} is {comparison} {limit}",
        "{a} sent {message} with [a] number {comparison} {limit}",
        "number/value of {message} [by/from {a}] is {comparison} {limit}",
    ],
)
def sent_number(world: QueryApi, message: str, a: Rows, comparison: str, limit: Numbers) -> Any:
    return COMPARISONS[comparison](world.sent_numbers(message, a), limit)


@action(
    "let {who} send {message} with the number {number}",
    "Sends a message with its sender and a number; “is heard from” tells senders apart.",
    one_shot=True,
    who=role(),
    message=slot("message"),
    number=number("0"),
    says=[
        "{who} sends/broadcasts/emits/shouts {message} [with] [the] [number] {number}",
        "{who} sends/broadcasts/emits/shouts {message}",
        "send/broadcast/emit {message} from/by {who} [with] [the] [number] {number}",
        "let/make {who} send/broadcast/emit/shout {message} [with] [the] [number/value] {number}",
        "send/broadcast/emit {message} with [the] [number/value] {number} from/by {who}",
        "as {who} send {message}",
    ],
)
def send_from(world: ActionApi, who: Rows, message: str, number: Numbers) -> None:
    world.send(message, who, number)


@action(
    "send {message}",
    "Every rule that listens hears it in the next tick, wherever the rule is in the order.",
    one_shot=True,
    message=slot("message"),
    says=[
        "tell/announce {message} to all/everyone/everybody",
        "send/broadcast/emit {message} to everyone/everybody/all",
        "broadcast/emit/post/fire/raise/shout/announce/signal/trigger/dispatch [the] [message/signal/event] {message}",
        "send [the] [message/signal/event] {message}",
        "send out {message}",
        "call out {message}",
        "tell everyone {message}",
        "signal/trigger/raise/fire/sound [the] [message/signal] {message}",
        "send/broadcast [the] message {message} to everyone/all/everybody",
        "send/broadcast {message} to everyone/all/everybody",
        worded("{message} goes off", known=True),
        worded("{message} sounds/rings", known=True),
        "set off [the] {message}",
    ],
)
def send_message(world: ActionApi, message: str) -> None:
    world.send(message)


@action(
    "say {text} at {who} for {time} s",
    "Shows a text above an object. A new text at the same object replaces it.",
    one_shot=True,
    text=slot("text", "…"),
    who=role(),
    time=seconds("2"),
    says=[
        "say at/above {who} {text}",
        "say/shout {text} for {time}",
        "{who} says/speaks/shouts {text} for {time}",
        "{who} says/speaks/shouts {text}",
        "let/make {who} say/speak/shout {text} for {time}",
        "let/make {who} say/speak/shout {text}",
        "say/write/show {text} at/to/from/above/over/by/near {who} for {time}",
        "say {text} for {time} at/above/over {who}",
        "speech bubble {text} at/over/above/by {who} for {time}",
        "show/display [speech] {text} at/above/over/near {who} for {time}",
        "show/display/write/say the text/words {text} at/above/over/near/on {who} for {time}",
        "tell {who} {text}",
    ],
)
def say(world: ActionApi, text: Any, who: Rows, time: Numbers) -> None:
    world.say(who, text, time)
