"""Large levels are opened, shown and played."""

from __future__ import annotations

from msgspec.structs import replace

from building import add, c, kind, level, rule, things
from gatillo.files.level_file import write_level


def test_a_level_of_5000_objects_with_a_tag_each_is_opened_and_played(open_window, qtbot, tmp_path):
    objects = tuple(
        replace(o, tags=(f"tag{i}",))
        for i, o in enumerate(things("Pod", *[(float(i % 70) * 9, float(i // 70) * 9) for i in range(5_000)]))
    )
    built = level(
        rule("r", when=c("every_tick"), do=add("level.n")),
        has={"n": 0.0},
        kinds=(kind("Pod", 2, contact="none"),),
        objects=objects,
    )
    path = tmp_path / "a.gatillo"
    write_level(path, built)
    window = open_window(level())
    assert window.open_path(path)
    qtbot.waitUntil(lambda: window.bench.run.done >= window.bench.run.length, timeout=20_000)
    assert not window.bench.world.tags, "no mask of a tag is made that nobody asks for"
    window.bench.move_cursor(window.bench.run.end_of(40))
    window.bench.play()
    assert window.bench.playing and window.bench.run.done == 40
    window.bench.stop()
