"""Entries about conversations: with which object, and which topic is chosen."""

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, Candidates, Rows
from gatillo.catalogue.declare.entry import action, condition, occasion, role, slot
from gatillo.catalogue.declare.facts import TopicChosen
from gatillo.catalogue.declare.subjects import Subject
from gatillo.level.roles import Role

SUBJECT = Subject("talking", place=180)


@occasion(
    "topic {topic} is chosen with {a}",
    "Once, when the player picks the topic in a conversation with an object that knows it.",
    wakes=lambda topic, a: [TopicChosen(topic)],
    topic=slot("topic"),
    a=role(),
)
def topic_chosen(world: QueryApi, topic: str, a: Role) -> Candidates:
    if world.chosen != topic:
        return NOBODY
    rows = world.talker(a)
    return Candidates(len(rows), {a.token: rows})


@condition("a conversation is going on", "Whether the player talks with someone.")
def is_talking(world: QueryApi) -> bool:
    return world.in_conversation


@action(
    "start a conversation with {who}",
    "Shows the topics that its kind knows; only one conversation goes on at a time.",
    one_shot=True,
    who=role(),
)
def start_conversation(world: ActionApi, who: Rows) -> None:
    world.talk(who)


@action("end the conversation", "The topics are no longer offered.")
def end_conversation(world: ActionApi) -> None:
    world.talk(None)
