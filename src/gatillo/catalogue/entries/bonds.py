"""Entries about what objects carry: attached objects and items."""

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import action, choice, number, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

SUBJECT = Subject("attaching, items", place=160)


@action(
    "attach {who} to {carrier}, {how}",
    "It follows its carrier and turns with it, until detached.",
    who=role(),
    carrier=role(),
    how=choice("keeping the offset", "at its middle"),
    undone_by="detach",
    says=[
        "fix/tie/bind/fasten/stick/glue/join/hook/parent/connect/pin/link {who} to/on/onto/with {carrier} {how}",
        "pick up {who} with {carrier} {how}",
        "pick {who} up with {carrier} {how}",
        "move/keep/go/bring {who} [along] with! {carrier}",
        "{who} moves/goes/comes [along] with! {carrier}",
        "{carrier} picks up {who}",
        "{carrier} grabs/takes/holds/carries {who}",
        "let {carrier} carry/hold/grab/take {who}",
        "grab/hold/carry {who} with/by/on {carrier} {how}",
        "attach {who} on/onto/with {carrier} {how}",
        "let/make {who} ride [on/in] {carrier}",
        "{who} rides [on/in] {carrier}",
        "hang/mount/strap/nail {who} on/onto/to/from {carrier} {how}",
    ],
)
def attach(world: ActionApi, who: Rows, carrier: Rows, how: str) -> None:
    world.attach(who, carrier, how == "keeping the offset", 0.0)


@action(
    "attach {who} to {carrier}, lagging {time} s",
    "It keeps its present offset and trails its carrier smoothly: it covers 63 % of the remaining way "
    "in this time (after t seconds exp(-t / time) of it is left).",
    who=role(),
    carrier=role(),
    time=seconds("0.2"),
    undone_by="detach",
    stills="who",
    says=[
        "{who} follows {carrier} with [a] delay/lag [of] {time}",
        "{who} follows {carrier} with [a] {time} delay/lag",
        "{who} follows/trails {carrier} {time} later/behind",
        "let/make {who} follow {carrier} with [a] delay/lag [of] {time}",
        "let/make {who} hang/swing from {carrier} [with] [a] [delay/lag] [of] {time}",
        "attach/tie/fasten/hang {who} to {carrier} so it trails/lags/follows [behind] [by/with] {time}",
        "attach/tie/fasten/fix/bind {who} to {carrier} with [a] [lag/delay] [of] {time} [lag/delay]",
        "attach/tie {who} to {carrier} loosely",
        "let {who} lag/trail/follow [behind] {carrier} [by] {time}",
        "attach/tie {who} to {carrier} {time} behind",
        "drag/pull {who} behind {carrier} [lagging] [by] {time}",
        "attach/tie {who} to {carrier} with {time} lag/delay",
    ],
)
def attach_lagging(world: ActionApi, who: Rows, carrier: Rows, time: Numbers) -> None:
    world.attach(who, carrier, True, time)


@action(
    "attach {who} to the {point} of {carrier}",
    "It follows that point of its carrier, and turns with it.",
    who=role(),
    point=slot("point"),
    carrier=role(),
    undone_by="detach",
    says=[
        "attach/fix/tie/fasten/stick/hook/pin/put {who} to/at/in/into/on [the] {point} of/on {carrier}",
        "attach/fix/tie/fasten/stick/hook/pin {who} to/at {carrier} 's {point}",
        "put {who} in/into/on {carrier} 's {point}",
        "{carrier} takes/holds {who} in/at/by [the/its] {point}",
        "attach {who} to {carrier} at/by [the/its] {point}",
        "hang/put/fix/stick/tie {who} on/in/to/at/into [the] {point} of {carrier}",
    ],
)
def attach_at_point(world: ActionApi, who: Rows, point: str, carrier: Rows) -> None:
    world.attach_at(who, carrier, point)


@action(
    "detach {who}",
    "It no longer follows anything.",
    who=role(),
    says=[
        "unattach/unparent {who}",
        "drop/release/unfasten/untie/unhook/free/disconnect/unparent/unlink {who}",
        "let go of {who}",
        "let {who} go",
        "put down {who}",
        "put {who} down",
        "set {who} free",
        worded("{by} drops/releases {who}", objects=("by",)),
        worded("{by} lets go of {who}", objects=("by",)),
        worded("{by} puts {who} down", objects=("by",)),
        worded("separate {who} from {by}", objects=("by",)),
        worded("detach/release/unhook/untie/unlink/free/disconnect {who} from {by}", objects=("by",)),
    ],
)
def detach(world: ActionApi, who: Rows) -> None:
    world.detach(who)


@action(
    "give {count} {item} to {who}",
    "It holds more of an item.",
    count=number("1"),
    item=slot("item"),
    who=role(),
    says=[
        "give {who} {count} {item}",
        "hand {who} {count} {item}",
        "hand/pass {count} {item} [over] to {who}",
        "add {count} {item} to {who}",
        "{who} gets/receives/gains/obtains/finds {count} {item}",
        "put {count} {item} in/into [the] inventory/bag/pocket/hands of {who}",
        "{who} picks up {count} {item}",
        "let {who} pick up {count} {item}",
    ],
)
def give(world: ActionApi, count: Numbers, item: str, who: Rows) -> None:
    world.give(who, item, count)


@action(
    "take {count} {item} from {who}",
    "It holds less of an item, never below none.",
    count=number("1"),
    item=slot("item"),
    who=role(),
    says=[
        "take/remove {count} {item} off {who}",
        "remove {count} {item} from {who}",
        "take {count} {item} away from {who}",
        "take away {count} {item} from {who}",
        "{who} loses/spends/uses {count} {item}",
        "use up {count} {item} of/from {who}",
        "take {who} 's {item}",
        "take {who} 's {count} {item}",
        "consume/spend/use {count} {item}",
        "{who} consumes/spends/uses/loses {count} {item}",
        "let/make {who} drop/lose/spend {count} {item}",
        worded("{who} loses all {item}", count='items({who}, "{item}")'),
        worded("take/remove all {item} [away] from {who}", count='items({who}, "{item}")'),
        "deduct/subtract/remove/drop {count} {item} from {who}",
        "{who} uses up {count} {item}",
        "use up {count} {item} of {who}",
        "use/spend {count} {item} of/from {who}",
        "{who} drops/loses/uses/spends/throws {count} {item} [away]",
        worded("{who} drops/loses/uses {item}", count="1"),
        "let/make {who} drop/lose {count} {item}",
    ],
)
def take(world: ActionApi, count: Numbers, item: str, who: Rows) -> None:
    world.give(who, item, -count)
