"""A real git tells what differs between levels in sentences, after `gatillo install-git`."""

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
    assert (folder / ".gitattributes").read_text() == "*.gatillo diff=gatillo\n"
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
    (folder / ".gitattributes").write_text("*.png binary\n")
    install(folder)
    install(folder)
    assert (folder / ".gitattributes").read_text() == "*.png binary\n*.gatillo diff=gatillo\n"
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
