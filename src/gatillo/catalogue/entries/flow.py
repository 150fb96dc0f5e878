"""Entries that steer the rules themselves: timers, switching, repeating, ending, messages to the player."""

from typing import Any

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers
from gatillo.catalogue.declare.entry import action, number, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

SUBJECT = Subject("timers, switching, telling", place=120)


@action(
    "start timer {timer}",
    "Starts a timer, or continues it from its present time.",
    timer=slot("timer"),
    undone_by="stop_timer",
    says=[
        "continue/resume/unpause [the] timer {timer}",
        "continue/resume/unpause [the] {timer} timer",
        "run/begin/launch/start [the] timer/clock/stopwatch {timer}",
        "start/run/begin/launch [the] {timer} timer/clock/stopwatch",
        "timer {timer} starts",
        "set timer {timer} going",
        "let [the] {timer} timer/clock run/start/go",
        "let timer {timer} run/start/go",
    ],
)
def start_timer(world: ActionApi, timer: str) -> None:
    world.timer(timer, "start")


@action(
    "stop timer {timer}",
    "Stops a timer; it keeps its time.",
    timer=slot("timer"),
    says=[
        "halt/pause/freeze/end/stop [the] timer/clock/stopwatch {timer}",
        "stop/halt/pause/freeze/end [the] {timer} timer/clock/stopwatch",
        "hold/halt/freeze [the] {timer} timer",
        "hold/pause [the] timer {timer}",
        "timer {timer} stops",
    ],
)
def stop_timer(world: ActionApi, timer: str) -> None:
    world.timer(timer, "stop")


@action(
    "reset timer {timer}",
    "Sets a timer to 0; if it runs, it runs on from there.",
    timer=slot("timer"),
    says=[
        "bring/put/turn/set [the] timer {timer} back to zero/0/start",
        "bring/put/turn/set [the] {timer} timer/clock back to zero/0/start",
        "restart/zero/clear/rewind/reset [the] timer/clock/stopwatch {timer}",
        "reset/restart/zero/clear/rewind [the] {timer} timer/clock/stopwatch",
        worded("[the] {timer} [timer/clock] back to zero/0/start", known=True),
        "set/put/bring {timer} back to zero/0",
        "set [the] timer {timer} [back] to 0/zero",
        "set [the] {timer} timer [back] to 0/zero",
        "start {timer} timer over/again/afresh/anew",
        "start timer {timer} over/again/afresh/anew",
    ],
)
def reset_timer(world: ActionApi, timer: str) -> None:
    world.timer(timer, "reset")


@action(
    "switch rule {rule} on",
    "The rule takes its turn again, from now on.",
    rule=slot("rule"),
    undone_by="switch_rule_off",
    says=[
        "let {rule} fire/run/work [again]",
        "let rule {rule} fire/run/work [again]",
        "turn/switch on [the] [rule] {rule}",
        "turn/switch [the] [rule] {rule} [back] on",
        "turn/switch [the] {rule} rule on",
        "enable/activate [the] [rule] {rule}",
        "enable/activate [the] {rule} rule",
        "start rule {rule}",
        "let rule {rule} run/fire",
        "wake [up] rule {rule}",
        "let rule {rule} work/run/act [again]",
        "let {rule} work/run/act again",
        "let rule {rule} work/run/act",
    ],
)
def switch_rule_on(world: ActionApi, rule: str) -> None:
    world.switch(f"rule {rule}", True)


@action(
    "switch rule {rule} off",
    "The rule takes no more turns, from now on.",
    rule=slot("rule"),
    undone_by="switch_rule_on",
    says=[
        "do not let {rule} fire/run [again/anymore]",
        "turn/switch off [the] [rule] {rule}",
        "turn/switch [the] [rule] {rule} off",
        "turn/switch [the] {rule} rule off",
        "disable/deactivate/suspend [the] [rule] {rule}",
        "disable/deactivate/suspend [the] {rule} rule",
        "shut off/down [the] [rule] {rule}",
        "mute/silence/pause [the] rule {rule}",
        "mute/silence/pause [the] {rule} rule",
        "stop rule {rule}",
        "let rule {rule} sleep/rest",
        "put rule {rule} to sleep",
    ],
)
def switch_rule_off(world: ActionApi, rule: str) -> None:
    world.switch(f"rule {rule}", False)


@action(
    "switch section {section} on",
    "The section's rules take their turns again.",
    section=slot("section"),
    undone_by="switch_section_off",
    says=[
        "turn/switch on [the] section {section}",
        "turn/switch [the] section {section} on",
        "turn/switch [the] {section} section on",
        "turn/switch on [the] {section} section",
        "enable/activate/start [the] section {section}",
        "enable/activate/start [the] {section} section",
        "turn/switch {section} on",
    ],
)
def switch_section_on(world: ActionApi, section: str) -> None:
    world.switch(f"section {section}", True)


@action(
    "switch section {section} off",
    "The section's rules take no turn from now on.",
    section=slot("section"),
    undone_by="switch_section_on",
    says=[
        "turn/switch off [the] section {section}",
        "turn/switch [the] section {section} off",
        "turn/switch [the] {section} section off",
        "turn/switch off [the] {section} section",
        "disable/deactivate/stop/suspend [the] section {section}",
        "disable/deactivate/stop [the] {section} section",
        "turn/switch {section} off",
        "shut/close off/down [the] {section} section",
        "shut/close off/down [the] section {section}",
        "skip/ignore/omit [the] {section} section",
        "skip/ignore/omit [the] section {section}",
    ],
)
def switch_section_off(world: ActionApi, section: str) -> None:
    world.switch(f"section {section}", False)


@action(
    "repeat {count} times",
    "Does the lines within it several times, in the same tick.",
    holds="actions",
    count=number("3"),
    says=[
        "repeat/do [the] next/following line/lines {count} times",
        "do this/these/it/following {count} times",
        "loop [for] {count} [times]",
        "for {count} times",
        "{count} times",
        "repeat [this/these/it] {count}",
        "again {count} times",
        "do/run [the] next/following/rest [lines/actions/steps] {count} times",
        "run/do this/these/that {count} times",
    ],
)
def repeat(world: ActionApi, count: Numbers) -> None:
    """Carried out by the executor, line by line."""


@action(
    "if {formula}",
    "Does the lines within it for those matches for which the formula holds now.",
    holds="actions",
    branch="if",
    formula=slot("yes/no formula"),
    says=[
        "only if {formula}",
        "in case [that] {formula}",
        "do this/these only if {formula}",
        "provided [that] {formula}",
        "check whether/that/if {formula}",
    ],
)
def if_so(world: ActionApi, formula: Any) -> None:
    """Carried out by the executor, line by line."""


@action(
    "otherwise",
    "Does the lines within it for those matches for which the “if” just above did not hold.",
    holds="actions",
    branch="otherwise",
    says=[
        "else",
        "if not",
        "in any other case",
        "or else",
        "if none [of these]",
    ],
)
def otherwise(world: ActionApi) -> None:
    """Carried out by the executor, line by line."""


@action(
    "cancel the waits of {rule}",
    "Everything that waits in that rule is cancelled; the rule may fire again.",
    rule=slot("rule"),
    says=[
        "cancel/stop/end/drop everything/all that waits/is-waiting in {rule}",
        "cancel/stop/end/drop everything/all [still] waiting in {rule}",
        "stop/abort/clear/drop/forget/cancel [the] [all] waits/waiting/pauses of/in/for [rule] {rule}",
        "cancel/stop/abort what waits in {rule}",
        "stop waiting in {rule}",
        "cancel waits of rule {rule}",
        "abort [rule] {rule}",
    ],
)
def cancel_waits(world: ActionApi, rule: str) -> None:
    world.cancel_waits(rule)


@action(
    "end the trial",
    "The run ends after this tick.",
    one_shot=True,
    says=[
        "win/lose",
        "game/level/trial ends",
        "player wins/loses",
        "win/lose/end/finish [the] level/game as won/lost/success/failure/failed/passed",
        "end/finish/stop/quit [the] level/game/run/trial/test/simulation",
        "win/lose [the] level/game/run/trial",
        "end [the] [trial/level/game] with [a] win/loss/victory/defeat",
        "game over",
        "stop/end/finish everything",
        "level/game/run/trial is over",
        "that's it",
        "end it",
    ],
)
def end_trial(world: ActionApi) -> None:
    world.end()


@action(
    "tell the player {text}",
    "Shows a message until another comes or it is cleared.",
    text=slot("text", "…"),
    undone_by="clear_message",
    says=[
        "show/display/say {text} to [the] player",
        "show/display [the] message/hint/notice/text {text}",
        "show/display/tell [the] player [the] [message/hint] {text}",
        "give [the] player [the] message/hint/text {text}",
        "message/hint/inform/notify/alert [the] player {text}",
        "print/show/display/write {text} on [the] screen",
        "pop up [a/the] message/text/hint/notice saying/reading/that [says] {text}",
        "[put/bring] up [a/the] message/text/hint saying/reading/that [says] {text}",
        "pop up {text}",
        "hint {text}",
        "tell them {text}",
        "show/display/give/print [a/the] message/text/hint/notice saying/reading/that {text}",
        "show/display [the] message/words {text} [to the player]",
        "show/display [the] message/words {text} to the player",
        "tell the player that {text}",
        "announce {text}",
        "announce {text} to [the] player",
        "show [the] text/words/message {text} to [the] player",
        "display {text} [to/for] [the] [player]",
    ],
)
def tell_player(world: ActionApi, text: Any) -> None:
    world.show_message(text)


@action(
    "clear the message to the player",
    "Removes the message that is shown.",
    says=[
        "hide/remove/clear/erase/delete [the] message/text/hint/notice",
        "take away the message/text/hint",
        "stop telling the player",
        "hide/remove/clear/erase/delete all [the] messages/texts/hints",
        "clear the screen",
        "message/hint goes away",
        "take/wipe/remove [the] message/text away/off",
        "remove/clear/delete [the] player 's message/text",
    ],
)
def clear_message(world: ActionApi) -> None:
    world.show_message("")


@action(
    "note {text} to the trace",
    "Writes a text into the trace.",
    text=slot("text", "…"),
    says=[
        "debug/trace {text}",
        "log/print/record {text}",
        "log/print/record/write/put/note {text} to/in/into [the] log/trace/console/record",
        "note down {text}",
        "note/log that {text}",
        "note {text}",
        "add {text} to the trace/log",
        "write/log/record {text} to/in/into [the] trace/log",
        "write down {text} [in/to/into the trace]",
    ],
)
def note(world: ActionApi, text: Any) -> None:
    world.note(text)
