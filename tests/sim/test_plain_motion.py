"""Whole runs of routes, attaching and carrying against a plain loop: where everything stands after every tick, and what arrives."""

from __future__ import annotations

import math
from random import Random

import pytest

from building import c, kind, level, rule, run, things
from gatillo.level.model import Route, Stop
from plain_motion import EASINGS, PlainMotion, Thing, Walk, own_of_a_stop

HOWS = ("once", "in a loop", "there and back")
FACING = ("facing the way it goes", "keeping its facing")


def random_scene(seed, own_legs=False):
    """A level, and the plain loop of the same."""
    any_ = Random(seed)
    rate = any_.choice([10, 30, 60])
    plain = PlainMotion(rate)
    routes = [
        [
            (
                any_.randint(-90, 90),
                any_.randint(-90, 90),
                any_.choice([0.0, 0.0, 0.13, 0.5]),
                own_of_a_stop(any_) if own_legs else {},
            )
            for _ in range(any_.randint(1, 4))
        ]
        for _ in range(3)
    ]
    kinds, objects, rules = [], [], []

    def place(number, name, x, y, **more):
        objects.extend(things(name, (x, y), first=number))
        plain.things[number] = Thing(number, float(x), float(y), **more)

    # carts with a route of their own, a kind each
    for number in range(1, any_.randint(2, 4)):
        way, how, faces = any_.randrange(3), any_.choice(HOWS), any_.choice(FACING)
        easing, by_time = any_.choice(EASINGS), any_.random() < 0.4
        speed, time = any_.choice([7, 60, 333]), any_.choice([0.1, 0.35, 1.0])
        use = (
            c("walk_route_timed", route=f"way{way}", time=str(time), easing=easing, how=how, facing=faces)
            if by_time
            else c("walk_route", route=f"way{way}", speed=str(speed), how=how, facing=faces)
        )
        kinds.append(kind(f"Cart{number}", 5, contact="none", behaviours=(use,)))
        x, y = any_.randint(-50, 50), any_.randint(-50, 50)
        walk = Walk(
            routes[way],
            how,
            0.0 if by_time else speed,
            time if by_time else 0.0,
            easing if by_time else EASINGS[0],
            faces == FACING[0],
        )
        place(number, f"Cart{number}", x, y, walk=walk)
        walk.start = (float(x), float(y))
    carts = list(plain.things)
    # crates that rules attach, detach and send
    kinds.append(kind("Crate", 3, contact="none"))
    crates = range(20, 20 + any_.randint(1, 3))
    for number in crates:
        objects.extend(things("Crate", (number * 7 % 60, number * 13 % 50), first=number)[:1])
        plain.things[number] = Thing(number, float(number * 7 % 60), float(number * 13 % 50))
    objects = [thing if thing.kind != "Crate" else rename(thing) for thing in objects]
    for at in range(any_.randint(2, 6)):
        crate, tick = any_.choice(list(crates)), any_.randint(1, 2 * rate)
        rules.append(deed(any_, plain, routes, f"r{at}", crate, any_.choice([*carts, *crates]), tick, rate))
    plain.deeds.sort(key=lambda one: one[0])
    watch = [
        rule(
            f"stop{n}",
            when=c("arrives_at_stop", who="anything", stop=str(n)),
            do=c("note", text="x"),
            id=90 + n,
        )
        for n in range(1, 5)
    ]
    watch += [
        rule(word, when=c("message_heard", message=word), do=c("note", text="x"), id=at)
        for at, word in enumerate(("ding", "dong"), 200)
    ]
    watch.append(rule("end", when=c("arrives_at_end", who="anything"), do=c("note", text="x"), id=99))
    places = tuple(
        Route(name=f"way{n}", stops=tuple(Stop(x=x, y=y, pause=p, **own) for x, y, p, own in stops))
        for n, stops in enumerate(routes)
    )
    built = level(
        *rules, *watch, kinds=tuple(kinds), objects=tuple(objects), places=places, rate=rate, seconds=3.0
    )
    return built, plain


def rename(thing):
    from msgspec.structs import replace

    return replace(thing, name=f"Crate {thing.id}")


def deed(any_, plain, routes, name, crate, other, tick, rate):
    """A rule that does something to a crate in a tick, and the same for the plain loop."""
    who, carrier = f"Crate {crate}", f"Crate {other}" if other >= 20 else f"Cart{other} 1"
    what = any_.choice(["attach", "attach", "middle", "lag", "detach", "send"])
    if crate == other and what in ("attach", "middle", "lag"):
        what = "detach"
    walks = plain.things[other].walk is not None
    when = c("after_start", time=str(tick / rate))
    if what in ("attach", "middle"):
        how = "keeping the offset" if what == "attach" else "at its middle"
        plain.deeds.append((tick, lambda one: one.attach(crate, other, what == "attach")))
        do = c("attach", who=who, carrier=carrier, how=how)
    elif what == "lag":
        plain.deeds.append((tick, lambda one: one.attach(crate, other, True, 0.2)))
        do = c("attach_lagging", who=who, carrier=carrier, time="0.2")
    elif what == "send" and walks:
        plain.deeds.append((tick, lambda one: one.send(crate, routes[0], how="once", speed=80.0)))
        do = c("send_along", who=who, route="way0", speed="80", how="once")
    else:
        plain.deeds.append((tick, lambda one: one.detach(crate)))
        do = c("detach", who=who)
    return rule(name, when=when, do=do)


@pytest.mark.parametrize("own_legs", [False, True])
@pytest.mark.parametrize("first", range(0, 200, 50))
def test_random_routes_and_attachments_run_as_in_a_plain_loop(first, own_legs):
    for seed in range(first, first + 50):
        built, plain = random_scene(seed, own_legs)
        made = run(built, 0)
        ids = sorted(plain.things)
        for _ in range(made.length):
            made.advance(1)
            plain.step()
            rows = [made.world.row_of_id(i) for i in ids]
            for number, row in zip(ids, rows, strict=True):
                thing = plain.things[number]
                where = made.world.x.item(row), made.world.y.item(row)
                assert where == pytest.approx((thing.x, thing.y), abs=1e-6), (seed, plain.tick, number)
                off = (made.world.angle.item(row) - thing.angle + 180) % 360 - 180
                assert off == pytest.approx(0, abs=1e-6), (seed, plain.tick, number)
        told = sorted(
            (f.tick, made.program.rules[f.rule_index].source.name, f.matches)
            for f in made.trace.firings()
            if made.program.rules[f.rule_index].source.name.startswith(("stop", "end"))
        )
        counts: dict[tuple[int, str], int] = {}
        for tick, _, what in plain.arrivals:
            name = "end" if what == "end" else f"stop{what}"
            counts[tick, name] = counts.get((tick, name), 0) + 1
        assert told == sorted((tick, name, many) for (tick, name), many in counts.items()), seed
        heard = [
            (f.tick, made.program.rules[f.rule_index].source.name)
            for f in made.trace.firings()
            if made.program.rules[f.rule_index].source.name in ("ding", "dong")
            for _ in range(f.matches)
        ]
        # a message is heard in the next tick, once for each that sent it
        assert sorted(heard) == sorted(
            (tick + 1, message) for tick, message in plain.sent if tick < made.length
        ), seed


@pytest.mark.parametrize("seed", range(60))
def test_random_carrying_runs_as_in_a_plain_loop(seed):
    any_ = Random(seed)
    rate = any_.choice([30, 60])
    way = [(any_.randint(-60, 60), any_.randint(-60, 60), 0.0) for _ in range(4)]
    presses = sorted(any_.sample(range(2, 3 * rate, 2), any_.randint(1, 6)))
    reach, ahead, far = any_.choice([30, 60]), any_.choice([10, 26]), any_.choice([20, 90])
    pots = [(any_.randint(-60, 60), any_.randint(-60, 60)) for _ in range(any_.randint(1, 4))]
    built = level(
        kinds=(
            kind(
                "Cart",
                5,
                contact="none",
                behaviours=(c("walk_route", route="way", speed="50", how="in a loop"),),
            ),
            kind(
                "Pot",
                5,
                contact="none",
                behaviours=(
                    c("be_carried", by="Cart", key="E", reach=str(reach), ahead=str(ahead), far=str(far)),
                ),
            ),
        ),
        objects=(*things("Cart", (0, 0), (5, -8)), *things("Pot", *pots, first=20)),
        places=(Route(name="way", stops=tuple(Stop(x=x, y=y) for x, y, _ in way)),),
        keys=tuple(("E", tick / rate, (tick + 1) / rate) for tick in presses),
        rate=rate,
        seconds=3.5,
    )
    plain = PlainMotion(rate, presses=frozenset(presses), carriers=(1, 2), reach=reach, ahead=ahead, far=far)
    for number, (x, y) in ((1, (0.0, 0.0)), (2, (5.0, -8.0))):
        plain.things[number] = Thing(number, x, y, walk=Walk(way, "in a loop", 50.0, start=(x, y)))
    for number, (x, y) in enumerate(pots, 20):
        plain.things[number] = Thing(number, float(x), float(y))
    plain.pots = tuple(range(20, 20 + len(pots)))
    made = run(built, 0)
    for _ in range(made.length):
        made.advance(1)
        plain.step()
        for thing in plain.things.values():
            row = made.world.row_of_id(thing.id)
            where = made.world.x.item(row), made.world.y.item(row)
            assert where == pytest.approx((thing.x, thing.y), abs=1e-6), (plain.tick, thing.id)
            bond = made.world.movement.bonds.get(thing.id)
            assert (bond.carrier if bond else None) == (thing.bond[0] if thing.bond else None), plain.tick
    assert math.isfinite(plain.things[1].x)
