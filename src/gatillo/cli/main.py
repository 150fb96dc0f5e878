"""The commands. `gatillo [FILE]` opens the window; everything else is a subcommand."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from gatillo import __version__
from gatillo.cli.console import cannot_write, err, give_up, make_ready, out, write_json, write_text

if TYPE_CHECKING:
    from gatillo.sim.run.run import Run

# the rest is imported by the command that uses it: `gatillo --help` needs none of it

app = typer.Typer(
    no_args_is_help=False,
    add_completion=False,
    pretty_exceptions_enable=False,
    # else the help alone would import a Markdown reader and more
    rich_markup_mode=None,
    context_settings={"max_content_width": 120},
    help="Write event rules for a level, run them, and see which fired, when and why.",
)

File = Annotated[Path, typer.Argument(help="a level file", metavar="FILE")]
TrialName = Annotated[str | None, typer.Option("--trial", help="which trial; the first if not given")]
Jobs = Annotated[int, typer.Option(help="in how many processes; 0 for one on each core", min=0, max=256)]
Cluster = Annotated[
    str,
    typer.Option(
        metavar="ADDRESS",
        help="let the workers of a Dask scheduler do it, at tcp://HOST:PORT, instead of --jobs",
    ),
]
AsJson = Annotated[bool, typer.Option("--json", help="write the answer as JSON")]


@app.command("open", hidden=True)
def open_(file: Annotated[Path | None, typer.Argument(metavar="[FILE]")] = None) -> None:
    """Open the window."""
    from gatillo.cli.window import open_window

    raise typer.Exit(open_window(file))


@app.command()
def demo(
    picture: Annotated[
        Path, typer.Option(help="where the picture of the window goes when there is no screen")
    ] = Path("gatillo-demo.png"),
) -> None:
    """Open a study in the window. Without a screen, run it, print what fired and save a picture."""
    from gatillo.cli.levels import level_from, trial_from
    from gatillo.cli.run_report import firing_lines, print_faults, print_verdicts, run_with_progress
    from gatillo.cli.window import has_desk, has_screen, need_desk, open_window, shoot
    from gatillo.examples import DEMO, study_path
    from gatillo.inspect.expectations import all_as_meant, run_and_judge
    from gatillo.level.edits import as_tried
    from gatillo.sim.program.program import Program
    from gatillo.sim.run.run import Run

    path = study_path(DEMO)
    if has_screen():
        raise typer.Exit(open_window(path))
    level = level_from(path)
    trial = trial_from(level, None)
    if has_desk():
        if err.is_terminal:
            err.print(f"Running “{level.name}”, which takes some seconds …", markup=False)
        # the window that is pictured has run it
        run, verdicts = shoot(path, "desk", picture)
    else:
        run = Run(Program(as_tried(level, trial)), trial)
        verdicts = run_and_judge(run, lambda started: run_with_progress(started, "running"))
    out.print(
        f"{run.program.level.name}, trial “{run.trial.name}”: {run.done} ticks, {len(run.trace.firings())} firings",
        markup=False,
    )
    for line in firing_lines(run):
        out.print(line, markup=False)
    out.print("Expectations")
    print_verdicts(verdicts)
    print_faults(run)
    amiss = _tell_amiss(run)
    need_desk()
    out.print(f"Picture of the window: {picture}", markup=False)
    raise typer.Exit(0 if all_as_meant(trial, verdicts) and not amiss else 1)


@app.command("install-desktop")
def install_desktop(
    remove: Annotated[bool, typer.Option("--remove", help="remove it again")] = False,
) -> None:
    """Add Gatillo to your desktop's menu, with its icon and file type.

    The files are written to your own data directory, for you alone.
    """
    from gatillo import desktop

    home = desktop.data_home()
    try:
        done = desktop.remove(home) if remove else desktop.install(home)
    except OSError as error:
        give_up(
            f"“{error.filename}” cannot be {'removed' if remove else 'written'}: {error.strerror or error}"
        )
    for path in done:
        out.print(f"{'removed' if remove else 'written'}: {path}", markup=False)
    if not done:
        out.print("there was nothing to remove", markup=False)


@app.command()
def check(
    files: Annotated[list[Path], typer.Argument(help="level files", metavar="FILE…")],
    trial: TrialName = None,
    rates: Annotated[str, typer.Option(help="tick rates to try, such as 30,60,120")] = "",
    seeds: Annotated[int, typer.Option(help="how many seeds to try, from the trial's own up", min=1)] = 1,
    junit: Annotated[Path | None, typer.Option(help="write a JUnit XML report here")] = None,
    jobs: Jobs = 0,
    cluster: Cluster = "",
    coverage: Annotated[
        bool, typer.Option("--coverage", help="say what the trials reach of the level, and what they do not")
    ] = False,
    cobertura: Annotated[Path | None, typer.Option(help="write the coverage as Cobertura XML here")] = None,
    mutants: Annotated[
        bool,
        typer.Option("--mutants", help="make small changes to the level and say which the trials notice"),
    ] = False,
    budget: Annotated[
        float | None, typer.Option(help="seconds to spend on the changes of each file", min=0)
    ] = None,
    seed: Annotated[int, typer.Option(help="orders the changes that take equally long", min=0)] = 0,
    as_json: AsJson = False,
) -> None:
    """Run all trials and report every expectation.

    With --coverage or --mutants, --json gives an object: the list of results under “results”, what is reached under “coverage”,
    what came of each change under “mutants”. A change that nothing notices does not alter the exit code.
    """
    from gatillo.cli.checking import check_levels, write_junit
    from gatillo.cli.levels import level_from
    from gatillo.cli.working import working

    try:
        wanted = [int(r) for r in rates.split(",")] if rates else []
    except ValueError:
        give_up(f"“{rates}” is not a list of tick rates; write it as 30,60,120")
    if budget is not None and not mutants:
        give_up("--budget limits the search that --mutants starts; give both")
    if any(not 10 <= r <= 240 for r in wanted):
        give_up("a tick rate must be between 10 and 240 a second")
    levels = [(path, level_from(path)) for path in files]
    tell = None if as_json else out.made
    wants_coverage = coverage or cobertura is not None
    with working(jobs, cluster) as crew:
        results = check_levels(levels, trial, wanted, seeds, tell, crew, reached=wants_coverage)
    if junit is not None:
        write_junit(results, junit)
    data: dict[str, object] = {"results": [r.as_data() for r in results]}
    if wants_coverage:
        from gatillo.cli import covering

        found = covering.coverage_of(levels, results)
        if cobertura is not None:
            covering.write_report(found, cobertura)
        if coverage and tell is not None:
            covering.print_coverage(found, tell)
        if coverage:
            data["coverage"] = covering.as_data(found)
    if mutants:
        from gatillo.cli import mutating

        with working(jobs, cluster) as crew:
            changed = mutating.try_levels(levels, trial, budget, seed, crew)
        if tell is not None:
            mutating.print_mutants(changed, tell)
        data["mutants"] = mutating.as_data(changed)
    if as_json:
        write_json(data if len(data) > 1 else data["results"])
    raise typer.Exit(0 if all(r.passed for r in results) else 1)


@app.command()
def run(
    file: File,
    trial: TrialName = None,
    trace: Annotated[Path | None, typer.Option(help="write the firings here: .jsonl, .csv or .vcd")] = None,
    as_json: AsJson = False,
) -> None:
    """Run one trial and print which rules fired, in order.

    The exit code is 1 if a rule cannot run or something does not hold.
    """
    from gatillo.cli.levels import level_from, trial_from
    from gatillo.cli.run_report import firing_lines, print_faults, print_verdicts, run_with_progress
    from gatillo.files.exports import write_trace
    from gatillo.inspect.expectations import all_as_meant, as_data, faults_amiss, run_and_judge
    from gatillo.level.edits import as_tried
    from gatillo.sim.program.program import Program
    from gatillo.sim.run.run import Run

    level = level_from(file)
    chosen = trial_from(level, trial)
    program = Program(as_tried(level, chosen))
    done = Run(program, chosen)
    verdicts = run_and_judge(done, lambda started: run_with_progress(started, "running"))
    if trace is not None:
        try:
            write_trace(done, trace)
        except ValueError as error:
            give_up(str(error))
        except OSError as error:
            give_up(f"“{trace}” cannot be written: {error.strerror or error}")
    if as_json:
        data = {
            "level": program.level.name,
            "trial": chosen.name,
            "ticks": done.done,
            "firings": len(done.trace.firings()),
            "digest": done.trace.digest(),
            "findings": [p.sentence() for p in program.problems],
            "faults": [sentence for *_, sentence in done.trace.fault_counts()],
            "faults_amiss": faults_amiss(done),
            "expectations": [as_data(v) for v in verdicts],
        }
        write_json(data)
    else:
        if trace is None:
            for line in firing_lines(done):
                out.print(line, markup=False)
        for problem in program.problems:
            out.print(f"  finding: {problem.sentence()}", markup=False)
        print_verdicts(verdicts)
        print_faults(done)
        _tell_amiss(done)
    held = all_as_meant(chosen, verdicts) and not program.problems and not faults_amiss(done)
    raise typer.Exit(0 if held else 1)


def _tell_amiss(run: Run) -> str:
    """Say when a run's faults are others than its trial expects."""
    from gatillo.inspect.expectations import faults_amiss

    amiss = faults_amiss(run)
    if amiss:
        out.print(f"  {amiss}", markup=False)
    return amiss


@app.command()
def accept(
    file: File,
    trial: TrialName = None,
    yes: Annotated[bool, typer.Option("--yes", help="accept it without asking")] = False,
) -> None:
    """Show how the order of firing has changed, and accept the new one."""
    from gatillo.cli.levels import level_from, trial_from
    from gatillo.cli.run_report import run_with_progress
    from gatillo.files.level_file import LevelFileError, write_level
    from gatillo.inspect.expectations import accepted, order_differences
    from gatillo.level.edits import as_tried
    from gatillo.level.expectations import SameOrder
    from gatillo.level.thing_edits import accept_order
    from gatillo.sim.program.program import Program
    from gatillo.sim.run.run import Run

    level = level_from(file)
    chosen = trial_from(level, trial)
    done = run_with_progress(Run(Program(as_tried(level, chosen)), chosen), "running")
    now = accepted(done)
    before = next((e for e in chosen.expectations if isinstance(e, SameOrder)), None)
    if before is not None and before.digest == now.digest:
        out.print("The order of firing is the accepted one; nothing to do.")
        return
    for line in order_differences(before.firings if before else (), now.firings):
        out.print(line, markup=False)
    if not yes and not typer.confirm(
        f"Accept these {len(now.firings)} firings as the order of “{chosen.name}”?"
    ):
        raise typer.Exit(1)
    try:
        note = write_level(file, accept_order(level, chosen.name, now))
    except LevelFileError as error:
        give_up(str(error))
    if note:
        out.print(note, markup=False)


@app.command()
def report(
    file: File,
    result: Annotated[Path, typer.Option("--output", "-o", help="the page to write, in HTML")],
    trial: TrialName = None,
    beside: Annotated[
        Path | None, typer.Option(help="another level, whose run of the trial is shown beside this one")
    ] = None,
    beside_trial: Annotated[
        str | None, typer.Option(help="the trial of the other run; the same if not given")
    ] = None,
) -> None:
    """Write a run as one page that any browser shows: the level and the rules at each moment, and what held."""
    from gatillo.cli.run_pages import write_report

    write_report(file, trial, result, beside, beside_trial)


@app.command("export")
def export_(
    file: File,
    result: Annotated[
        Path, typer.Option("--output", "-o", help="a drawing (.svg) or a table of objects (.csv)")
    ],
    trial: TrialName = None,
    tick: Annotated[
        int | None, typer.Option(help="the drawing at the end of a tick, 0 for the start", min=0)
    ] = None,
) -> None:
    """Write a level's layout as a drawing in layers by kind, or its objects as a table."""
    from gatillo.cli.layouts import export_layout

    export_layout(file, result, trial, tick)


@app.command("import")
def import_(
    file: File,
    layout: Annotated[
        Path, typer.Argument(help="a drawing (.svg) or a table of objects (.csv)", metavar="LAYOUT")
    ],
    result: Annotated[
        Path | None,
        typer.Option("--output", "-o", help="where the level is written; the same file if not given"),
    ] = None,
    meaning: Annotated[
        list[str] | None,
        typer.Option(
            "--as", help="what the shapes of a layer become: LAYER=KIND, area, route, spot, ground, nothing"
        ),
    ] = None,
    table: Annotated[bool, typer.Option("--table", help="only print what the layers would become")] = False,
) -> None:
    """Take a layout into a level: what has the name of a thing that is there moves it, the rest is new.

    The exit code is 0 if all of it was understood, 1 if something was not, 2 if a file cannot be read or written.
    """
    from gatillo.cli.layouts import import_layout

    if not import_layout(file, layout, result, meaning or [], show=table):
        raise typer.Exit(1)


@app.command("print")
def print_(file: File) -> None:
    """Write the rules of a level as Markdown."""
    from gatillo.cli.levels import level_from
    from gatillo.files.rules_page import as_markdown

    write_text(as_markdown(level_from(file)))


@app.command()
def graph(
    file: File,
    name: Annotated[str, typer.Argument(help="the graph's name", metavar="NAME")],
    out: Annotated[Path, typer.Argument(help="the file to write: .graphml, .dot or .svg", metavar="OUT")],
) -> None:
    """Export a graph for other programs, or as a picture."""
    from gatillo.cli.levels import graph_from, level_from
    from gatillo.files.graph_pictures import write_graph

    try:
        write_graph(graph_from(level_from(file), name), out)
    except ValueError as error:
        give_up(str(error))
    except OSError as error:
        give_up(f"“{out}” could not be written: {error.strerror or error}")


@app.command()
def lint(
    files: Annotated[list[Path], typer.Argument(help="level files", metavar="FILE…")],
    order: Annotated[
        bool, typer.Option("--order", help="also run the trial and report rules whose order matters in it")
    ] = False,
    trial: TrialName = None,
    tries: Annotated[
        int, typer.Option(help="with --order: how many pairs to swap and run again", min=0)
    ] = 20,
    as_json: AsJson = False,
) -> None:
    """Report findings: errors and advice.

    Only errors make the exit code 1.
    """
    from gatillo.cli.levels import level_from
    from gatillo.inspect.findings import findings

    if order:
        from gatillo.cli.comparing import tell_order

        tell_order([(path, level_from(path)) for path in files], trial, tries, as_json)
        return
    found = [(path.name, finding) for path in files for finding in findings(level_from(path))]
    if as_json:
        lines = [
            {
                "file": name,
                "severity": f.severity,
                "grave": f.grave,
                "rule": f.rule,
                "part": f.part,
                "line": f.card or f.line + 1,
                "message": f.message,
                "repair": f.repair_label,
            }
            for name, f in found
        ]
        write_json(lines)
    else:
        for name, finding in found:
            out.print(f"{name}: {finding.severity}: {finding.sentence()}", markup=False)
        out.print("no findings" if not found else f"{len(found)} finding{'s' if len(found) > 1 else ''}")
    raise typer.Exit(1 if any(f.grave for _, f in found) else 0)


@app.command()
def read(
    file: File,
    lines: Annotated[list[str], typer.Argument(help="typed lines, each in quotes", metavar="LINE…")],
    part: Annotated[str, typer.Option("--part", help="read them as: when, if, do or else")] = "",
    as_json: AsJson = False,
) -> None:
    """Print what typed lines mean in a level, best reading first.

    Each reading has its sentence, the words that are not read, and the names that do not exist. The exit code is 1 if a line
    has no reading.
    """
    from gatillo.cli.line_readings import print_readings

    if not print_readings(file, lines, part, as_json):
        raise typer.Exit(1)


@app.command()
def sweep(
    file: File,
    settings: Annotated[
        list[str] | None,
        typer.Option(
            "--set",
            metavar="NAME=VALUES",
            help="a number and what to try: 20,40,80 or 3..9 step 2; several are crossed",
        ),
    ] = None,
    trial: TrialName = None,
    seeds: Annotated[int, typer.Option(help="how many seeds each is run with", min=1, max=1000)] = 1,
    watch: Annotated[list[str] | None, typer.Option("--watch", help="a formula to follow")] = None,
    to_csv: Annotated[
        Path | None, typer.Option("--csv", metavar="OUT", help="write a row for each run")
    ] = None,
    jobs: Jobs = 0,
    cluster: Cluster = "",
    names: Annotated[
        bool, typer.Option("--names", help="list the numbers that can be tried instead")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Run a trial with several values of numbers, on all cores.

    For example: gatillo sweep moths.gatillo --set "Moth chase.speed=20,40,80" --set "level.wanted=3..9 step 2" --seeds 5
    --watch "level.pods". The exit code is 1 if a value cannot be put in, and 130 after Ctrl+C.
    """
    from gatillo.cli.sweeping import print_sweep, print_targets
    from gatillo.cli.working import working

    if names:
        print_targets(file)
        return
    with working(jobs, cluster) as crew:
        whole = print_sweep(file, trial, settings or [], seeds, watch or [], to_csv, as_json, crew)
    if not whole:
        raise typer.Exit(1)


@app.command()
def explore(
    file: File,
    trial: TrialName = None,
    seconds: Annotated[float, typer.Option(help="how long to look", min=0)] = 30.0,
    seed: Annotated[
        int, typer.Option(help="the same seed tries the same scripts in the same order", min=0)
    ] = 0,
    keep: Annotated[
        Path | None,
        typer.Option("--keep", metavar="OUT", help="save the level here with what was found as a trial"),
    ] = None,
    jobs: Jobs = 0,
    cluster: Cluster = "",
    as_json: AsJson = False,
) -> None:
    """Look for input that breaks an expectation marked “any_input”, ends in a fault, or leaves the level stuck.

    Keys, pointer places and choices that the level listens to are tried at random. What breaks something is made small.
    The exit code is 1 if something was found, and 130 after Ctrl+C.
    """
    from gatillo.cli.exploring import explore_level
    from gatillo.cli.working import working

    with working(jobs, cluster) as crew:
        data, broken = explore_level(file, trial, seconds, seed, keep, None if as_json else out.made, crew)
    if as_json:
        write_json(data)
    raise typer.Exit(1 if broken else 0)


@app.command()
def why(
    file: File,
    rule: Annotated[str, typer.Option("--rule", help="which rule or graph")] = "",
    tick: Annotated[
        int | None, typer.Option("--tick", help="in which tick; its first firing if not given")
    ] = None,
    about: Annotated[str | None, typer.Option("--object", help="for which object, by name")] = None,
    value: Annotated[str, typer.Option("--value", help="explain the value of this formula instead")] = "",
    there: Annotated[str, typer.Option("--there", help="explain why this object is there, or is not")] = "",
    forward: Annotated[
        bool, typer.Option("--forward", help="what the firing caused, instead of why")
    ] = False,
    depth: Annotated[int, typer.Option(help="how many levels of reasons", min=0, max=50)] = 3,
    trial: TrialName = None,
    as_json: AsJson = False,
) -> None:
    """Explain why a rule fired, or why a value is what it is.

    Each reason has its own reasons below it. The exit code is 1 if the rule did not fire.
    """
    from gatillo.cli.reasons import tell_why

    tell_why(file, trial, rule, tick, about, value, there, forward, depth, as_json)


@app.command("why-not")
def why_not(
    file: File,
    rule: Annotated[str, typer.Option("--rule", help="which rule or graph")],
    tick: Annotated[
        int | None, typer.Option("--tick", help="in which tick; in the whole trial if not given")
    ] = None,
    about: Annotated[list[str] | None, typer.Option("--object", help="for which objects, by name")] = None,
    depth: Annotated[int, typer.Option(help="how many levels of reasons", min=0, max=50)] = 3,
    trial: TrialName = None,
    as_json: AsJson = False,
) -> None:
    """Explain why a rule did not fire, and how far it was off.

    The exit code is 1 if it did fire.
    """
    from gatillo.cli.reasons import tell_why_not

    tell_why_not(file, trial, rule, tick, about or [], depth, as_json)


@app.command()
def diff(
    before: Annotated[Path, typer.Argument(help="a level file", metavar="BEFORE")],
    after: Annotated[Path, typer.Argument(help="another", metavar="AFTER")],
    markdown: Annotated[bool, typer.Option("--markdown", help="write it as Markdown")] = False,
    as_json: AsJson = False,
) -> None:
    """Show what differs between two levels, in sentences.

    The exit code is 0 if nothing differs, 1 if something does, 2 if a file cannot be read.
    """
    from gatillo.cli.level_diff import print_difference

    if print_difference(before, after, as_json=as_json, as_markdown=markdown):
        raise typer.Exit(1)


@app.command()
def merge(
    base: Annotated[Path, typer.Argument(help="the version that both come from", metavar="BASE")],
    ours: Annotated[Path, typer.Argument(help="one version", metavar="OURS")],
    theirs: Annotated[Path, typer.Argument(help="the other", metavar="THEIRS")],
    result: Annotated[Path, typer.Option("--output", "-o", help="where the merged level is written")],
) -> None:
    """Merge two versions of a level that come from a common one.

    What both changed, each in its own way, stays as OURS and is marked with what THEIRS has; choose in the window (File, Settle the
    merge). The exit code is 0 if nothing is left to be settled, 1 if something is, 2 if a file cannot be read or written.
    """
    from gatillo.cli.level_diff import merge_files

    left = merge_files(base, ours, theirs, result)
    for line in left:
        out.print(line, markup=False)
    if left:
        raise typer.Exit(1)


@app.command("git-merge", hidden=True)
def git_merge(base: Path, ours: Path, theirs: Path, path: Annotated[str, typer.Argument()] = "") -> None:
    """Merge two versions of a level, called by git with its files; the result takes the place of ours."""
    from gatillo.cli.git import merge_versions

    if merge_versions(base, ours, theirs, path):
        raise typer.Exit(1)


@app.command("install-git")
def install_git(
    folder: Annotated[Path, typer.Argument(help="a folder of the repository", metavar="[FOLDER]")] = Path(
        "."
    ),
    remove: Annotated[bool, typer.Option("--remove", help="undo it")] = False,
) -> None:
    """Let git show what differs between levels in sentences and merge them by what they hold, in one repository."""
    from gatillo.cli.git import install

    for line in install(folder, remove=remove):
        out.print(line, markup=False)


@app.command("git-diff", hidden=True)
def git_diff(
    path: str,
    before: Path,
    before_hash: Annotated[str, typer.Argument()] = "",
    before_mode: Annotated[str, typer.Argument()] = "",
    after: Annotated[Path, typer.Argument()] = Path("/dev/null"),
    after_hash: Annotated[str, typer.Argument()] = "",
    after_mode: Annotated[str, typer.Argument()] = "",
    renamed_to: Annotated[str, typer.Argument()] = "",
    renamed_how: Annotated[str, typer.Argument()] = "",
) -> None:
    """Print what differs between two versions of a level, called by git with its seven words, or nine for a rename."""
    from gatillo.cli.git import show_difference

    show_difference(path, before, after, renamed_to)


@app.command()
def compare(
    file: File,
    other: Annotated[
        Path | None,
        typer.Argument(
            help="another level, or a trace written by run --trace (.jsonl); the same level if not given",
            metavar="[OTHER]",
        ),
    ] = None,
    trial: TrialName = None,
    other_trial: Annotated[
        str | None, typer.Option(help="the trial of the other side; the same if not given")
    ] = None,
    variant: Annotated[str | None, typer.Option(help="the variant of the level for the first side")] = None,
    other_variant: Annotated[str | None, typer.Option(help="the variant for the other side")] = None,
    other_rate: Annotated[
        int | None, typer.Option(help="the tick rate of the other side", min=10, max=240)
    ] = None,
    other_seed: Annotated[int | None, typer.Option(help="the seed of the other side", min=0)] = None,
    depth: Annotated[int, typer.Option(help="how many levels of reasons", min=0, max=50)] = 2,
    as_json: AsJson = False,
) -> None:
    """Compare two runs: their firings and the first value that differs.

    The causes of that value are given for both runs. The exit code is 1 if the runs differ.
    """
    from gatillo.cli.comparing import Side, tell_comparison

    tell_comparison(
        Side(file, trial, variant, None, None),
        Side(other or file, other_trial or trial, other_variant, other_rate, other_seed),
        depth,
        as_json,
    )


@app.command()
def serve(
    file: Annotated[
        Path | None, typer.Argument(help="a level file; the other side can hand one over", metavar="[FILE]")
    ] = None,
    socket: Annotated[Path | None, typer.Option(help="serve at a socket file")] = None,
    port: Annotated[
        int | None, typer.Option(help="serve at a port of this machine, 0 for any", min=0, max=65535)
    ] = None,
) -> None:
    """Let another program drive a run, by JSON-RPC 2.0 over standard input and output or a local socket (docs/protocol.md)."""
    from gatillo.cli.serving import serve_runs

    serve_runs(file, socket=socket, port=port)


@app.command()
def debug(
    file: Annotated[
        Path | None, typer.Argument(help="a level file; the editor can name one", metavar="[FILE]")
    ] = None,
) -> None:
    """Let an editor step through a run, by the Debug Adapter Protocol over standard input and output (docs/debugging.md)."""
    from gatillo.cli.serving import debug

    debug(file)


@app.command()
def conformance(
    folder: Annotated[Path, typer.Argument(help="where the levels and traces are written", metavar="DIR")],
) -> None:
    """Write small levels with the exact traces of their runs, for those who write a runtime of their own (docs/conformance.md)."""
    from gatillo.conformance.levels import write_levels

    try:
        many = write_levels(folder)
    except OSError as error:
        give_up(f"“{error.filename or folder}” cannot be written: {error.strerror or error}")
    for group, levels in many.items():
        out.print(f"{group}: {levels} levels", markup=False)


@app.command()
def schema(
    protocol: Annotated[
        bool, typer.Option("--protocol", help="of the messages of gatillo serve instead")
    ] = False,
) -> None:
    """Write the JSON Schema of the level file."""
    from gatillo.files.schema import level_schema
    from gatillo.serving.messages import schema as message_schema

    write_json(message_schema() if protocol else level_schema())


@app.command()
def catalogue() -> None:
    """Write the reference page of the catalogue as Markdown."""
    from gatillo.files.catalogue_page import catalogue_page

    write_text(catalogue_page())


@app.command()
def shot(
    file: File,
    picture: Annotated[Path, typer.Argument(help="the PNG to write", metavar="OUT.png")],
    view: Annotated[str, typer.Option(help="desk, desk-dark or desk-zoomed")] = "desk",
) -> None:
    """Save a picture of the window with a level, without showing it."""
    from gatillo.cli.levels import level_from
    from gatillo.cli.window import shoot

    level_from(file)
    try:
        shoot(file, view, picture)
    except ValueError as error:
        give_up(str(error))
    except OSError as error:
        give_up(f"“{picture}” cannot be written: {error.strerror or error}")


def main() -> None:
    """Run a command, or open the file that the first word names. A full or closed output is reported in a sentence."""
    make_ready()
    try:
        try:
            _run(sys.argv[1:])
        finally:
            sys.stdout.flush()
    except OSError as error:
        cannot_write(error)


def _run(words: list[str]) -> None:
    if words[:1] == ["--version"]:
        from gatillo.kernels import SENTENCE

        out.print(f"gatillo {__version__}, {SENTENCE}")
        return
    names = {c.name or getattr(c.callback, "__name__", "") for c in app.registered_commands}
    if not words or (words[0] not in names and words[0] not in ("--help", "-h")):
        if words and words[0].startswith("-"):
            err.print(f"there is no option {words[0]}; try gatillo --help", markup=False)
            sys.exit(2)
        if words and not Path(words[0]).suffix and "/" not in words[0] and not os.path.exists(words[0]):
            from gatillo.level.naming import did_you_mean

            guess = did_you_mean(words[0], names - {"open"})
            err.print(
                f"there is no command and no file “{words[0]}”{guess}; try gatillo --help", markup=False
            )
            sys.exit(2)
        words = ["open", *words]
    app(words)


if __name__ == "__main__":
    main()
