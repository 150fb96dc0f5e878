"""Pictures of the window, made without showing it."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QEventLoop, QSettings, QTimer
from PySide6.QtWidgets import QApplication, QWidget

from gatillo.desk.application import make_application
from gatillo.desk.level_view.picture import level_picture, seen_amid
from gatillo.desk.looks.theme import choose_theme
from gatillo.desk.order_list.list_state import reached_of
from gatillo.desk.order_list.row_sizes import ROW
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.start.start_page import PICTURE
from gatillo.desk.window.layout_commands import LayoutDialog
from gatillo.desk.window.main_window import MainWindow
from gatillo.examples import example_names, picture_path, study_path
from gatillo.files.layout.svg_in import read_drawing
from gatillo.files.layout.svg_out import level_svg
from gatillo.files.level_file import read_level
from gatillo.inspect.expectations import Verdict
from gatillo.inspect.merging.levels import merge
from gatillo.inspect.tracks import Tracks
from gatillo.level import edits
from gatillo.level.model import Graph, Level
from gatillo.level.roles import all_logic
from gatillo.sim.run.run import Cursor, Run

SIZE = (1280, 800)


def wait_for(condition: Callable[[], bool], milliseconds: int = 120_000) -> None:
    """Run the event loop until a condition holds. Raises TimeoutError."""
    if condition():
        return
    loop = QEventLoop()
    poll = QTimer()
    poll.setInterval(5)
    poll.timeout.connect(lambda: loop.quit() if condition() else None)
    poll.start()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()
    if not condition():
        raise TimeoutError("the window did not come to rest")


def _busiest(bench: Workbench) -> Cursor:
    """Return a moment amid the liveliest stretch: the tick with most firings about it, its last but one firing."""
    trace = bench.run.trace

    def lively(tick: int) -> tuple[int, int]:
        return trace.count_at(tick), sum(trace.count_at(t) for t in range(tick - 6, tick + 7))

    best = max(range(1, bench.run.done + 1), key=lively, default=0)
    return Cursor(best, max(1, trace.count_at(best) - 1))


def _whole(window: MainWindow) -> None:
    bench = window.bench
    middle = bench.run.end_of(bench.run.done * 2 // 5)
    bench.move_cursor(bench.run.previous_firing(middle) or middle)


def _zoomed(window: MainWindow) -> None:
    bench = window.bench
    cursor = _busiest(bench)
    bench.move_cursor(cursor)
    firings = bench.run.trace.firings_at(cursor.tick)
    rule = bench.program.rules[firings[cursor.position - 1].rule_index].source if firings else None
    bench.select(Selection(rule=rule.id if rule else None))
    window.order.zoom_to(56.0)


def _start(window: MainWindow) -> None:
    window.show_start()
    wait_for(lambda: not window.start_page._waiting)
    QApplication.processEvents()


def _typed(window: MainWindow) -> None:
    """Show a whole rule being typed in one line, with its lines as they are read."""
    _typing(
        window,
        "when gardener hits pod if pods < wanted destroy pod and add 1 to pods else say full at gardener",
    )


def _unknown(window: MainWindow) -> None:
    """Show a line with a name that does not exist, and the answers to choose from."""
    _typing(window, "every 2 s turn basket by pds * dt")
    window.order.writer.line.take()
    QApplication.processEvents()


def _typing(window: MainWindow, text: str) -> None:
    _whole(window)
    bench, order = window.bench, window.order
    first = bench.program.rules[0].source
    order.state.show_rule(first.id)
    bench.select(Selection(rule=first.id))
    order.writer.new_rule(text)
    QApplication.processEvents()


def _trials(window: MainWindow) -> None:
    """Show all trials of Night shift, after they were run: what came of each, and what none of them reaches."""
    bench = window.bench
    bench.choose_trial("The round with a mistake")
    _whole_run(bench)
    window.show_trials()
    window.trials_page.start()
    wait_for(
        lambda: not bench.trial_runs.busy and bench.shown.judged is bench.run and bool(bench.shown.verdicts)
    )
    failed = next(at for at, verdict in enumerate(bench.shown.verdicts) if verdict.outcome == "failed")
    bench.select(Selection(thing=Thing("trial", bench.trial.name)))
    window.trials_page.expected.go(failed)
    QApplication.processEvents()
    window.trials_page.expected.choose(failed)
    # a rule in sight that no trial reaches, with its ring
    rows = window.order.state.rows
    missed = next(
        (at for at, row in enumerate(rows) if row.sort == "rule" and reached_of(window.order.state, row)), 0
    )
    window.order.verticalScrollBar().setValue((missed - 3) * ROW)
    QApplication.processEvents()


def _open_graph(window: MainWindow, name: str) -> Graph:
    drawn = next(e for _, _, e in all_logic(window.bench.level) if e.name == name)
    assert isinstance(drawn, Graph)
    window.region.open_graph(drawn.id)
    QApplication.processEvents()
    return drawn


def _graph(window: MainWindow) -> None:
    """Night shift's lamps, in the tick in which the last of them wakes."""
    bench = window.bench
    _open_graph(window, "Lamps wake")
    bench.move_cursor(bench.run.end_of(866))
    window.graph_page.commands.opened.choose({4})


def _playing(window: MainWindow) -> None:
    """Night shift while it is played, with a graph beside the level in which two branches ran a moment ago."""
    bench = window.bench
    _open_graph(window, "Lamps wake")
    bench.move_cursor(bench.run.end_of(858))
    window.graph_page.view.fit()
    window.play()
    bench.player._clock.stop()
    window.order.state.show_selected()
    bench.player.press("Right")
    for _ in range(4):
        bench.player.go_on(2)
        QApplication.processEvents()


def _values(window: MainWindow) -> None:
    """Four values of how far moths keep apart, over three seeds."""
    window.open_path(study_path("06-moths.gatillo"), study=True)
    window.bench.choose_trial("A swarm between the fires")
    _whole_run(window.bench)
    window.try_values("Swarm moth flock.apart")
    trying = window.trying
    trying.values[0].setText("18, 36, 72, 120")
    trying.seeds.setValue(3)
    trying.watch.setText("average(Swarm_moth.x); highest(Swarm_moth.y)")
    trying.run()
    wait_for(lambda: not trying.results.isHidden())
    trying.time.setValue(300)
    trying.choose(1)


def _whole_run(bench: Workbench) -> None:
    wait_for(lambda: bench.run.program is bench.program and bench.run.done >= bench.run.length)


def _own_node(window: MainWindow) -> None:
    """An own node: its cards, its face as the sentence it is, and who uses it."""
    window.bench.select(Selection(rule=_open_graph(window, "Comes near").id))


def _own_behaviour(window: MainWindow) -> None:
    """An own behaviour: its rules in the order list, and its settings and kinds on its page."""
    window.bench.select(Selection(thing=Thing("section", "flutters")))
    window.actions_["tall sheet"].trigger()
    window.bench.move_cursor(window.bench.run.end_of(90))


def _answered(window: MainWindow) -> None:
    answers, beside = window.bench.answers, window.bench.beside
    wait_for(lambda: not answers.busy and not beside.busy)
    QApplication.processEvents()


def _unfold(window: MainWindow, *paths: tuple[int, ...]) -> None:
    for path in paths:
        window.bench.answers.fold(path)
        _answered(window)


def _why(window: MainWindow) -> None:
    """Why the last rule of the demo fired, unfolded down to what gathered the last pod."""
    bench = window.bench
    _whole(window)
    name = "Good night"
    firing = next(
        f for f in bench.run.trace.firings() if bench.run.program.rules[f.rule_index].source.name == name
    )
    bench.move_cursor(Cursor(firing.tick, firing.position))
    bench.answers.why(firing.tick, firing.position)
    _answered(window)
    _unfold(window, (0, 0, 0), (0, 0, 0, 0), (0, 0, 0, 0, 1), (0, 0, 0, 0, 1, 0))
    window.order.zoom_to(40.0)
    QApplication.processEvents()


def _why_not(window: MainWindow) -> None:
    """Why a pod was not gathered at a moment: how far off, and when it came nearest."""
    bench = window.bench
    _whole(window)
    rule = next(e.id for _, _, e in all_logic(bench.level) if e.name == "Gather a pod")
    pod = next(o.id for o in bench.level.objects if o.name == "Pod 7")
    bench.select(Selection(rule=rule))
    bench.move_cursor(bench.run.end_of(246))
    bench.answers.why_not(rule, 246, (pod,))
    _answered(window)


def _beside(window: MainWindow) -> None:
    """Study 2's wrong first try laid beside the right one: ghosts, marks, and why on both sides."""
    bench = window.bench
    window.open_path(study_path("02-stacked-pots.gatillo"), study=True)
    wait_for(lambda: bench.run.done >= bench.run.length and bench.shown.judged is bench.run)
    bench.beside.compare_with_trial("First try")
    wait_for(lambda: bench.beside.run is not None and not bench.beside.busy)
    _answered(window)
    _unfold(window, (0,))
    bench.move_cursor(bench.run.end_of(110))


def _order(window: MainWindow) -> None:
    """Show the order of rules: the findings, and two rules exchanged."""
    bench = window.bench
    _whole(window)
    bench.answers.find_order()
    _answered(window)
    bench.beside.compare_with(bench.answers.exchanged(0), "two entries exchanged")
    wait_for(lambda: not bench.beside.busy)
    bench.answers.find_order()
    _answered(window)
    bench.move_cursor(bench.run.end_of(794))
    window.order.zoom_to(40.0)


def _settle(window: MainWindow) -> None:
    """Two versions of the level merged, of which both changed an amount and the place of an object."""
    bench = window.bench
    base = bench.level
    rule, thing = (
        next(logic for _, _, logic in all_logic(base) if logic.name == "Gather a pod"),
        base.objects[-1],
    )

    def version(amount: str, dx: float) -> Level:
        changed = edits.set_slot(base, rule.id, "do", 1, "amount", amount)
        return edits.move_objects(changed, {thing.id}, dx, 0)

    bench.edit(merge(base, version("2", 30), version("level.wanted / 4", -20)), "merge")
    window.versions.show_merge()
    wait_for(lambda: bench.run.program is bench.program and bench.run.done >= bench.run.length)


def _layout(window: MainWindow) -> None:
    """The table of what the shapes of a drawing become."""
    drawing = read_drawing(level_svg(window.bench.level))
    dialog = LayoutDialog(window.bench.level, drawing, "night-shift.svg", window)
    dialog.setObjectName("layout")
    dialog.show()


VIEWS: dict[str, tuple[str, Callable[[MainWindow], None]]] = {
    "desk": ("light", _whole),
    "desk-dark": ("dark", _whole),
    "desk-zoomed": ("light", _zoomed),
    "start": ("light", _start),
    "typed-line": ("light", _typed),
    "unknown-name": ("dark", _unknown),
    "trials": ("light", _trials),
    "graph": ("light", _graph),
    "settle": ("dark", _settle),
    "layout": ("light", _layout),
    "playing": ("light", _playing),
    "own-behaviour": ("light", _own_behaviour),
    "values": ("light", _values),
    "own-node": ("light", _own_node),
    "why": ("light", _why),
    "why-not": ("light", _why_not),
    "beside": ("light", _beside),
    "whose-turn": ("light", _order),
}
"""The views there are pictures of: which look, and how the window is set up."""


@dataclass(frozen=True, slots=True)
class Scene:
    """A moment of a study, as the level view alone shows it."""

    study: str
    seconds: float
    overlays: tuple[str, ...] = ()
    trial: str = ""


SCENES: dict[str, Scene] = {
    "goals": Scene("09-beetles.gatillo", 14.0, ("tracks",)),
    "routes": Scene("15-cart.gatillo", 3.4, ("velocity",)),
    "flocking": Scene("06-moths.gatillo", 5.0, ("urges",), "A swarm between the fires"),
    "turning": Scene("10-fireflies.gatillo", 5.2),
    "solids": Scene("11-seed-bomb.gatillo", 3.6, ("tracks", "velocity")),
    "carrying": Scene("19-pot-on-plate.gatillo", 2.4, ("reach",)),
    "focus": Scene("12-bench-focus.gatillo", 1.95, ("focus",)),
}
"""The pictures in the pages about behaviours."""


def save_scene(scene: Scene, picture: Path) -> None:
    """Save the level view at a moment of a study as a PNG. Raises OSError when it cannot be written."""

    def set_up(window: MainWindow) -> None:
        bench = window.bench
        if scene.trial:
            bench.choose_trial(scene.trial)
            wait_for(lambda: bench.run.program is bench.program and bench.run.done >= bench.run.length)
        window.level_view.overlays = set(scene.overlays)
        bench.move_cursor(bench.run.end_of(round(scene.seconds * bench.program.rate)))
        if "tracks" in scene.overlays:
            # whole before the picture is taken, and not as far as one paint comes
            window.level_view.tracks = Tracks(bench.run)
            window.level_view.tracks.fill(0, bench.cursor.tick - 1)

    _alone(lambda: _save(study_path(scene.study), "light", set_up, picture, lambda w: w.level_view))


def save_gallery(look: str) -> list[Path]:
    """Save the pictures of the start page's gallery in a look; gives where."""
    make_application()
    choose_theme(look)
    made = []
    for name in example_names():
        path = picture_path(name, dark=look == "dark")
        path.parent.mkdir(exist_ok=True)
        shown = seen_amid(read_level(study_path(name)))
        if not level_picture(shown, PICTURE.width(), PICTURE.height()).save(str(path), "PNG"):
            raise OSError(0, "the picture could not be written")
        made.append(path)
    return made


def save_shot(path: Path, view: str, picture: Path) -> tuple[Run, list[Verdict]]:
    """Save a view of a level as a PNG; gives the run that it shows and what became of its expectations.

    Raises ValueError for an unknown view or an unreadable level, OSError when the picture cannot be written.
    """
    if view not in VIEWS:
        raise ValueError(f"there is no view “{view}”; there are: {', '.join(VIEWS)}")
    look, set_up = VIEWS[view]
    made: list[tuple[Run, list[Verdict]]] = []

    def whole(window: MainWindow) -> QWidget:
        made.append((window.bench.run, window.bench.shown.verdicts))
        if view == "layout":
            dialog = window.findChild(LayoutDialog, "layout")
            assert dialog is not None
            return dialog
        return window.trying if view == "values" else window

    _alone(lambda: _save(path, look, set_up, picture, whole))
    return made[0]


def _alone(run: Callable[[], None]) -> None:
    """Do something where nothing of the user's is seen: not what was open lately, not what a crash left."""
    with tempfile.TemporaryDirectory() as folder:
        before = os.environ.get("GATILLO_STATE")
        os.environ["GATILLO_STATE"] = folder
        try:
            run()
        finally:
            del os.environ["GATILLO_STATE"]
            if before is not None:
                os.environ["GATILLO_STATE"] = before


def _save(
    path: Path,
    look: str,
    set_up: Callable[[MainWindow], None],
    picture: Path,
    part: Callable[[MainWindow], QWidget],
) -> None:
    make_application()
    settings = QSettings("gatillo-shots", "nothing-kept")
    settings.clear()
    bench = Workbench()
    window = MainWindow(bench, settings)
    window.choose_look(look)
    window.resize(*SIZE)
    window.show()
    if not window.open_path(path):
        raise ValueError(window.message.words.text())
    wait_for(lambda: bench.run.done >= bench.run.length and bench.shown.judged is bench.run)
    settings.remove("recent")
    set_up(window)
    wait_for(lambda: not bench.moment.awaited)
    # a text that grew is laid out again in the turn after
    for _ in range(5):
        QApplication.processEvents()
    saved = part(window).grab().save(str(picture), "PNG")
    settings.clear()
    bench.document.history.mark_saved(bench.level)
    window.close()
    if not saved:
        raise OSError(0, "the picture could not be written")
