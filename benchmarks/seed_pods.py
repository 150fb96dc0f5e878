"""Study 1 written by hand twice: as a plain loop over objects, and with NumPy.

Both know this one level only: walking by keys, a wall, gathering pods, counting them.
"""

from __future__ import annotations

import math

import numpy as np

from gatillo.level.model import Circle, Level, Rectangle
from gatillo.sim.run.run import Run
from gatillo.sim.world.input_script import Script

Result = tuple[float, float, float, int]


def gatillo_pods(run: Run) -> Result:
    """Pods counted, where she ended, how often “Gather a pod” fired."""
    world = run.world
    row = int(np.flatnonzero(world.kind == run.program.kind_number["Gardener"])[0])
    fired = sum(f.rule_index == 0 for f in run.trace.firings())
    return world.level["pods"], round(float(world.x[row]), 6), round(float(world.y[row]), 6), fired


class _Walk:
    """What both share: the level's numbers, and her step by keys in plain Python."""

    def __init__(self, level: Level) -> None:
        self.level = level
        self.rate = level.settings.rate
        self.trial = level.trials[0]
        self.ticks = round(self.trial.length * self.rate)
        she = next(o for o in level.objects if o.kind == "Gardener")
        wall = next(o for o in level.objects if o.kind == "Wall")
        shapes = {k.name: k.shape for k in level.kinds}
        self.start = (she.x, she.y, she.angle)
        assert isinstance(shapes["Gardener"], Circle) and isinstance(shapes["Pod"], Circle)
        assert isinstance(shapes["Wall"], Rectangle)
        self.own, self.pod = shapes["Gardener"].radius, shapes["Pod"].radius
        self.wall = (wall.x, wall.y, shapes["Wall"].width / 2, shapes["Wall"].height / 2)
        self.pods = [(o.x, o.y) for o in level.objects if o.kind == "Pod"]
        self.outcome: Result = (0.0, 0.0, 0.0, 0)

    def step(self, held: set[str], x: float, y: float, angle: float) -> tuple[float, float, float]:
        dt = 1 / self.rate
        angle += 180 * dt * (("Left" in held) - ("Right" in held))
        ahead = 120 * (("Up" in held) - ("Down" in held))
        if ahead:
            x += ahead * math.cos(math.radians(angle)) * dt
            y += ahead * math.sin(math.radians(angle)) * dt
        wall_x, wall_y, half_width, half_height = self.wall
        near_x = min(max(x, wall_x - half_width), wall_x + half_width)
        near_y = min(max(y, wall_y - half_height), wall_y + half_height)
        away = math.hypot(x - near_x, y - near_y)
        if 0 < away < self.own:
            x, y = near_x + (x - near_x) * self.own / away, near_y + (y - near_y) * self.own / away
        return x, y, angle


class PodsByLoop(_Walk):
    def run(self) -> None:
        script = Script(self.trial.input, self.rate)
        held: set[str] = set()
        x, y, angle = self.start
        pods = list(self.pods)
        gathered, fired, reach = 0.0, 0, self.own + self.pod + 0.001
        for tick in range(1, self.ticks + 1):
            events = script.events.get(tick)
            if events:
                held = (held | events.down) - events.up
            x, y, angle = self.step(held, x, y, angle)
            left = [p for p in pods if math.hypot(p[0] - x, p[1] - y) > reach]
            if len(left) < len(pods):
                gathered += len(pods) - len(left)
                fired += 1
                pods = left
        self.outcome = (gathered, round(x, 6), round(y, 6), fired)


class PodsByNumPy(_Walk):
    def run(self) -> None:
        script = Script(self.trial.input, self.rate)
        held: set[str] = set()
        x, y, angle = self.start
        pods = np.array(self.pods)
        gathered, fired, reach = 0.0, 0, self.own + self.pod + 0.001
        for tick in range(1, self.ticks + 1):
            events = script.events.get(tick)
            if events:
                held = (held | events.down) - events.up
            x, y, angle = self.step(held, x, y, angle)
            touched = np.hypot(pods[:, 0] - x, pods[:, 1] - y) <= reach
            if touched.any():
                gathered += int(touched.sum())
                fired += 1
                pods = pods[~touched]
        self.outcome = (gathered, round(x, 6), round(y, 6), fired)
