"""Entries about conversations: with whom, and which topic is chosen."""

from gatillo.catalogue.entry import action, condition, occasion, role, slot
from gatillo.catalogue.facts import TopicChosen
from gatillo.catalogue.surroundings import NOBODY, Asked, Candidates, Deed, Rows
from gatillo.level.roles import Role


@occasion(
    "topic {topic} is chosen with {a}",
    "Once, when the player picks the topic in a conversation with an object that knows it.",
    wakes=lambda topic, a: [TopicChosen(topic)],
    topic=slot("topic"),
    a=role(),
)
def topic_chosen(world: Asked, topic: str, a: Role) -> Candidates:
    if world.chosen != topic:
        return NOBODY
    rows = world.talker(a)
    return Candidates(len(rows), {a.token: rows})


@condition("a conversation is going on", "Whether the player talks with someone.")
def is_talking(world: Asked) -> bool:
    return world.in_conversation


@action(
    "start a conversation with {who}",
    "Shows the topics that its kind knows; only one conversation goes on at a time.",
    one_shot=True,
    who=role(),
)
def start_conversation(deed: Deed, who: Rows) -> None:
    deed.talk(who)


@action("end the conversation", "The topics are no longer offered.")
def end_conversation(deed: Deed) -> None:
    deed.talk(None)
