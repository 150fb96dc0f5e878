"""Turns of phrase that are put in another way before a line is read, such as “every time” for “whenever”."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from functools import cache

from gatillo.language.deeds import DEEDS
from gatillo.language.level_names import KEY_ALIASES
from gatillo.language.typed_words import NUMBERS
from gatillo.level.keys import KEYS

_KEYS = re.compile(
    r"(?<=\b)(?:either |both )?(?!or\b|and\b)(\S+) (or|and) (\S+)(?: both)?( is| are| goes| gets)?(?: both)?( pressed| held| released| down| tapped| hit)(?: together| at once| at the same time)?(?=\b)",
    re.IGNORECASE,
)
"""“Up or W is pressed” is “up is pressed or W is pressed”."""
_KEY_NAMES = {key.lower() for key in KEYS} | set(KEY_ALIASES)
_PERCENT = re.compile(r"(?<=\d) ?(?:%|per cent\b)")
_EVERY_TIME = re.compile(r"\b(?:every|each|any) time(?: that)?\b", re.IGNORECASE)
_ONCE = re.compile(
    r"^once (?!(?:every|per|an?|each|more|again|only|upon)\b)(?!.*\b(?:go on|carry on|proceed|continue)$)(?=\w)",
    re.IGNORECASE,
)
"""“Once” for “when”, at the beginning of a line."""
_THERE = re.compile(
    r"(?<!^)(?<!if )(?<!when )(?<!until )(?<!are )(?<!is )\bthere\b(?! (?:is|are)\b)", re.IGNORECASE
)
"""“There” for the place of the object that was named last."""
_SAYS = re.compile(r"\b(?:say|says|tell|tells|show|shows|note|print|write|display|log)\b", re.IGNORECASE)
_QUARTER = re.compile(r"\b(?:a )?quarter (?:of )?(?:an? )?(?=second\b)", re.IGNORECASE)
_NOTHING = re.compile(
    r"^(?P<word>when |if |while )?(?:nothing|nobody|no one) (?=(?:touches|hits|holds|has|carries|sees|faces|stands on|lies on|rests on|overlaps)\b)",
    re.IGNORECASE,
)
"""“Nothing touches the plate” is “not anything touches the plate”."""
_NEITHER = re.compile(r"\bneither (\S+) nor (\S+) (is|are) (\S+)", re.IGNORECASE)
_NTH_STOP = re.compile(r"\b(?:the )?(first|second|third|fourth|fifth|sixth) stop\b", re.IGNORECASE)
_NUMBERS = {"first": 1, "second": 2, "third": 3, "fourth": 4, "fifth": 5, "sixth": 6}
_CLICKS = re.compile(
    r"(?:(?:someone|somebody|anyone|the player|player|user|the user) )?(?:(?P<button>right|left|middle)[- ])clicks?(?: on)?(?= \S)",
    re.IGNORECASE,
)
_SOMEONE_CLICKS = re.compile(
    r"\b(?:someone|somebody|anyone|the user|user|i|you|we) (?=(?:clicks?|presses|press|hits?|taps?|lets?|releases?|holds?|keeps?|moves?)\b)",
    re.IGNORECASE,
)
_FIRST_SECONDS = re.compile(r"(?:for|in|during|within) the first (?P<time>\S+ ?\S+)$", re.IGNORECASE)
_HAVE = re.compile(r"^have (?=(?:the|an|a|every|each|all|it|them)\b)", re.IGNORECASE)
"""“Have the gardener look up” is “let the gardener look up”."""
_WAIT_FOR = re.compile(r"\bwait for (?P<who>.+?) to (?:be |become |get |go )?(?P<state>\w+)$", re.IGNORECASE)
_PROBABILITY = re.compile(r"\bprobability (?:of )?(0?\.\d+)(?! ?%| percent)", re.IGNORECASE)
_TOUCHES_NOTHING = re.compile(
    r"\b(touches|is touching|touching|sees|holds|carries) (?:nothing|nobody|no one)\b", re.IGNORECASE
)
_AND_CLICKED = re.compile(
    r"the (?:pointer|mouse|cursor) is (?:over|on) (?P<what>.+?) and (?:the )?(?:(?P<button>left|right|middle) )?"
    r"(?:mouse|pointer|button|mouse button)?(?: is)? ?(?:clicked|pressed)",
    re.IGNORECASE,
)
"""“The pointer is over the lamp and the mouse is clicked” is one occasion."""
_STOPS = re.compile(
    r"^(?P<word>when|whenever|once|if|while|as soon as) (?P<who>(?!the timer\b|timer\b)(?:(?:the|an?|any|every|each) )?\w+(?: (?!he\b|she\b|it\b)\w+){0,2}) (?:stops|halts|comes to rest|stands still)(?: moving| dead)?(?=$|,| (?!at\b|on\b|in\b|by\b|near\b|for\b|the\b|\w+ing\b)\w)",
    re.IGNORECASE,
)
"""“When the cart stops” is read as a condition, because there is no occasion for it."""
_AFTER_IT = re.compile(
    r"\b(?:the |an? )?(?!is\b|are\b|the\b|keep\b|pick\b|only\b|choose\b|take\b|of\b|be\b)(\w+) (?:that is |which is )?(nearest|closest|farthest|furthest) (to|from) (?=\S)",
    re.IGNORECASE,
)
"""“The moth nearest to the lamp” is “the nearest moth to the lamp”."""
_ONE_OF = re.compile(r"\b(if|when|while|unless) (?:one|some|any) of the (?=\w+ )", re.IGNORECASE)
"""“If one of the moths is in the shed” is “if any moth is in the shed”."""
_EITHER = re.compile(
    r"\b(if|while|unless|when|enters|leaves|touches|in|near|presses|holds|is|=) either (?=.+ or )",
    re.IGNORECASE,
)
_STEPS = re.compile(r"(?<=\d) steps?\b", re.IGNORECASE)
_EVERY_WITHIN = re.compile(
    r"(?P<before>.+?) (?P<every>(?:every|each) (?:(?:\S+|half a|few) )?(?:s|secs?|seconds?|ticks?|minutes?)) "
    r"(?P<after>(?:at|in|on|to|from|by|near|above|with|around|into|inside|toward|towards) .+)",
    re.IGNORECASE,
)
"""“Create a pod every 2 seconds at the gate” is “every 2 seconds create a pod at the gate”."""
_AFTER_A_TIME = re.compile(
    r"^(?:after|in) (?P<time>(?:\d[\d.]*|two|three|four|five|six|seven|eight|nine|ten|twenty|thirty|sixty) ?(?:s|secs?|seconds?|ticks?|minutes?)),? (?=(?:the|an?|all|every|each) \w+ \w)",
    re.IGNORECASE,
)
"""“After 1 s the door closes” is “1 s after the start, the door closes”, or a wait where no occasion can be."""
_AFTER_START = re.compile(r"\bafter the (?:start|beginning)(?= (?:the|an?|all|every|each) )", re.IGNORECASE)
_IT_ALONE = re.compile(r"\bit\b(?!'s)", re.IGNORECASE)
_CLOSE = re.compile(
    r"(?<!rule )\bclose(?= (?:the|an?|all|every|each|it|them|that|this|its)\b)(?! the (?:\w+(?:'s)? )?(?:conversation|dialogue|talk|chat|menu|prompt)\b)",
    re.IGNORECASE,
)
"""“Close the door” is no place near the door."""
_ONE_IN = re.compile(
    r"\b(?:at random |randomly )?(?:in )?(?P<with>with )?(?:an? )?(?:one|1) (?:in|out of|of) (?:every )?"
    r"(?P<many>[1-9]\d?|two|three|four|five|six|seven|eight|nine|ten)(?: chances?| times| cases| tries)\b(?! of\b)"
    r"|\b(?:at random |randomly )?(?P<with_>with )?(?:an? )?(?:one|1) in (?P<many_>[1-9]\d?)\b(?! of\b)",
    re.IGNORECASE,
)
"""“A 1 in 5 chance” is a 20 percent chance."""
_SHOW_QUOTED = re.compile(
    r"""\b(?:show|display|write|print) (?=["“][^"”]*["”](?:$|[,;]| (?:and|plus|then|for|when|if)\b))""",
    re.IGNORECASE,
)
"""A text in quotes that is shown nowhere in particular is shown to the player."""
_QUOTED = re.compile(r"""["“][^"”]*["”]""")
_MOST_TEXTS = 9
_QUOTES = re.compile(r"""["“”]""")


def _in_and_not(found: re.Match[str]) -> str:
    """Return “the gardener is in the yard and not the shed” as two conditions."""
    who = re.sub(r"^(?:if|when|while|unless|whenever) ", "", found.string[: found.start()].strip())
    return (
        f"is in {found['a']} and {who} is not in {found['b']}"
        if re.fullmatch(r"(?:the )?\w+(?: \d+)?", who)
        else found[0]
    )


def _click_creates(found: re.Match[str]) -> str:
    """Return “left click creates a pod …” as a pointer button that is pressed and what it does."""
    return f"when the {found['button']} mouse button is pressed create "


def _over_does(found: re.Match[str]) -> str:
    """Return “pointer over the lamp makes it bigger” as an occasion and an action."""
    return f"when the pointer comes over {found['who']} {found['verb'][:-1]} "


def _key_does(found: re.Match[str]) -> str:
    """Return “E opens the door” as a key that is pressed and what it does."""
    plain = _key_verb(found["verb"])
    key = re.sub(r"^the | arrow$| key$", "", found["key"], flags=re.IGNORECASE)
    return f"{found['before']}when {key} is pressed {plain} {found['what']}"


def _key_beside(found: re.Match[str]) -> str:
    """Return “the gardener presses E near the door” as a key that is pressed and a condition."""
    does = "held" if found["does"].lower() == "holds" else "pressed"
    who = "" if found["who"].lower().removeprefix("the ") in ("player", "user") else found["who"]
    if not who or found["who"].lower() in ("the", "i", "you"):
        return found[0]
    near = found["where"] if found["where"].lower() in ("in", "inside", "on") else "near"
    word = f"{found['word']} " if found["word"] else ""
    return f"{word}{found['key']} is {does} and {who} is {near} {found['other']}"


def _and_a_half(found: re.Match[str]) -> str:
    """Return “two and a half” as 2.5."""
    return f"{NUMBERS.get(found['n'].lower(), found['n'])}.5"


def _turns_a_second(found: re.Match[str]) -> str:
    """Return “spin the lamp twice per second” as a speed in degrees."""
    many = found["many"].lower().removesuffix(" times")
    turns = float(NUMBERS.get(many, many))
    return f"{found['verb']} {found['what']} by {360 * turns:g} per second"


def _after_it(found: re.Match[str]) -> str:
    """Return “the door closes 3 s after it opens” as an occasion, a wait and an action."""
    what, occasion = found["what"], found["occasion"]
    if occasion.lower().startswith("it "):
        who = re.match(r"(?:the |an? |every |each )?\w+", what, re.IGNORECASE)
        occasion = f"{who[0] if who else 'it'} {occasion[3:]}"
    return f"when {occasion} wait {found['time']} then {what}"


def _pressing_does(found: re.Match[str]) -> str:
    """Return “pressing space throws the pod” as a key that is pressed and what it does."""
    if found["key"].lower() not in _KEY_NAMES:
        return found[0]
    return f"when {found['key']} is pressed {_key_verb(found['verb'])} "


def _key_verb(verb: str) -> str:
    """Return a verb as a command: “throws” as “throw”, “pushes” as “push”."""
    return verb[:-2] if verb.endswith(("ches", "shes", "sses")) else verb[:-1]


def _one_chance(found: re.Match[str]) -> str:
    """Return “one chance in three” as a chance in percent."""
    number = int(NUMBERS.get(found["n"].lower(), found["n"]))
    return f"{100 / number:.4g} percent chance"


Instead = str | Callable[[re.Match[str]], str]
_CLICKS_AS_TYPED: dict[str, Instead] = {
    r"^(?P<button>right|left|middle) clicks? (?P<verb>creates|makes|spawns) (?=\w)": _click_creates,
    r"^(?P<button>right|left|middle) clicks? (?P<verb>(?!on\b|at\b)[a-z]+)s (?P<what>(?:the |an? )?\w+)$": (
        r"when the \g<button> mouse button is pressed on \g<what> \g<verb> \g<what>"
    ),
}
"""What a click does, by its pattern; before a click is put in other words."""
_TURNS_AS_TYPED: dict[str, Instead] = {
    r"^first,? (?=(?:\w+ ).+?,? (?:and )?then )": "",
    r"\b(?P<word>if|when|while|unless) (?!not\b|neither\b|no\b|the\b|up\b|down\b)(?P<what>\w+) left (?=(?:is|are|=|<|>) (?!held|pressed|down|released|hit|tapped))": r"\g<word> the number of \g<what> ",
    r"\b(?P<a>(?:the )?\w+(?: \d+)?) has (?P<how>less|fewer|more) (?P<what>\w+) than (?P<b>(?:the )?\w+(?: \d+)?)": (
        lambda found: (
            f"{found['a']}'s {found['what']} is {'more' if found['how'].lower() == 'more' else 'less'} than {found['b']}'s {found['what']}"
        )
    ),
    r"^(?P<who>the \w+) (?:is|are|stays?) (?P<state>open|closed|shut|lit|dark|hidden|shown|visible|invisible|on|off)"
    r" (?P<when>(?:while|as long as|whenever) .+)$": (
        lambda found: f"{re.sub(_IT_ALONE, found['who'], found['when'])} make {found['who']} {found['state']}"
    ),
    # what a key or a click is for
    r"^(?:release|let go of) (?P<key>\w+) to (?P<what>\w+ .+)$": r"when \g<key> is released \g<what>",
    r"^(?:click|press|tap) on (?P<who>(?:the |an? )?\w+) to (?P<what>\w+ .+)$": (
        r"when the left mouse button is pressed on \g<who> \g<what>"
    ),
    r"^(?:the )?(?P<button>left|right|middle) (?:mouse |pointer )?button (?P<verb>(?!is\b|goes\b|gets\b)[a-z]+s) (?=\w)": (
        lambda found: f"when the {found['button']} mouse button is pressed {_key_verb(found['verb'])} "
    ),
    r"^(?P<who>(?:the |every |each |all )?\w+) looks (?P<look>\w+) (?P<word>when|while|if|whenever) (?=\w)": (
        r"show \g<who> as \g<look> \g<word> "
    ),
    r"(?P<what>\b(?:along|down|over|round|around) .+?),? and (?:then )?stops? at (?:the|its) end$": r"\g<what>",
    r",? (?:slowly|slow|gently|softly) at (?:the|both) ends$": " smoothly",
    r"\b(?P<to>to|at|in|into|toward|from) the (?:middle|centre|center) of (?=the )": r"\g<to> ",
    # times
    r"\b(?P<word>after|for|in|over|within|wait|waits) (?:a|one) second\b": r"\g<word> 1 s",
    r"(?P<what>\b(?:opens?|closes?|shuts?|starts?|stops?|lights?|hides?|shows?|appears?|goes (?:on|off|out))) again$": r"\g<what>",
    r"^(?P<what>(?!when\b|if\b|while\b|wait\b|every\b|once\b|after\b|for\b).*\w \w.*?),? (?P<time>[\d.]+ ?(?:s|secs?|seconds?|ticks?)) after "
    r"(?P<occasion>(?!the (?:start|beginning|level)\b|starting\b|that$|this$).+ \w+)$": _after_it,
    r"^(?P<word>if |while |when )?(?:(?:the )?time is )?between (?:(?:the )?seconds? (?P<a>\d[\d.]*)|(?P<a_>\d[\d.]*) ?(?:s|secs?|seconds?))"
    r" and (?:second )?(?P<b>\d[\d.]*)(?: ?(?:s|secs?|seconds?))?\b": (
        lambda found: f"{found['word'] or 'if '}time >= {found['a'] or found['a_']} and time <= {found['b']}"
    ),
    r"^(?P<word>if |while |when )?(?:(?:the )?time is )?between (?P<a>\d[\d.]*) and (?P<b>\d[\d.]*) ?(?:s|secs?|seconds?)\b": (
        lambda found: f"{found['word'] or 'if '}time >= {found['a']} and time <= {found['b']}"
    ),
    r"\b(?P<what>\S+) (?:goes|returns|falls|drops|comes) back to (?=-?\d)": r"set \g<what> to ",
    # turns and flights
    r"\b(?:turn|spin|rotate) (?P<who>(?:the |each |every |all )?\w+) (?:(?:(?:all the way|completely|fully|once) )?(?:a)?round once|"
    r"(?:all the way|completely|fully|once) (?:a)?round|(?:by )?(?:a|one) full (?:turn|circle)|once)(?! (?:a|per|each|every)\b)": (
        r"turn \g<who> by 360"
    ),
    r"(?P<before>^|, |; | and | then )(?P<who>(?:the |an? |all |every |each )?\w+) (?:flies|fly|flees|flee|runs|run|escapes|escape) (?:away )?from (?=\w)": (
        r"\g<before>make \g<who> run away from "
    ),
    # what is so as long as something else is, is made so
    r"^(?P<when>(?:while|when|whenever|as long as) .*\b(?:is|are|has|holds|stands?|sits?|lies|touch(?:es)?|enters|leaves|hears|gets)\b.*?)"
    r"(?<!\band)(?<!\bor)(?<!\bbut)(?<!\bif)(?<!\bwhile)(?<!\bnot)(?<!\bon)(?<!\bin)(?<!\bto)(?<!\bnear)(?<!\bthat),? "
    r"(?P<who>the \w+) (?:is|are|stays?) (?P<state>open|closed|shut|lit|dark|hidden|shown|visible|invisible|on|off)$": (
        r"\g<when> make \g<who> \g<state>"
    ),
    r"^((?:put|place|set|drop|create|spawn|make|add)\b(?:(?! at | in | on | to ).)+?) (?=(?:halfway|half way|midway) between )": r"\1 at ",
    r"^((?:move|go|send|take|bring|slide|glide)\b(?:(?! at | in | on | to ).)+?) (?=(?:halfway|half way|midway) between )": r"\1 to ",
    # a condition that begins with “there is”
    r"\b(?P<word>if|when|while|unless) there(?:'s| is| are) (?:an?|any|some) (?P<who>\w+) "
    r"(?=within \d|near |close to |next to |touching |attached |less than \d+ \w+ (?:from|away) |under the pointer)": (
        r"\g<word> any \g<who> is "
    ),
    r"\bthere (?:is|are) (?P<none>nothing|nobody|no one) (?=(?:in|inside|within|near|on)\b)": r"\g<none> is ",
    r"\b(?:the )?last (?P<kind>\w+) (?:is|was|gets|has been) (?:gone|removed|destroyed|deleted|dead|killed)(?=$|,| the | all | send )": r"the \g<kind>s are all gone",
    r"\b(?:the )?last (?P<kind>\w+) (?:disappears|vanishes|dies|goes away)$": r"the \g<kind>s are all gone",
    r"^(?P<verb>turn|switch) (?P<who>the (?:nearest|closest|farthest|furthest|first|last|random) \w+(?: (?:to|from) .+)?) (?P<how>on|off)$": (
        r"\g<verb> \g<how> \g<who>"
    ),
    r"\b(?P<to>to|at) (?P<x>-?\d+(?:\.\d+)?), ?(?P<y>-?\d+(?:\.\d+)?)(?= (?:in|over|within|during) )": r"\g<to> (\g<x>, \g<y>)",
    r"(?<= )(?:currently|presently) (?=\w)": "",
    r"\b(?P<word>if|when|while|unless|and|or) a (?P<is>is|gets|goes) (?=(?:being )?(?:held|pressed|down|released|tapped|hit)\b)": r"\g<word> key a \g<is> ",
    r"^clicks? (?:on )?(?P<who>(?:the |an? )?\w+) (?P<verb>(?!is\b|makes\b|lets\b)\w+?)s (?P<what>it|him|her|them)$": (
        r"when \g<who> is clicked \g<verb> \g<what>"
    ),
    r"^(?P<all>(?P<word>when|whenever|if|once) (?P<who>(?:the |an? )?\w+(?: \d+)?) (?:enters|leaves|touches|hits|reaches|is) .+?) without (?:an?|the|any|its|his|her) (?P<item>\w+)(?=$|,)": (
        r"\g<all> and \g<who> has no \g<item>"
    ),
    r"\b(?P<does>create|spawn|make|add|put) (?P<what>.+?) (?P<at>in|inside|within|at) (?P<where>(?:the )?\w+) (?:at random|randomly)$": r"\g<does> \g<what> \g<at> \g<where>",
    r"\b(?P<who>an? \w+) (?P<does>appears|spawns|comes|pops up) (?P<at>at|in) (?:a )?random (?:place|position|point|spot)s? (?:in|of|inside|within) (?=\w)": r"\g<who> \g<does> in ",
    r"^(?:a )?new (?P<kind>\w+) (?=(?:at|in|on|near) \w)": r"create a \g<kind> ",
    r"^(?P<who>an? (?:new )?\w+) (?:comes|appears|spawns|arrives|pops up|is created|is spawned) (?P<every>every \S+ ?(?:s|secs?|seconds?|minutes?)|each second) (?:from|at|out of|in) (?P<where>.+)$": (
        r"\g<every> create \g<who> at \g<where>"
    ),
    r"^(?:show|display|print) the time$": "tell the player the time",
    r"\b(?P<is>is |stands |stays )?(?P<in>in|inside|within) (?P<a>(?:the )?\w+) (?:and|but) not (?:in |inside |within )?(?P<b>(?:the )?\w+)$": _in_and_not,
    r"\b(?P<does>create|spawn|make|add|place) (?P<what>(?:\S+ )?\w+) at (?P<x>-?\d+(?:\.\d+)?), ?(?P<y>-?\d+(?:\.\d+)?)(?=$|,| and | when | if | every )": (
        r"\g<does> \g<what> at (\g<x>, \g<y>)"
    ),
    r"^(?P<verb>move|slide|shift|glide|raise|lift|lower|turn|rotate|swing|tilt) (?P<who>(?:the )?\w+(?: \d+)?) (?P<time>(?:over|in|within|during) (?:\d\S*|half an?|an?|one|two|three) ?(?:s|secs?|seconds?|minutes?)) (?P<rest>(?:by|to|up|down|left|right|toward|towards|clockwise|counterclockwise) .+)$": (
        r"\g<verb> \g<who> \g<rest> \g<time>"
    ),
    r"(?P<what>\b(?:are|is) (?:in|inside|near|on|touching) .+?) at the same time$": r"\g<what>",
    r"\b(?:got|(?:has|have|was|were|is|are) (?:just|now) (?:been )?) ?(?P<state>(?!created\b|removed\b)(?:\w+ed|lit|shut|hit|hidden|shown))\b": r"is \g<state>",
    r"^(?P<who>(?:the )?[a-z]\w*(?: \d+)?) to (?P<x>-?\d+(?:\.\d+)?), ?(?P<y>-?\d+(?:\.\d+)?)$": r"put \g<who> at x \g<x>, y \g<y>",
    # words that say nothing more
    r"\bstill (?=(?:has|have|is|are|holds|carries|touches|there)\b)": "",
    r"(?<= is) still (?=\w)": " ",
    r"\bsomewhere (?=(?:between|in|inside|within|near)\b)": "",
    r"(?<!starting)(?<!beginning) (?:any ?more|any longer|at all|right away|straight ?away|immediately|instantly|at last|finally)$": "",
    r"^(?:immediately|instantly|finally) (?=\w)": "",
    r"(?<=\w) (?:immediately|instantly) (?=\w)": " ",
    r"^(?P<what>stop .+?) dead$": r"\g<what>",
    r"\b(?P<verb>open|close|shut) (?:up|down) (?=(?:the|an?|every|all|each)\b)": r"\g<verb> ",
    # what a key, a click or a pointer does
    r"(?P<before>^|, |; | and )(?P<key>(?-i:[B-Zb-hj-rt-wz])|space|enter|(?:the )?(?:left|right|up|down) (?:arrow|key)) "
    r"(?P<verb>(?!is\b|has\b|was\b|goes\b|does\b|gets\b|comes\b|ends\b|starts\b)[a-z]+s) (?P<what>(?:the |an? |all |every )?\w+)": _key_does,
    r"^(?:pressing|tapping|hitting) (?:the )?(?P<key>\w+)(?: key| button)? (?P<verb>(?!is\b|makes\b|lets\b)[a-z]+s) (?=\w)": _pressing_does,
    r"^(?:clicking|pressing) (?:on )?(?P<who>(?:the |an? )?\w{2,}) (?P<verb>(?!is\b|makes\b|lets\b)\w+?)s (?=\w)": (
        r"when \g<who> is clicked \g<verb> "
    ),
    r"^hovering over (?P<who>(?:the |an? )?\w+) (?P<verb>\w+?)s (?=\w)": r"when the pointer comes over \g<who> \g<verb> ",
    r"\bwhen (?P<key>\w+) (?:is )?pressed\b(?P<what>.+?)\bwhen (?:it is |it's )?(?:released|let go)\b": (
        r"when \g<key> is pressed\g<what>when \g<key> is released"
    ),
    r"\bat t ?= ?(?=\d)": "at ",
    r"\bthe trial (?=(?:starts|begins)\b)": "the level ",
    # one verb for two things
    r"^(?P<what>(?!when\b|if\b|wait\b).+=.+) at (?:the )?(?:start|beginning)$": r"at the start \g<what>",
    r"^(?P<what>(?P<kind>\w+)\.\w+ = .+?) for (?:all|every|each)(?: the)? (?P=kind)s?$": r"\g<what>",
    r"^(?P<what>(?:turn|switch) .+?) not on$": r"\g<what> off",
    r"^(?P<what>(?:turn|switch) .+?) not off$": r"\g<what> on",
    r"^(?:a )?minimum (?:of )?(?=\d)": "at least ",
    r"^(?:a )?maximum (?:of )?(?=\d)": "at most ",
    r"\b(?:at|in|to) its place\b": "at it",
    r"^(?P<n>\d+(?:\.\d+)?) ?(?:percent|%) chance (?:to|of) (?P<what>(?!the\b|a\b)\w+ing |(?!the\b|a\b)\w+ )": r"with \g<n> percent chance \g<what>",
    r"^after (?P<first>\S+ ?(?:s|secs?|seconds?|minutes?)),? every (?P<period>\S+ ?(?:s|secs?|seconds?|minutes?))\b": (
        r"every \g<period> starting after \g<first>"
    ),
    r"^(?P<what>\S+\.\S+) toggles\b": r"toggle \g<what>",
    r"\bsend (?P<who>it|him|her|the \w+) back$": r"turn \g<who> around",
    r"\b(?P<what>[a-z_.]+) (?:is|equals|=) (?P<a>-?\d+(?:\.\d+)?) or (?P<b>-?\d+(?:\.\d+)?)(?= |$)(?! (?:more|less))": (
        r"\g<what> = \g<a> or \g<what> = \g<b>"
    ),
    r"\bfor (?:all|every|each) (?P<kind>\w+?)s?,? set (?P<what>\w+) to ": r"set \g<what> of \g<kind> to ",
    r"\breaches (?=(?:at least|more than|exactly)\b)": "is ",
    r"(?P<who>(?:the |an? )?\w+) (?P<verb>touches|overlaps|hits|sees|holds|has|carries) (?P<what>(?:the |an? )?\w+) and (?P<other>(?:the |an? )?\w+) (?:does not|doesn't)$": (
        r"\g<who> \g<verb> \g<what> and not \g<other> \g<verb> \g<what>"
    ),
    r"\bclose enough to\b": "close to",
    r"\bput it out\b": "extinguish it",
    r"(?P<who>(?:the |an? )?\w+) (?P<verb>touches|hits|sees|holds|has|carries|is in|is near|is touching) (?P<a>(?:the |an? )?\w+) but not (?P<b>(?:the |an? |in |near )?\w+)": (
        r"\g<who> \g<verb> \g<a> and not \g<who> \g<verb> \g<b>"
    ),
    r"(?P<who>(?:the |an? )?\w+) (?P<verb>touches|hits|sees|holds|has|carries|is in|is near|is touching) neither (?P<a>(?:the |an? )?\w+) nor (?P<b>(?:the |an? )?\w+)": (
        r"not \g<who> \g<verb> \g<a> and not \g<who> \g<verb> \g<b>"
    ),
    r"(?P<who>(?:the |an? )?\w+) (?P<verb>touches|sees|holds|has|carries) both (?P<a>(?:the |an? )?\w+) and (?P<b>(?:the |an? )?\w+)": (
        r"\g<who> \g<verb> \g<a> and \g<who> \g<verb> \g<b>"
    ),
    r"^(?:the )?(?:pointer|mouse|cursor) over (?P<who>(?:the |an? )?\w+) (?P<verb>makes|turns|lights|hides|shows|removes) (?=\w)": _over_does,
    # keys beside something
    r"\b(?P<word>when|whenever|if|while)? ?(?P<who>(?:the )?\w+) (?P<does>presses|press|hits|taps|holds) (?P<key>\S+) (?:while )?"
    r"(?P<where>near|next to|close to|beside|by|at|in|inside|on) (?P<other>(?:the |an? )?\w+)(?= |$|,)": _key_beside,
    r"\b(?P<click>clicks?|clicked|right-click|right click) at (?=(?:the |an? )?\w)": r"\g<click> on ",
    r"\b(?P<who>(?:the |an? )?\w+) (?P<a>enters|leaves|exits|touches|hits) or (?P<b>enters|leaves|exits|touches|hits) (?P<what>(?:the |an? )?\w+)": (
        r"\g<who> \g<a> \g<what> or \g<who> \g<b> \g<what>"
    ),
    # timers
    r"\b(?:the )?(?P<timer>\w+) (?:timer|clock|stopwatch) "
    r"(?:(?:is|reads|shows|stands at) (?=(?:above|over|more than|greater than|less than|below|under|at least|at most|between)\b|[<>])|(?=[<>]))": r'timer("\g<timer>") is ',
    r"^(?:show|display|print) (?=how (?:many|much)\b)": "tell the player ",
    r"^(?:let|make) (?P<who>(?:the )?\w+) go out$": r"extinguish \g<who>",
    r"\b(?P<n>\d+|one|two|three|four|five|six|seven|eight|nine|ten) and a half\b": _and_a_half,
    # states
    r"^(?:blow|put|snuff) out (?=\w)": "extinguish ",
    r"^(?:blow|put|snuff) (?P<who>(?:(?:the|all|every|each|all the) )?\w+) out$": r"extinguish \g<who>",
    r"\b(?P<verb>light|lights|lit) up\b": r"\g<verb>",
    r"^(?P<what>(?:the )?\S+(?: \S+)?) (?:(?:is|are|stays?|gets?|goes|go) )?never (?:ever )?(?:over|above|past|beyond|more than|higher than|greater than) ": (
        r"keep \g<what> below "
    ),
    r"^(?P<what>(?:the )?\S+(?: \S+)?) (?:(?:is|are|stays?|gets?|goes|go) )?never (?:ever )?(?:under|below|less than|lower than) ": (
        r"keep \g<what> above "
    ),
    r"^(?P<what>(?:the )?\S+(?: \S+)?) (?:can't|cannot|can not|must not|mustn't|should not|shouldn't|should never|must never|can never|may never|may not) (?:be|get|go|become) negative$": (
        r"keep \g<what> above 0"
    ),
    r"^(?P<verb>spin|turn|rotate) (?P<what>.+?) (?P<many>once|twice|\d+ times) (?:per|a|each|every) second$": _turns_a_second,
    r"^(?P<many>once|twice|\d+ times) (?:per|each|every) second\b": r"\g<many> a second",
    r"^for (?P<time>\S+ ?(?:s|secs?|seconds?|minutes?)) (?:after|from|since) the (?:start|beginning),? (?=\w)": (
        r"if it is not past \g<time> then "
    ),
    r"\b(?P<n>\d+) (?P<what>(?!(?:s|seconds?)\b)\w+) or more\b": r"at least \g<n> \g<what>",
    r"\b(?P<n>\d+) (?P<what>(?!(?:s|seconds?)\b)\w+) or (?:fewer|less)\b": r"at most \g<n> \g<what>",
    r"\bone chance in (?P<n>\d+|two|three|four|five|six|ten)\b": _one_chance,
    r"^in (?P<n>\d+(?:\.\d+)?) percent of (?:all |the )?(?:cases|tries|time)": r"\g<n> percent chance",
    r"\bon the (?P<side>left|right)(?: hand)? side of\b": r"to the \g<side> of",
    r"^(?P<a>(?:move|slide|glide|bring|take|ease) .+?) (?P<how>smoothly|steadily|linearly) (?P<b>to .+)$": (
        r"\g<a> \g<b> \g<how>"
    ),
    r"\bin the direction of\b": "toward",
    r"\bhand over\b": "give",
    r"\b(?:make|let) (?P<who>.+?) flee from (?=\w)": r"make \g<who> flee away from ",
    r"\bflees from\b": "flees away from",
    r"\b(?:is|was|gets?) set to (?=\S)": "becomes ",
    r"\b(?P<who>(?:[a-z]+[a-rt-z]))s' (?=\w)": r"\g<who>'s ",
    r"\b(?P<does>add|give) (?P<n>\S+) to (?P<what>\S+),? (?:but )?(?:up to|at most|no more than|not more than|to a maximum of|until) (?P<most>-?\d+(?:\.\d+)?)$": (
        r"\g<does> \g<n> to \g<what> and keep \g<what> at most \g<most>"
    ),
    r"\bthe player (?P<does>releases|presses|lets go of) (?:the )?(?P<what>(?:left |right |middle )?(?:mouse|pointer)(?: button)?)": (
        r"\g<does> the \g<what>"
    ),
    # amounts
    r"\b(?:knock|shave|chop|dock|take|cut) (?P<n>\d\S*) (?:off|away from|off of) (?=\w)": r"subtract \g<n> from ",
    r"\b(?:take|subtract) (?P<n>\d\S*) away from (?=\w)": r"subtract \g<n> from ",
    r"^(?:stop|prevent|keep) (?P<what>.+?) from (?:ever )?(?:going|getting|rising|climbing|growing|being) (?:over|above|past|beyond|more than|higher than) ": (
        r"keep \g<what> below "
    ),
    r"^(?:stop|prevent|keep) (?P<what>.+?) from (?:ever )?(?:going|getting|falling|dropping|sinking|being) (?:under|below|less than|lower than) ": (
        r"keep \g<what> above "
    ),
    r"^(?P<what>(?:the )?\S+(?: \S+)?) (?:(?:must|should|may|can)(?: not|n't|not| never)|can't|won't)(?: ever)? (?:go|get|rise|climb|grow|be) (?:over|above|past|beyond|more than|higher than) ": (
        r"keep \g<what> below "
    ),
    r"^(?P<what>(?:the )?\S+(?: \S+)?) (?:(?:must|should|may|can)(?: not|n't|not| never)|can't|won't)(?: ever)? (?:go|get|fall|drop|sink|be) (?:under|below|less than|lower than) ": (
        r"keep \g<what> above "
    ),
    r"^let (?P<what>\S+) (?:equal|be equal to|be the same as) ": r"set \g<what> to ",
    r"^make (?P<what>\S+) at least (?P<n>\S+)$": r"keep \g<what> at least \g<n>",
    r"^make (?P<what>\S+) at most (?P<n>\S+)$": r"keep \g<what> at most \g<n>",
    r"^make (?P<who>(?:the )?\w+) more (?P<what>\w+) by ": r"increase \g<what> of \g<who> by ",
    r"^make (?P<who>(?:the )?\w+) less (?P<what>\w+) by ": r"decrease \g<what> of \g<who> by ",
    r"^(?:randomize|randomise|shuffle) (?P<what>.+?) (?:between|from) (?P<a>\S+) (?:and|to) (?P<b>\S+)$": (
        r"set \g<what> to a random number between \g<a> and \g<b>"
    ),
    r"\b(?P<what>\S+) (?:goes|turns|becomes|gets) negative\b": r"\g<what> falls below 0",
    r"\b(?P<what>\S+) (?:goes|turns|becomes|gets) positive\b": r"\g<what> rises above 0",
    r"\b(?P<what>\S+) is (?P<not>not )?(?:a multiple of|divisible by|evenly divisible by) (?P<n>\d+)": r"\g<what> mod \g<n> is \g<not>0",
    r"^(?P<set>set )(?P<who>(?:the )?\w+)'s (?P<what>\w+) to (?:the|its) distance (?:to|from) (?P<other>(?:the )?\w+)$": (
        r"\g<set>\g<who>'s \g<what> to the distance from \g<who> to \g<other>"
    ),
    r"\ba new (?P<kind>\w+) (?=(?:appears|spawns|comes|arrives|pops up)\b)": r"a \g<kind> ",
    r"\b(?:pick|choose|take) (?:a|one|any) random (?P<kind>\w+) and (?P<what>(?!keep\b)\w+(?: on| off| up)?) (?:it|him|her)\b": r"\g<what> a random \g<kind>",
    r"\b(?:one|any|some) random (?P<kind>\w+)": r"a random \g<kind>",
    r"^(?P<who>.+?) (?:stays|remains|is left) (?P<how>open|closed|shut|lit|on|off|hidden|visible|shown) (?=for \S)": r"make \g<who> \g<how> ",
    r"\b(?:put|place|add|drop) a new (?P<kind>\w+) (?=(?:at|in|on|inside|near)\b)": r"create a \g<kind> ",
    # what was made before
    r"\bthe (?P<kind>\w+) (?:that|which) (?:was|has been|got) just (?:created|made|spawned)\b": r"new \g<kind>",
    r"\bthe (?:just|newly) (?:created|made|spawned) (?=\w)": "new ",
    r"^(?P<who>\w+)(?:\.|'s | )colou?r = (?P<what>#?\w+)$": r"set the colour of \g<who> to \g<what>",
    r"\b(?P<word>if|when|while|unless) two (?P<kind>\w+?)s are (?P<near>(?:within|closer than|less than) \S+(?: units)?(?: apart)?|near|close to|touching)(?: of| to| from)? each other\b": (
        r"\g<word> \g<kind> is \g<near> of another \g<kind>"
    ),
    r"\b(?P<verb>turn|switch) (?P<what>.+?) back (?P<how>on|off)$": r"\g<verb> \g<what> \g<how>",
    r"\b(?:right|just|directly) (?P<near>next to|beside)\b": r"\g<near>",
    # one object in the place of another
    r"\b(?:replace|exchange) (?P<a>(?:(?:the|every|each|all|any) )?\w+) (?:with|by|for) (?P<b>(?:(?:the|an?|new|another) )?\w+)$": (
        r"create \g<b> at \g<a> and remove \g<a>"
    ),
    r"\b(?:turn|change|transform) (?P<a>(?:the|every|each|all|any) \w+) into (?P<b>(?:an?|new|another) \w+)$": (
        r"create \g<b> at \g<a> and remove \g<a>"
    ),
    # rules
    r"^pause (?P<what>(?:the )?(?:rule|section) .+?|(?:the )?.+? (?:rule|section)) for (?=\S)": r"switch off \g<what> for ",
    # keys
    r"\b(?:holds|hold|holding|is holding) (?:down )?both (?P<a>\S+) and (?P<b>\S+)": r"holds \g<a> and \g<b> is held",
    r"^(?:press|hit|tap|push) (?P<key>\w+) to (?P<what>\w+ .+)$": r"when \g<key> is pressed \g<what>",
    r"^hold (?P<key>\w+) to (?P<what>\w+(?: .+)?)$": r"while \g<key> is held \g<what>",
    r"(?<=\w) as soon as ": " when ",
    r"(?<=\w) as long as ": " while ",
    r"(?<=\w) only (?P<word>if|when|while) ": r" \g<word> ",
    r"^after (?P<who>(?:the )?\w+) has been (?P<where>in|inside|on|within) (?P<area>(?:the )?\w+) for (?P<time>[\d.]+ ?\w+) ": (
        r"when \g<who> is \g<where> \g<area> for \g<time> "
    ),
    r"\b(?P<who>(?:the |each |every )?\w+) gets (?P<what>\w+) by (?P<amount>[\d.]+ (?:per|a|each) second)\b": (
        r"add \g<amount> to \g<who>'s \g<what>"
    ),
    r"\b(?P<verb>remove|destroy|delete|kill) the oldest (?P<kind>\w+)$": r"keep the first 1 and \g<verb> the \g<kind>",
    # two objects in one state
    r"\b(?P<a>\w+ \d+) and (?P<b>\w+ \d+) are (?:both )?(?P<state>(?!both\b)\w+)$": (
        r"\g<a> is \g<state> and \g<b> is \g<state>"
    ),
    r"\beither (?P<a>\w+ \d+) or (?P<b>\w+ \d+) is (?P<state>\w+)": r"\g<a> is \g<state> or \g<b> is \g<state>",
    r"\bneither (?P<a>\w+ \d+) nor (?P<b>\w+ \d+) (?:is|are) (?P<state>\w+)": (
        r"not \g<a> is \g<state> and not \g<b> is \g<state>"
    ),
    # a second limit of the same amount
    r"(?<![\w.])(?P<what>(?!if\b|when\b|while\b|unless\b)(?:the )?[\w.']+(?: (?!is\b|are\b)[\w']+)?) (?P<one>[<>]=?) (?P<a>\S+) (?P<joint>and|or) (?P<two>[<>]=?) (?P<b>\S+)": (
        r"\g<what> \g<one> \g<a> \g<joint> \g<what> \g<two> \g<b>"
    ),
    r"(?<![\w.])(?P<what>(?!if\b|when\b|while\b|unless\b)(?:the )?[\w.']+(?: (?!is\b|are\b)[\w']+)?) is (?P<one>above|over|more than|greater than|under|below|less than|at least|at most) (?P<a>[\d.]+) (?P<joint>and|or|but) (?P<two>above|over|more than|greater than|under|below|less than|at least|at most) (?P<b>[\d.]+)": (
        lambda found: (
            f"{found['what']} is {found['one']} {found['a']} {found['joint'].lower().replace('but', 'and')} {found['what']} is {found['two']} {found['b']}"
        )
    ),
    # how many there may be
    r"\b(?P<verb>create|spawn|make) (?:an?|one|1|another|a new) (?P<kind>\w+)(?P<rest>.*?),? (?:but )?(?:up to|at most|no more than|never more than|to a maximum of|max(?:imum)?) (?P<most>\d+)(?: of them)?(?: at a time| at once| in all)?$": (
        r"\g<verb> a \g<kind>\g<rest> if there are fewer than \g<most> \g<kind>"
    ),
    r"^(?P<word>if|when|once|while) (?P<many>\d+|two|three|four|five|six|seven|eight|nine|ten) (?P<kind>\w+) (?:lie|stand|sit|rest|wait) (?P<where>in|inside|within|on) (?P<area>.+)$": (
        r"\g<word> \g<many> \g<kind> are \g<where> \g<area>"
    ),
    r"^(?:pressing|hitting|tapping) (?P<key>\w+) (?P<makes>makes|lets) (?P<who>(?:the )?\w+) (?P<what>.+)$": (
        r"when \g<key> is pressed let \g<who> \g<what>"
    ),
    # prompts
    r"\bthe (?P<who>(?!menu\b|first\b|same\b)\w+?)(?:'s)? prompt\b(?! of\b| on\b| at\b)": r"the prompt on the \g<who>",
}
"""Further turns by their patterns, each with what stands for it."""

_NOT_IT = {
    "touches": "is not touching",
    "touching": "is not touching",
    "is touching": "is not touching",
    "sees": "does not see",
    "holds": "does not hold",
    "carries": "does not carry",
}


def as_written(text: str, *, occasions: bool, names: Iterable[str] = ()) -> str:
    """Return a line without turns of phrase that the catalogue's wordings do not have; what is in quotes stays as it is.

    `occasions` says whether the line may have an occasion. `names` are names of several words, in small letters: those that the
    text has stay as they are, such as the rule “Close the gate”.
    """
    lower = text.lower()
    held = [name for name in names if name in lower]

    def turned(pattern: re.Pattern[str], instead: Instead, text: str) -> str:
        new = pattern.sub(instead, text)
        if held and new != text and any(name not in new.lower() for name in held):
            return text
        return new

    text = turned(_KEYS, _both_keys, text)
    if _QUOTES.search(text):
        return _around_quotes(turned(_SHOW_QUOTED, "show the message ", text), held)
    if _FIRST_SECONDS.fullmatch(text):
        return _FIRST_SECONDS.sub(r"if it is not past \g<time>", text)
    for pattern, instead in _turns():
        text = turned(pattern, instead, text)
    text = turned(_AFTER_A_TIME, r"\g<time> after the start, " if occasions else r"wait \g<time>, ", text)
    text = turned(_AFTER_START, r"\g<0>, ", text)
    if occasions:
        text = turned(_EVERY_TIME, "whenever", text)
        text = turned(_ONCE, "when ", text)
        text = turned(_EVERY_WITHIN, r"\g<every> \g<before> \g<after>", text)
    return text


def _around_quotes(text: str, names: list[str]) -> str:
    """Return a line without such turns outside its texts in quotes; as it is, if one of these would be lost."""
    texts = _QUOTED.findall(text)
    marks = [f'"text{chr(97 + n)}"' for n in range(len(texts))]
    if not texts or len(texts) > _MOST_TEXTS or _QUOTES.search(_QUOTED.sub("", text)):
        return text
    plain = iter(marks)
    words = _QUOTED.sub(lambda _: next(plain), text)
    for pattern, instead in _deeds():
        words = pattern.sub(instead, words)
    if any(words.count(mark) != 1 for mark in marks) or any(
        name not in words.lower() for name in names if name in text.lower()
    ):
        return text
    for mark, quoted in zip(marks, texts, strict=True):
        words = words.replace(mark, quoted)
    return words


def _at_it(found: re.Match[str]) -> str:
    """Return “there” as “at it”, but where it may be a word of a text."""
    return found[0] if _SAYS.search(found.string[: found.start()]) else "at it"


def _button_on(found: re.Match[str]) -> str:
    """Return “right click the lamp” as a pointer button that is pressed on it."""
    return f"the {found['button'].lower()} mouse button is pressed on"


def _over_and_pressed(found: re.Match[str]) -> str:
    """Return “the pointer is over the lamp and the mouse is clicked” as one occasion."""
    return f"the {found['button'] or 'left'} mouse button is pressed on {found['what']}"


def _nth_stop(found: re.Match[str]) -> str:
    """Return “the third stop” as “stop 3”."""
    return f"stop {_NUMBERS[found[1].lower()]}"


def _no_one(found: re.Match[str]) -> str:
    """Return “nothing touches the plate” as “not anything touches the plate”."""
    return f"{found['word'] or ''}not anything "


def _nothing_touched(found: re.Match[str]) -> str:
    """Return “touches nothing” as “is not touching anything”."""
    return f"{_NOT_IT[found[1].lower()]} anything"


def _in_percent(found: re.Match[str]) -> str:
    """Return “probability 0.3” as “probability 30 percent”."""
    return f"probability {float(found[1]) * 100:g} percent"


def _chance(found: re.Match[str]) -> str:
    """Return “1 in 5” as a chance in percent."""
    many = found["many"] or found["many_"]
    number = int(NUMBERS.get(many.lower(), many))
    return f"{found['with'] or found['with_'] or ''}{100 / number:.4g} percent chance"


def _both_keys(found: re.Match[str]) -> str:
    """Return what two keys do in full: of two that go down together, one is down already."""
    a, joint, b, is_, does = (part or "" for part in found.groups())
    if a.lower() not in _KEY_NAMES or b.lower() not in _KEY_NAMES:
        return found[0]
    second = (
        " down" if joint.lower() == "and" and does.strip().lower() in ("pressed", "tapped", "hit") else does
    )
    return f"{a}{is_}{does} {joint} {b}{is_}{second}"


Turns = tuple[tuple[re.Pattern[str], Instead], ...]


def _compiled(turns: Mapping[str, Instead]) -> Turns:
    return tuple((re.compile(pattern, re.IGNORECASE), instead) for pattern, instead in turns.items())


@cache
def _deeds() -> Turns:
    """Return the deeds, compiled when a line is first read: the program starts without them."""
    return _compiled(DEEDS)


@cache
def _turns() -> Turns:
    """Return all turns, in the order in which they are put."""
    return (
        (_NTH_STOP, _nth_stop),
        (_NEITHER, r"not \1 is \4 and not \2 is \4"),
        *_compiled(_CLICKS_AS_TYPED),
        (_CLICKS, _button_on),
        (_SOMEONE_CLICKS, "the player "),
        (_HAVE, "let "),
        (_WAIT_FOR, r"wait until \g<who> is \g<state>"),
        (_TOUCHES_NOTHING, _nothing_touched),
        (_AND_CLICKED, _over_and_pressed),
        (_NOTHING, _no_one),
        (_PROBABILITY, _in_percent),
        (_ONE_IN, _chance),
        *_deeds(),
        *_compiled(_TURNS_AS_TYPED),
        (_PERCENT, " percent"),
        (_CLOSE, "shut"),
        (_QUARTER, "0.25 "),
        (_STEPS, " units"),
        (_AFTER_IT, r"the \2 \1 \3 "),
        (_ONE_OF, r"\1 any "),
        (_EITHER, r"\1 "),
        (_STOPS, r"if \g<who> does not move"),
        (_THERE, _at_it),
    )
