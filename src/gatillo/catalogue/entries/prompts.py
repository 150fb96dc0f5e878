"""Entries about prompts: what an object offers to objects near it, and the menus they open."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.prompts import PromptApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, PromptTerms, Rows
from gatillo.catalogue.declare.entry import (
    Kernel,
    action,
    any_key,
    behaviour,
    choice,
    condition,
    number,
    occasion,
    role,
    seconds,
    slot,
)
from gatillo.catalogue.declare.facts import PromptChanged
from gatillo.catalogue.declare.slot_types import menu_entries
from gatillo.catalogue.declare.subjects import Subject
from gatillo.kernels import prompting
from gatillo.level.roles import Role

SUBJECT = Subject("prompts and menus", place=170)

CLEAR = "in clear view"


@behaviour(
    "offer the prompt {text} to {by}: hold {key} for {hold} s within {reach}, {view}; "
    "it then rests {rest} s; menu: {entries}",
    "Objects that are named and near enough can answer it by a key; of several prompts on one key, the "
    "nearest is offered. Releasing the key early breaks it off. With a menu, answering it offers the "
    "entries.",
    phase="prompts",
    kernel=Kernel(prompting.nobody_near, "puts"),
    text=slot("text", "use"),
    by=role("the objects to which it is offered"),
    key=any_key("F"),
    hold=seconds("0", "how long the key must be held; 0 for a press"),
    reach=number("60", "units between the middles"),
    view=choice(CLEAR, "even without a clear view"),
    rest=seconds("0", "how long it is not offered after it was completed"),
    entries=slot("entries"),
    says=[
        "interact/use with key",
        "press/hold key to use",
        "interaction/action hint/prompt",
        "menu of choices",
    ],
)
def prompt(
    presence: PromptApi,
    rows: Rows,
    text: Any,
    by: Role,
    key: str,
    hold: Any,
    reach: Any,
    view: str,
    rest: Any,
    entries: str,
) -> None:
    presence.offer(rows, PromptTerms(text, by, key, view == CLEAR, menu_entries(entries)), hold, reach, rest)


def menu_conditions(text: str) -> dict[str, str]:
    """Return the condition of each entry of a menu as a formula, "" for always."""
    parts = [e.partition(" if ") for e in text.split("|") if e.strip()]
    return {name.strip(): asked.strip() for name, _, asked in parts}


def _prompts(world: QueryApi, what: str, a: Role, by: Role, entry: str = "") -> Candidates:
    answered, answerers = world.prompts(what, a, by, entry)
    return Candidates(len(answered), {a.token: answered, by.token: answerers})


@occasion(
    "the prompt on {a} is begun by {by}",
    "Once, in the tick in which its key goes down while it is offered.",
    wakes=lambda a, by: [PromptChanged("begun")],
    a=role("what offers it"),
    by=role("who answers it"),
    says=[
        "{by} starts/begins [the] prompt on/of {a}",
        "prompt on/of {a} is started [by {by}]",
        "{by} starts/begins using {a}",
        "{a} prompt starts/begins",
        "[the] player opens/uses/answers/starts [the] {a} prompt",
        "[the] player opens/uses/answers/starts [the] prompt of/on/at {a}",
    ],
)
def prompt_begun(world: QueryApi, a: Role, by: Role) -> Candidates:
    return _prompts(world, "begun", a, by)


@occasion(
    "the prompt on {a} is completed by {by}",
    "Once, when its key has been held for as long as it asks for.",
    wakes=lambda a, by: [PromptChanged("completed")],
    a=role("what offers it"),
    by=role("who answers it"),
    says=[
        "{by} completes/finishes/answers [the] prompt on/of {a}",
        "prompt on/of {a} is done/finished/answered [by {by}]",
        "{by} uses {a}",
        "{by} interacts with {a}",
        "{a} is used by! {by}",
        "prompt done/finished/completed/used/answered on/at {a} [by {by}]",
        "{by} used {a}",
        "{a} 's prompt is used/done/finished/completed/answered [by {by}]",
        "[the] prompt of/on/at {a} is used",
    ],
)
def prompt_completed(world: QueryApi, a: Role, by: Role) -> Candidates:
    return _prompts(world, "completed", a, by)


@occasion(
    "the prompt on {a} is broken off by {by}",
    "Once, when the key is released too early, when it can no longer be answered, or when its menu is "
    "closed.",
    wakes=lambda a, by: [PromptChanged("broken off")],
    a=role("what offers it"),
    by=role("who answers it"),
    says=[
        "{by} breaks off [the] prompt on/of {a}",
        "{by} cancels/aborts/interrupts [the] prompt on/of {a}",
        "prompt on/of {a} is cancelled/canceled/aborted/interrupted [by {by}]",
        "{by} stops using {a}",
        "{by} gives up on {a}",
        "[the] {a} prompt is interrupted/aborted/cancelled/stopped",
    ],
)
def prompt_broken_off(world: QueryApi, a: Role, by: Role) -> Candidates:
    return _prompts(world, "broken off", a, by)


@occasion(
    "{entry} is chosen from the menu of {a} by {by}",
    "Once, when an entry of the menu that a prompt opened is chosen.",
    wakes=lambda entry, a, by: [PromptChanged("chosen")],
    entry=slot("entry"),
    a=role("what offers it"),
    by=role("who answers it"),
    says=[
        "{by} chooses/picks/selects {entry} from/in/on [the] [menu] [of] {a}",
        "{entry} is picked/selected/clicked/chosen from/in/on [the] [menu] [of] {a} [by {by}]",
        "menu entry/choice {entry} of {a}",
        "{by} takes {entry} from the menu of {a}",
        "{entry} is picked/chosen/selected from {a} 's menu",
        "{entry} is picked/chosen/selected from [the] {a} menu",
        "player chooses/picks/selects {entry}",
        "player chooses/picks/selects {entry} at/from/on {a}",
        "{by} picks/chooses/selects {entry} from {a} 's menu",
        "{by} picks/chooses/selects {entry} from [the] menu of {a}",
    ],
)
def entry_chosen(world: QueryApi, entry: str, a: Role, by: Role) -> Candidates:
    return _prompts(world, "chosen", a, by, entry)


@condition(
    "the prompt on {a} is offered to {by}",
    "Whether it could be answered in this tick.",
    a=role("what offers it"),
    by=role("the objects to which it is offered"),
    says=[
        "[the] prompt on/of/of-the {a} is available/offered to/for {by}",
        "[the] prompt on/of {a} is showing/shown/visible/open to/for {by}",
        "{by} can use {a}",
        "[the] prompt [on/of/at] {a} can be used/answered [by {by}]",
        "[the] {a} prompt can be used/answered [by {by}]",
        "{a} 's prompt can be used/answered [by {by}]",
        "prompt can be used/answered",
        "{by} can answer [the] prompt on/of {a}",
        "prompt on/of {a} is shown/available/visible/up [to/for {by}]",
        "{a} offers/shows [its/the/a] prompt [to {by}]",
        "there is a prompt on {a} for {by}",
        "{a} 's prompt is available/offered/shown",
        "[the] prompt on/of/at {a} is available",
    ],
)
def prompt_offered(world: QueryApi, a: Rows, by: Rows) -> NDArray[np.bool_]:
    return world.are_offered(a, by)


@action(
    "enable the prompt on {who}",
    "It is offered again.",
    who=role(),
    undone_by="disable_prompt",
    says=[
        "turn/switch on [the] prompt on/of/for {who}",
        "turn/switch [the] prompt on/of/for {who} on",
        "show/offer/activate/allow/unlock [the] prompt on/of/for {who}",
        "enable/activate {who} 's prompt",
        "enable prompt of/for {who}",
    ],
)
def enable_prompt(world: ActionApi, who: Rows) -> None:
    world.switch_behaviour(who, "prompt", True)


@action(
    "disable the prompt on {who}",
    "It is no longer offered; one that has begun is broken off.",
    who=role(),
    undone_by="enable_prompt",
    says=[
        "close/cancel/withdraw [the] prompt on/of/for {who}",
        "close/hide/cancel {who} 's prompt",
        "turn/switch off [the] prompt on/of/for {who}",
        "turn/switch [the] prompt on/of/for {who} off",
        "hide/deactivate/forbid/block/remove/lock [the] prompt on/of/for {who}",
        "disable/deactivate {who} 's prompt",
        "disable prompt of/for {who}",
    ],
)
def disable_prompt(world: ActionApi, who: Rows) -> None:
    world.switch_behaviour(who, "prompt", False)
