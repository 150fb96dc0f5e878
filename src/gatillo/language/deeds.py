"""What somebody does to something, in the words of commands: “the truck throws a box at the guard” creates one and launches it.

A level has no such deeds. Each is put as the lines that do it, before the line is read.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from gatillo.language.wordings import pattern_index

_ONE = r"(?:the |an? |each |every |all |any )?"
_SOME = r"(?:the |each |every |all |any )?"
_BEGINS = (
    r"(?P<before>^|[,;] |\b(?:and|then|do|else|pressed|held|released|clicked|heard|starts|seconds|\d ?s) )"
)
_MANY = r"(?:(?:an?|one|another) |(?P<many>\d+|two|three|four|five) )"


def _passes(found: re.Match[str]) -> str:
    """Return “the worker hands the guard 2 coins” as taking and giving."""
    many = f"{found['many'] or '1'} {found['what']}"
    giver, getter = found["giver"], found["getter"]
    return f"{found['before']}take {many} from {giver} and give {many} to {getter}"


def _pays(found: re.Match[str]) -> str:
    """Return “the worker pays 2 coins” as taking."""
    return f"{found['before']}take {found['many'] or '1'} {found['what']} from {found['giver']}"


def _shoots(found: re.Match[str]) -> str:
    """Return “the truck shoots a box at the guard with speed 200” as an object that is created and launched."""
    at = f" toward {found['goal']}" if found["goal"] else f" {found['side']}" if found["side"] else ""
    speed = f" with speed {found['speed']}" if found["speed"] else ""
    return f"{found['before']}create a {found['what']} at {found['who']} and launch the new {found['what']}{at}{speed}"


def _counts(found: re.Match[str]) -> str:
    """Return “…, lives - 1” as a change of that number; as it is where it is one of two amounts: “by 20, lives - 1”."""
    if found["before"] == ", " and _AN_AMOUNT.search(found.string[: found.start()]):
        return found[0]
    return f"{found['before']}{found['v']} {found['sign']}= {found['n']}"


def _after_doing(found: re.Match[str]) -> str:
    """Return “the hero rests after touching a wall” as an occasion and an action."""
    if found["who"].lower() in pattern_index().first_words:
        # “hide the lamp after touching the moth” does not say who touches it
        return found[0]
    does = {
        "touching": "touches",
        "hitting": "hits",
        "entering": "enters",
        "leaving": "leaves",
        "reaching": "reaches",
    }
    return (
        f"when {found['who']} {does[found['does'].lower()]} {found['other']}, {found['who']} {found['what']}"
    )


def _outermost(found: re.Match[str]) -> str:
    """Return “the highest moth” as the one with the highest place."""
    end, who = found["end"].lower(), found["who"]
    ends = {
        "lowest": ("lowest", "y"),
        "highest": ("highest", "y"),
        "leftmost": ("lowest", "x"),
        "rightmost": ("highest", "x"),
    }
    return f"keep the one with the {ends[end][0]} {who}.{ends[end][1]}"


_AN_AMOUNT = re.compile(
    r"\b(?:by|velocity to|velocity of|speed of|impulse of) \S+$|(?:^|\s)[-(]?\d\S*$|\S+\.\S+$", re.IGNORECASE
)
"""A text that ends in an amount, to which another may belong."""
_SPEED = r"(?: (?:at|with)(?: a)?(?: speed)?(?: of)? (?P<speed>\d+(?:\.\d+)?))?"
_SHOOT = r"shoots?|fires?|launch(?:es)?|throws?|tosses|toss|hurls?|spits?"
_TOWARD = rf"(?: (?:toward|towards|at|to|into) (?P<goal>(?!speed\b|\d|(?:the )?(?:right|left)\b){_SOME}[a-z]\w*(?: \d+)?))?"

_SIDE = r"(?: (?P<side>to the (?:right|left)|up|upward|upwards|right|left))?"

_KEY = r"space|enter|shift|tab|escape|left|right|up|down|[b-z]"
DEEDS: dict[str, str | Callable[[re.Match[str]], str]] = {
    # the end of one part is the beginning of the next
    r"\b(?P<noun>(?!that\b|had\b|very\b|is\b|no\b)[a-z]{3,}) (?P=noun)(?= \w)": r"\g<noun>, \g<noun>",
    # notes: “space -> send bang”
    rf"^(?P<key>{_KEY})(?: key| arrow)? ?(?:->|=>|→|:) ?(?=\w)": r"when \g<key> is pressed ",
    rf"^(?:while|hold) (?P<key>{_KEY})(?: key| arrow)? ?(?:->|=>|→|:) ?(?=\w)": r"while \g<key> is held ",
    # “=> 3” is a sign, ill written
    r" ?(?:->|→|=>(?! ?-?\d)) ?(?=[\w+])": " then ",
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?P<how>bigger|smaller|larger)(?=$|[,;]| and )": r"\g<before>make \g<who> \g<how>",
    r"^(?P<who>(?:the |an? |each |every |all )?\w+) drops? (?P<what>an? \w+) (?:when|whenever|as) (?:they|it|he|she) (?:dies?|is (?:removed|destroyed|killed)|are (?:removed|destroyed|killed))$": (
        r"when \g<who> is removed create \g<what> at \g<who>"
    ),
    r"(?P<before>)\bdrop (?P<what>an? \w+) (?P<at>at|in|on|near|behind) ": r"\g<before>create \g<what> \g<at> ",
    r"\b(?:a|one) (?:wave|group|swarm|bunch|pack|set) of (?P<n>\d+|two|three|four|five|six|seven|eight|nine|ten) ": r"\g<n> ",
    rf"{_BEGINS}drop (?P<what>an? \w+)(?=$|,| and | when | every | if | each )": r"\g<before>create \g<what>",
    rf"{_BEGINS}let (?P<what>an? \w+) (?:out|loose|in)(?: (?:of|from|at))? (?=\w)": r"\g<before>create \g<what> at ",
    r"\bcount (?:one )?up (?:in |by one in )?(?=\w)": "add 1 to ",
    r"\bcount (?P<what>\w+) up(?: by (?P<n>\d+))?(?=$|,| and )": lambda found: (
        f"add {found['n'] or 1} to {found['what']}"
    ),
    r"(?P<move>\b(?:toward|towards|to) .+?),? (?:but )?never (?:past|beyond|over) (?:it|that|him|her|there|them)\b": r"\g<move>",
    # giving and paying
    rf"{_BEGINS}(?P<giver>{_SOME}(?!the\b)\w+) (?:hands|passes|pays)(?: over)? (?P<getter>{_SOME}(?!an?\b)[a-z]\w*(?: \d+)?) {_MANY}(?P<what>\w+)": _passes,
    rf"{_BEGINS}(?P<giver>{_SOME}\w+) (?:hands|passes|pays)(?: over)? {_MANY}(?P<what>\w+) to (?P<getter>{_SOME}\w+)": _passes,
    rf"{_BEGINS}(?P<giver>{_SOME}\w+) (?:pays|spends) {_MANY}(?P<what>\w+)": _pays,
    # shooting
    rf"(?P<before>)\b(?:shoot|fire|launch|throw|toss|hurl|spit) (?:an?|one|another) (?P<what>\w+) (?:from|out of) (?P<who>{_SOME}\w+(?: \d+)?){_SIDE}{_TOWARD}{_SPEED}(?=$|,| and )": _shoots,
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:{_SHOOT}) (?:an?|one|another) (?P<what>\w+){_SIDE}{_TOWARD}{_SPEED}(?=$|,| (?:and|when|whenever|every|if|while|each) )": _shoots,
    # what it has already is let go first
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:throws|tosses|hurls|launches) (?P<what>the \w+){_TOWARD}{_SPEED}(?=$|,| and )": (
        lambda found: (
            f"{found['before']}detach {found['what']} and launch {found['what']}"
            + (f" toward {found['goal']}" if found["goal"] else "")
            + (f" with speed {found['speed']}" if found["speed"] else "")
        )
    ),
    # carrying
    r"\b(?P<word>when|whenever|once|as soon as|if) (?P<who>(?:the |an? |any )?\w+(?: \d+)?) (?:picks (?:up )?|grabs |takes )(?P<what>(?:the |an? |any )?(?!\d|up\b|over\b|off\b|on\b|care\b|damage\b)\w+)(?: up)?(?= |,|$)(?! (?:from|in) )": (
        r"\g<word> \g<who> is carrying \g<what>"
    ),
    r"\b(?P<word>when|whenever|once|as soon as|if) (?P<who>(?:the |an? |any )?(?!player\b|user\b)\w+(?: \d+)?) (?:drops|puts down|lets go of|sets down) (?P<what>(?:the |an? |any )?(?!\d|below\b|under\b|to\b|by\b|from\b|off\b|past\b|in\b|into\b|onto\b|on\b|at\b|behind\b|beneath\b|down\b|out\b|less\b)\w+)(?= |,|$)": (
        r"\g<word> \g<who> is not carrying \g<what>"
    ),
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:puts|drops|lays|sets|places) (?P<what>{_ONE}(?!down\b)\w+(?: \d+)?)(?: down)? (?P<at>at|on|in|near) (?P<where>{_ONE}\w+(?: \d+)?)(?= |,|$)": (
        r"\g<before>drop \g<what> and put \g<what> \g<at> \g<where>"
    ),
    r"\b(?P<word>when|whenever|if|while|once) (?P<who>(?:the |an? )?\w+(?: \d+)?) is (?:pressed|pushed)(?: down)? by (?!(?:the )?(?:player|user|mouse|pointer|cursor)\b)(?P<what>(?:the |an? )?\w+)": (
        r"\g<word> \g<what> begins to touch \g<who>"
    ),
    r"\b(?P<word>if|while|as long as|when) (?P<who>(?:the |an? )?\w+(?: \d+)?) is (?:held|kept) down by (?P<what>(?:the |an? )?\w+)": (
        r"\g<word> \g<what> is touching \g<who>"
    ),
    # coming and going
    r"\b(?P<does>goes|go|walks|walk|runs|run|moves|move|flies|fly|drives|drive|returns|comes|returning) back (?=(?:to|at|home|toward|towards|into)\b)": r"\g<does> ",
    r"\b(?P<is>is|are) back (?P<where>home|at|in|on|near)\b": (
        lambda found: f"{found['is']} {'at home' if found['where'].lower() == 'home' else found['where']}"
    ),
    rf"{_BEGINS}(?P<what>an? \w+) (?:comes|pops|turns|shows|crawls|jumps|climbs) (?:out|up) (?P<at>at|from|of|in|near) (?=\w)": (
        lambda found: (
            f"{found['before']}create {found['what']} {'at' if found['at'] in ('from', 'of') else found['at']} "
        )
    ),
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:keeps|stays|keep|stay|backs|back) away from (?=\w)": r"\g<before>make \g<who> run away from ",
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) turns (?:a)?round(?=$|,| (?:and|when|if|while|at|as|then)\b)": r"\g<before>turn \g<who> around",
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:thinks|whispers|yells|mutters|replies|answers|cries|mumbles|exclaims) (?=\w)": (
        r"\g<before>\g<who> says "
    ),
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) turns? to face (?=\w)": r"\g<before>\g<who> faces ",
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:must|should|has to|needs to|shall|will) (?P<does>open|close|shut|lock|unlock)(?=$|,| and | when | if | while | after )": (
        lambda found: f"{found['before']}{found['does'].replace('close', 'shut')} {found['who']}"
    ),
    r"\bturn (?:a)?round (?P<who>(?:the |every |each |all )?\w+(?: \d+)?)(?=$|,| and )": r"turn \g<who> around",
    r"\b(?:pick|choose|take|select) any (?!of\b|one\b)\w+$": "keep a random one",
    r"\bright now\b": "now",
    r"\b(?P<does>goes|go|walks|runs|heads|returns|flies|drives|walk|run|drive) home\b": r"\g<does> to home",
    r"\b(?P<joint>and|or|if|when|while) (?:nobody|no one|nothing) (?P<is>is|are|stands|comes) (?=(?:near|close|within|next to)\b)": r"\g<joint> not anything \g<is> ",
    r"^(?:after|in) (?P<first>\S+ ?(?:s|secs?|seconds?|minutes?)),? (?P<what>.+?),? (?:and )?(?:then )?(?:again|repeat)(?: that| it| this)? every (?P<period>\S+ ?(?:s|secs?|seconds?|minutes?))$": (
        r"every \g<period> starting after \g<first> \g<what>"
    ),
    r"\bturn (?P<who>(?:the |every |each |all )?\w+(?: \d+)?) to face (?=\w)": r"let \g<who> face ",
    r"\bturn (?P<who>(?:the |every |each |all )?\w+(?: \d+)?) half ?way (?:a)?round\b": r"turn \g<who> by 180",
    r"\b(?P<does>create|spawn|make|put|place) (?P<what>(?:(?!at x\b).)+?) at x (?P<x>-?\d+(?:\.\d+)?),? (?:and )?y (?P<y>-?\d+(?:\.\d+)?)": (
        lambda found: (
            f"{found['does']} {found['what']} at ({found['x']}, {found['y']})"
            if found["does"].lower() in ("create", "spawn", "make")
            else found[0]
        )
    ),
    rf"{_BEGINS}speed up (?P<who>{_SOME}\w+(?: \d+)?) by ": r"\g<before>increase \g<who>'s speed by ",
    rf"{_BEGINS}slow(?: down)? (?P<who>{_SOME}(?!down\b)\w+(?: \d+)?)(?: down)? by ": r"\g<before>decrease \g<who>'s speed by ",
    r"\b(?P<does>press|pressed|hold|hit|tap|push) (?P<key>[b-z]|space|enter|shift) (?P<where>at|near|next to|by|beside|close to) (?=\w)": r"\g<key> is pressed and near ",
    r"\b(?P<key>(?-i:[B-Zb-z])|space|enter|shift) is (?P<does>pressed|held|hit|tapped) (?:near|next to|beside|close to) (?=\w)": (
        r"\g<key> is \g<does> and near "
    ),
    r"\b(?P<key>(?-i:[B-Zb-z])|space|enter|shift) is (?P<does>pressed|held|released|hit|tapped) by (?:the )?(?:player|user)\b": (
        r"\g<key> is \g<does>"
    ),
    r"^message: ?(?=[\"“])": "show the message ",
    r"\b(?P<n>one|two|three|four|five|six|seven|eight|nine|ten|\d+) (?P<first>first|nearest|last) (?=\w)": r"\g<first> \g<n> ",
    r"(?<=\d)\.\.(?=-?\d)": " to ",
    r"^(?:the )?(?P<end>lowest|highest|least|most) (?P<what>\w+) (?P<kind>[a-z]\w*)$": r"\g<kind> with the \g<end> \g<what>",
    r"\b(?P<key>(?-i:[B-Zb-hj-z])|space|enter|shift) is (?:hit|tapped|struck)\b": r"\g<key> is pressed",
    r"^(?:the )?(?P<who>[a-z]\w*) with (?:the )?(?P<end>lowest|highest|smallest|largest|biggest|greatest) (?P<what>x|y|angle|scale)$": r"keep the one with the \g<end> \g<who>.\g<what>",
    r"^(?:the )?(?P<end>lowest|highest|leftmost|rightmost) (?P<who>[a-z]\w*)$": _outermost,
    r"^(?P<who>(?:the |an? |every |each )?\w+) (?P<what>(?!is\b|are\b|has\b|when\b).+?) after (?P<does>touching|hitting|entering|leaving|reaching) (?P<other>.+)$": _after_doing,
    r"^(?P<what>(?!when\b|if\b|while\b|move\b|steer\b|play\b|say\b|tell\b|show\b|note\b|write\b)(?!.*\bsays?\b).*\w \w+) with (?:the )?(?P<key>(?-i:[b-z])|space|enter|shift)(?: key)?$": r"when key \g<key> is pressed \g<what>",
    r"\b(?P<word>if|when|while) out of (?P<what>[a-z]\w*)\b": r"\g<word> \g<what> is empty",
    # sizes
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:grows|gets bigger|gets larger) by (?P<n>\d+(?:\.\d+)?) ?(?:%|percent)": (
        lambda found: f"{found['before']}multiply {found['who']}'s scale by {1 + float(found['n']) / 100:.6g}"
    ),
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:shrinks|gets smaller) by (?P<n>\d+(?:\.\d+)?) ?(?:%|percent)": (
        lambda found: f"{found['before']}multiply {found['who']}'s scale by {1 - float(found['n']) / 100:.6g}"
    ),
    # amounts and chances
    rf"{_BEGINS}(?P<what>{_SOME}\w+(?:'s)?(?: \w+)?) doubles(?=$|,| and )": r"\g<before>double \g<what>",
    rf"{_BEGINS}(?P<what>{_SOME}\w+(?:'s)?(?: \w+)?) halves(?=$|,| and )": r"\g<before>halve \g<what>",
    r"\bat (?P<m>\d+):(?P<s>[0-5]\d)\b": lambda found: f"at {60 * int(found['m']) + int(found['s'])} s",
    rf"{_BEGINS}take[ ]away (?=\w)": r"\g<before>lose ",
    r"\b(?P<a>\w+) outnumber (?:the )?(?P<b>\w+)": r"there are more \g<a> than \g<b>",
    r"^with (?:a |the )?(?:chance|probability|likelihood) of (?P<n>\d+(?:\.\d+)?) ?(?:%|percent),? ": r"if \g<n> percent chance, ",
    r"\bwith (?:a |the )?(?:chance|probability|likelihood) of (?P<n>\d+(?:\.\d+)?) ?(?:%|percent)": r"with \g<n> percent chance",
    r"\bthere(?: is|'s) (?:a )?(?P<n>\d+(?:\.\d+)?) ?(?:%|percent) chance (?:that|of|for|to)\b": r"if \g<n> percent chance,",
    rf"{_BEGINS}(?P<v>[a-z_][\w.]*) ?(?P<sign>[-+]) ?(?P<n>\d+(?:\.\d+)?)(?=$|[,;]| and )": _counts,
    rf"{_BEGINS}\+ ?(?P<n>\d+(?:\.\d+)?) (?P<v>[a-z]\w*)(?=$|[,;]| and )": r"\g<before>add \g<n> to \g<v>",
    r"(?<!=)(?<!= )(?<!to )\b(?P<n>\d+(?:\.\d+)?(?: ?(?:deg|degrees?|°|units?|px|pixels?))?) ?/ ?s(?:ec|econd)?(?=$|[ ,;])": r"\g<n> per second",
    r"\b(?:pick|choose|take|select) (?:an?|one|any) (?P<kind>\w+) (?:at random|randomly),? (?:and )?": r"pick a random \g<kind> and ",
    r"\bone (?P<kind>\w+) at random\b": r"a random \g<kind>",
    rf"{_BEGINS}(?:heal|cure) (?P<who>{_SOME}\w+(?: \d+)?) by (?P<n>\S+)": r"\g<before>add \g<n> to \g<who>'s health",
    rf"{_BEGINS}(?:damage|hurt|injure|wound) (?P<who>{_SOME}\w+(?: \d+)?) by (?P<n>\S+)": r"\g<before>subtract \g<n> from \g<who>'s health",
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:can't|cannot|can not|may not|must not|mustn't) (?:ever )?have more than (?P<n>\S+) (?P<what>\w+)": r"\g<before>keep \g<who>'s \g<what> at most \g<n>",
    rf"{_BEGINS}(?P<who>{_SOME}\w+(?: \d+)?) (?:can't|cannot|can not|may not|must not|mustn't) (?:ever )?have (?:less|fewer) than (?P<n>\S+) (?P<what>\w+)": r"\g<before>keep \g<who>'s \g<what> at least \g<n>",
    # states
    r"\b(?:wakes|wake) up\b": lambda found: found[0][:-3],
    r"\b(?P<word>if|when|while|unless|once) the (?:game|level) is (?P<not>not )?(?P<state>(?!over\b|won\b|lost\b|starting\b|ending\b|running\b|at\b|in\b|on\b|done\b|finished\b|older\b)[a-z]+)\b": (
        lambda found: f"{found['word']} {found['not'] or ''}{found['state']}"
    ),
    r"\bstops being (?=\w)": "is no longer ",
    r"\bit (?:starts|begins) (?P<state>\w+ing)\b": r"\g<state> becomes true",
    r"\bit stops (?P<state>\w+ing)\b": r"\g<state> becomes false",
    r"(?P<while>\bfor (?:\S+ )?(?:\S+ ?(?:s|seconds?|minutes?))),? (?:and |then |and then )(?:(?:it|he|she) )?(?:closes|opens|shuts|hides|disappears|goes (?:off|on|out)|turns (?:off|on)|comes back|is (?:closed|opened|shown|hidden))(?: again)?$": (
        r"\g<while>"
    ),
    rf"{_BEGINS}(?P<who>(?:the |every |each |all )?\w+(?: \d+)?) (?:is|are|becomes?|gets?|goes|turns) (?P<how>(?!not\b|in\b|on\b|off\b|at\b)\w+) (?=for (?:\S+ )?\S+ ?(?:s|seconds?|minutes?)$)": (
        r"\g<before>make \g<who> \g<how> "
    ),
}
"""Deeds by their patterns, each with what is read in its place."""
