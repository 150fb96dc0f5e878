"""A real git shows what differs between levels in sentences and merges them, after `gatillo install-git`."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest
from msgspec.structs import replace
from typer.testing import CliRunner

from gatillo.cli.main import app
from gatillo.examples import study_path
from gatillo.files.level_file import read_level, write_level
from gatillo.inspect.merging.settling import choose, settle
from gatillo.language.renaming import rename


@pytest.fixture
def repository(tmp_path, monkeypatch):
    # the program that is tested, by its name, and a git that knows nobody's settings
    tools = tmp_path / "bin"
    tools.mkdir()
    (tools / "gatillo").write_text(f'#!/bin/sh\nexec "{sys.executable}" -m gatillo.cli.main "$@"\n')
    (tools / "gatillo").chmod(0o755)
    monkeypatch.setenv("PATH", f"{tools}{os.pathsep}{os.environ['PATH']}")
    monkeypatch.setenv("GIT_CONFIG_GLOBAL", os.devnull)
    monkeypatch.setenv("GIT_CONFIG_NOSYSTEM", "1")
    folder = tmp_path / "levels"
    folder.mkdir()

    def git(*words):
        who = ("-c", "user.name=Ann", "-c", "user.email=ann@example.org")
        done = subprocess.run(["git", *who, *words], cwd=folder, capture_output=True, text=True, check=True)
        return done.stdout

    git("init", "-q")
    write_level(folder / "pods.gatillo", read_level(study_path("01-seed-pods.gatillo")))
    git("add", "-A")
    git("commit", "-qm", "first")
    return folder, git


def install(*words):
    done = CliRunner().invoke(app, ["install-git", *map(str, words)])
    assert done.exit_code == 0, done.output
    return done.output


def test_git_diff_and_git_show_tell_it_in_sentences(repository):
    folder, git = repository
    told = install(folder)
    assert "in sentences" in told
    assert (folder / ".gitattributes").read_text() == "*.gatillo diff=gatillo merge=gatillo\n"
    lv = read_level(folder / "pods.gatillo")
    write_level(folder / "pods.gatillo", replace(lv, note="Another night."))
    assert git("diff").startswith("pods.gatillo:\n  the level: its note: ")
    git("add", "-A")
    git("commit", "-qm", "second")
    assert "its note: " in git("show", "--ext-diff")
    (folder / "pods.gatillo").rename(folder / "seeds.gatillo")
    git("add", "-A")
    assert git("diff", "--cached") == "pods.gatillo: renamed to seeds.gatillo\n"
    (folder / "seeds.gatillo").unlink()
    assert "removed" in git("diff")


def test_it_is_set_up_once_and_taken_away(repository):
    folder, git = repository
    # what an earlier version wrote gives way
    (folder / ".gitattributes").write_text("*.png binary\n*.gatillo diff=gatillo\n")
    install(folder)
    install(folder)
    assert (folder / ".gitattributes").read_text() == "*.png binary\n*.gatillo diff=gatillo merge=gatillo\n"
    install(folder, "--remove")
    assert (folder / ".gitattributes").read_text() == "*.png binary\n"
    lv = read_level(folder / "pods.gatillo")
    write_level(folder / "pods.gatillo", replace(lv, note="Another night."))
    assert "+++ b/pods.gatillo" in git("diff")


def test_outside_of_a_repository_it_says_so(tmp_path):
    done = CliRunner().invoke(
        app, ["install-git", str(tmp_path)], env={"GIT_CEILING_DIRECTORIES": str(tmp_path.parent)}
    )
    assert done.exit_code == 2
    assert "is in no git repository" in done.output


# merging


def change(folder, how):
    """Change the level in a folder and return what is in the file then."""
    file = folder / "pods.gatillo"
    write_level(file, how(read_level(file)))
    (folder / "pods.gatillo~").unlink(missing_ok=True)
    return file.read_bytes()


def on_branch(git, folder, branch, how, start=""):
    git("switch", "-q", "-c", branch, *([start] if start else []))
    change(folder, how)
    git("commit", "-qam", branch)


def faster(lv):
    return replace(lv, variables=tuple(replace(v, value=7.0) for v in lv.variables))


def noted(lv):
    return replace(lv, note="Another night.")


def renamed(lv):
    return rename(lv, "object", lv.objects[0].name, "First of all")


@pytest.fixture
def branches(repository):
    """Return a repository with the drivers set up, its git, and the bytes of what two merged edits are in one level."""
    folder, git = repository
    install(folder)
    git("add", "-A")
    git("commit", "-qm", "drivers")
    git("branch", "-m", "main")
    return folder, git


def test_two_branches_merge_without_a_word_to_the_same_bytes_in_either_order(branches):
    folder, git = branches
    on_branch(git, folder, "one", renamed, "main")
    on_branch(git, folder, "two", noted, "main")
    before = git("rev-parse", "two").strip()
    git("merge", "-q", "-m", "both", "one")
    first = (folder / "pods.gatillo").read_bytes()
    git("switch", "-q", "one")
    git("merge", "-q", "-m", "both", before)
    assert git("rev-parse", "one") != git("rev-parse", "two")
    assert (folder / "pods.gatillo").read_bytes() == first
    lv = read_level(folder / "pods.gatillo")
    assert (lv.note, lv.objects[0].name) == ("Another night.", "First of all")


def test_a_conflict_is_told_and_both_are_in_the_file(branches):
    folder, git = branches
    on_branch(git, folder, "one", noted, "main")
    on_branch(git, folder, "two", lambda lv: replace(lv, note="A third night."), "main")
    with pytest.raises(subprocess.CalledProcessError) as failed:
        git("merge", "-m", "both", "one")
    assert "the level: note: ours is “A third night.”; theirs is “Another night.”" in failed.value.stdout
    lv = read_level(folder / "pods.gatillo")
    assert lv.note == "A third night."
    assert (lv.unsettled[0].ours, lv.unsettled[0].theirs) == ("A third night.", "Another night.")
    # settled, it can be committed
    change(folder, lambda lv: settle(choose(lv, 0, "theirs"), 0))
    git("commit", "-qam", "both")
    assert read_level(folder / "pods.gatillo").note == "Another night."


def test_a_history_that_crosses_merges(branches):
    folder, git = branches
    on_branch(git, folder, "one", faster, "main")
    on_branch(git, folder, "two", noted, "main")
    ends = {branch: git("rev-parse", branch).strip() for branch in ("one", "two")}
    # each takes over what the other had, so that the two have two common versions
    for branch, other in (("one", "two"), ("two", "one")):
        git("switch", "-q", branch)
        git("merge", "-q", "-m", "across", ends[other])
    git("switch", "-q", "one")
    change(folder, renamed)
    git("commit", "-qam", "more")
    git("switch", "-q", "two")
    change(folder, lambda lv: replace(lv, name="Seeds"))
    git("commit", "-qam", "more")
    assert len(git("merge-base", "--all", "one", "two").split()) == 2
    git("merge", "-q", "-m", "again", "one")
    lv = read_level(folder / "pods.gatillo")
    assert (lv.name, lv.note, lv.objects[0].name) == ("Seeds", "Another night.", "First of all")
    assert all(v.value == 7.0 for v in lv.variables)
    assert lv.unsettled == ()


def test_a_file_that_is_no_level_is_not_merged(branches):
    folder, git = branches
    on_branch(git, folder, "one", noted, "main")
    git("switch", "-q", "-c", "two", "main")
    (folder / "pods.gatillo").write_text("{}")
    git("commit", "-qam", "broken")
    with pytest.raises(subprocess.CalledProcessError):
        git("merge", "-m", "both", "one")
    assert (folder / "pods.gatillo").read_text() == "{}"
    assert "both modified" in git("status")


def test_gatillo_merge_writes_the_result_and_says_what_is_left(tmp_path):
    lv = read_level(study_path("01-seed-pods.gatillo"))
    for name, version in {
        "base": lv,
        "ours": noted(lv),
        "theirs": renamed(lv),
        "other": replace(lv, note="x"),
    }.items():
        write_level(tmp_path / f"{name}.gatillo", version)

    def merge(*names):
        files = [str(tmp_path / f"{name}.gatillo") for name in names]
        return CliRunner().invoke(app, ["merge", *files[:3], "-o", files[3]])

    assert merge("base", "ours", "theirs", "out").exit_code == 0
    assert read_level(tmp_path / "out.gatillo") == renamed(noted(lv))
    done = merge("base", "ours", "other", "out")
    assert done.exit_code == 1
    assert "ours is “Another night.”; theirs is “x”" in " ".join(done.output.split())
    assert merge("base", "ours", "nowhere", "out").exit_code == 2
