"""Entries about conversations: with which object, and which topic is chosen."""

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, Candidates, Rows
from gatillo.catalogue.declare.entry import action, condition, occasion, role, slot
from gatillo.catalogue.declare.facts import TopicChosen
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.level.roles import Role

SUBJECT = Subject("talking", place=180)


@occasion(
    "topic {topic} is chosen with {a}",
    "Once, when the player picks the topic in a conversation with an object that knows it.",
    wakes=lambda topic, a: [TopicChosen(topic)],
    topic=slot("topic"),
    a=role(),
    says=[
        "{a} is asked about {topic}",
        "ask/asks/talk/talks [to/with] {a} about {topic}",
        "player asks/talks [to/with] {a} about {topic}",
        "topic {topic} is picked/selected/asked/chosen with {a}",
        "{topic} is chosen/picked/selected with {a}",
        "conversation with {a} about/on {topic}",
        "{topic} is discussed with {a}",
        "talk/speak topic {topic} with/to {a}",
        "player talks/speaks about {topic}",
        "{a} talks/chats/speaks about {topic}",
        "{a} is asked about {topic}",
    ],
)
def topic_chosen(world: QueryApi, topic: str, a: Role) -> Candidates:
    if world.chosen != topic:
        return NOBODY
    rows = world.talker(a)
    return Candidates(len(rows), {a.token: rows})


@condition(
    "a conversation is going on",
    "Whether the player talks with someone.",
    says=[
        "conversation/talk/dialogue/dialog/chat is going/open/running/on/active",
        "conversation/talk/dialogue/dialog is going on",
        "someone/anyone/anybody/somebody is talking",
        "in/during [a] conversation/dialogue/dialog",
        "player is talking",
        worded("no conversation/talk/dialogue/dialog is going on", negated=True),
        worded("nobody is talking", negated=True),
    ],
)
def is_talking(world: QueryApi) -> bool:
    return world.in_conversation


@action(
    "start a conversation with {who}",
    "Shows the topics that its kind knows; only one conversation goes on at a time.",
    one_shot=True,
    who=role(),
    undone_by="end_conversation",
    says=[
        "talk/speak/chat with/to {who}",
        "begin/open/start [a/the] conversation/dialogue/dialog/talk/chat with {who}",
        "start/begin talking with/to {who}",
        "let [the] player talk to/with {who}",
        "converse with {who}",
        "strike up [a] conversation/talk with {who}",
    ],
)
def start_conversation(world: ActionApi, who: Rows) -> None:
    world.talk(who)


@action(
    "end the conversation",
    "The topics are no longer offered.",
    says=[
        "end/stop/close/finish/quit/leave [the] conversation/dialogue/dialog/talk/chat",
        "stop/finish/end talking",
        "conversation/dialogue/dialog/talk ends",
        "say goodbye",
    ],
)
def end_conversation(world: ActionApi) -> None:
    world.talk(None)
