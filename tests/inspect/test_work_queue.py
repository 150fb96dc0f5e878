"""One queue of tasks: the same results whoever does the work, and nothing lost when a worker dies."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

import pytest
from msgspec.structs import replace
from typer.testing import CliRunner

from building import EVERY_TICK, add, c, level, rule
from gatillo.cli.main import app
from gatillo.examples import study_path
from gatillo.files.level_file import read_level, write_level
from gatillo.inspect.checking import checked, tasks_of
from gatillo.inspect.exploring.exploring import Explorer
from gatillo.inspect.mutation.trying import order_of_trial, try_mutants, unchanged
from gatillo.inspect.sweep.cases import sweep_of
from gatillo.inspect.sweep.outcomes import swept
from gatillo.inspect.work_queue import ClusterError, Crew, WorkQueue
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Trial

STUDY = read_level(study_path("08-the-key.gatillo"))
GIVEN: list[int] = []


def begin(number: int) -> None:
    GIVEN[:] = [number]


def times(task: int) -> int:
    return GIVEN[0] * task


def slow(task: int) -> int:
    time.sleep(0.02)
    return GIVEN[0] * task


def dies_once(task: tuple[int, str]) -> int:
    """Kill its process at one task, the first time that any process comes to it."""
    number, mark = task
    if number == 5 and not Path(mark).exists():
        Path(mark).write_text("")
        os.kill(os.getpid(), signal.SIGKILL)
    return GIVEN[0] * number


def fails(task: int) -> int:
    raise ValueError(f"task {task}")


@pytest.fixture(scope="module")
def cluster():
    distributed = pytest.importorskip("distributed")
    with distributed.LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=":0"
    ) as made:
        yield made


@pytest.fixture(params=["alone", "two processes", "a cluster"])
def crew(request):
    if request.param == "a cluster":
        return Crew(cluster=request.getfixturevalue("cluster").scheduler_address)
    return Crew(1 if request.param == "alone" else 2)


def test_results_stand_in_the_order_of_the_tasks(crew):
    with WorkQueue(times, begin, (7,), crew) as queue:
        assert list(queue.results(range(40), ordered=True)) == [7 * n for n in range(40)]
        # the same workers go on
        assert sorted(queue.results(range(5))) == [0, 7, 14, 21, 28]


def test_another_queue_makes_the_workers_ready_anew(crew):
    for number in (2, 3):
        with WorkQueue(times, begin, (number,), crew) as queue:
            assert list(queue.results([10, 20], ordered=True)) == [10 * number, 20 * number]


def test_an_error_of_a_task_is_raised(crew):
    with pytest.raises(ValueError, match="task 4"), WorkQueue(fails, begin, (1,), crew) as queue:
        list(queue.results([4]))


def test_it_stops_when_it_is_told_to(crew):
    asked = iter(range(10_000))
    with WorkQueue(slow, begin, (1,), crew) as queue:
        assert len(list(queue.results(range(1_000), lambda: next(asked) > 20))) < 1_000


@pytest.mark.parametrize("ordered", [True, False])
def test_a_process_that_dies_loses_nothing(tmp_path, ordered):
    tasks = [(number, str(tmp_path / "died")) for number in range(12)]
    with WorkQueue(dies_once, begin, (3,), Crew(2)) as queue:
        found = list(queue.results(tasks, ordered=ordered))
    assert (tmp_path / "died").exists()
    assert sorted(found) == [3 * number for number in range(12)]
    if ordered:
        assert found == sorted(found)


def test_a_worker_of_a_cluster_that_dies_loses_nothing(tmp_path, cluster):
    tasks = [(number, str(tmp_path / "died")) for number in range(12)]
    with WorkQueue(dies_once, begin, (3,), Crew(cluster=cluster.scheduler_address)) as queue:
        found = list(queue.results(tasks, ordered=True))
    assert (tmp_path / "died").exists()
    assert found == [3 * number for number in range(12)]


def test_checks_sweeps_changes_and_exploring_come_out_the_same(crew):
    alone = Crew()
    tasks = tasks_of(0, STUDY, STUDY.trials[:2], [30], 2)
    named = [("key", STUDY)]
    assert list(checked(named, tasks, crew)) == list(checked(named, tasks, alone))

    grows = level(
        rule("Grow", when=EVERY_TICK, do=add("level.n", "level.step"), id=1), has={"step": 1.0, "n": 0.0}
    )
    sweep = sweep_of(grows, ["level.step=1,2,3"])
    one, other = (dict(swept(grows, grows.trials[0], sweep, ["level.n"], crew=c)) for c in (crew, alone))
    assert {n: o.watched for n, o in one.items()} == {n: o.watched for n, o in other.items()}

    known = unchanged(STUDY)
    numbers = order_of_trial(known)[:4]
    assert sorted(try_mutants(known, numbers, crew=crew), key=lambda t: t.number) == sorted(
        try_mutants(known, numbers, crew=alone), key=lambda t: t.number
    )

    purse = level(
        rule("Earn", when=c("key_pressed", key="E"), do=add("level.coins", "2"), id=1),
        rule("Pay", when=c("key_pressed", key="P"), do=add("level.coins", "-1"), id=2),
        has={"coins": 1.0},
    )
    never_empty = HoldsAt("level.coins >= 0", "always", any_input=True)
    purse = replace(purse, trials=(Trial(name="t", length=4.0, expectations=(never_empty,)),))
    one, other = (
        Explorer(purse, purse.trials[0], 3).explore(lambda: False, 60, made) for made in (crew, alone)
    )
    assert one == other
    assert one.found is not None


def test_a_cluster_that_is_not_there_is_a_sentence():
    pytest.importorskip("distributed")
    with (
        pytest.raises(ClusterError, match="no Dask scheduler answers"),
        WorkQueue(times, begin, (1,), Crew(cluster="tcp://127.0.0.1:1")) as queue,
    ):
        list(queue.results([1]))


def test_the_commands_take_a_cluster(tmp_path, cluster):
    path = tmp_path / "key.gatillo"
    write_level(path, STUDY)
    address = cluster.scheduler_address
    asked = ["check", str(path), "--json"]
    here, there = (CliRunner().invoke(app, [*asked, *more]) for more in ([], ["--cluster", address]))
    assert there.exit_code == here.exit_code == 0, there.output
    assert there.stdout == here.stdout
    gone = CliRunner().invoke(app, [*asked, "--cluster", "nowhere"])
    assert gone.exit_code == 2 and "nowhere" in gone.stderr
