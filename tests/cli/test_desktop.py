"""Gatillo in the desktop's menu: put there, valid, and taken away again without a trace."""

from __future__ import annotations

import configparser
import shlex
import shutil
import subprocess
from pathlib import Path

import pytest
from defusedxml import ElementTree
from PySide6.QtGui import QImage
from typer.testing import CliRunner

from gatillo import desktop
from gatillo.cli.main import app


@pytest.fixture
def home(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    return tmp_path / "data"


def call(*words):
    return CliRunner().invoke(app, ["install-desktop", *words])


def ours(home: Path) -> set[str]:
    return {p.relative_to(home).as_posix() for p in home.rglob(f"{desktop.ID}*")}


def test_all_files_are_put_where_xdg_says_and_taken_away_again(home):
    assert call().exit_code == 0
    wanted = {(folder / name).as_posix() for name, folder in desktop.PLACES.items()}
    assert ours(home) == wanted
    result = call("--remove")
    assert result.exit_code == 0 and result.output.count("removed:") == 4 and not ours(home)
    assert "nothing to remove" in call("--remove").output


def test_the_entry_starts_this_program_with_the_file(home):
    call()
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(home / "applications" / f"{desktop.ID}.desktop")
    main = entry["Desktop Entry"]
    program, *rest = shlex.split(main["Exec"])
    assert rest == ["%f"] and Path(program).name == "gatillo" and Path(program).exists()
    assert main["MimeType"] == f"{desktop.MIME};" and main["Icon"] == desktop.ID


@pytest.mark.parametrize(
    ("path", "written"),
    [
        ("/opt/gatillo", "/opt/gatillo"),
        ("/my games/gatillo", '"/my games/gatillo"'),
        ("/100%/gatillo", "/100%%/gatillo"),
        ('/a"b/$c', '"/a\\\\"b/\\\\$c"'),
    ],
)
def test_a_path_is_quoted_as_the_desktop_entry_specification_has_it(path, written):
    assert desktop.quoted(path) == written


def test_the_file_type_is_known_by_its_ending(home):
    call()
    info = ElementTree.parse(home / "mime" / "packages" / f"{desktop.ID}.xml").getroot()
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    (kind,) = info.findall(f"{space}mime-type")
    assert kind.get("type") == desktop.MIME and kind.find(f"{space}glob").get("pattern") == "*.gatillo"


def test_a_data_directory_that_is_not_absolute_is_not_used(monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", "somewhere")
    assert desktop.data_home() == Path.home() / ".local" / "share"


def test_what_cannot_be_written_is_said_in_a_sentence(home):
    home.parent.mkdir(exist_ok=True)
    home.write_text("a file, where a folder is needed")
    result = call()
    assert result.exit_code == 2 and "cannot be written" in result.output


def test_the_icon_is_drawn(qapp):
    image = QImage(str(desktop.icon()))
    assert not image.isNull() and len({image.pixel(x, 64) for x in range(8, 120)}) > 3


@pytest.mark.parametrize(
    ("checker", "name"),
    [
        (("desktop-file-validate",), f"{desktop.ID}.desktop"),
        (("appstreamcli", "validate", "--no-net"), f"{desktop.ID}.metainfo.xml"),
    ],
)
def test_the_freedesktop_checkers_find_nothing_wrong(home, checker, name):
    if shutil.which(checker[0]) is None:
        pytest.skip(f"there is no {checker[0]} here")
    call()
    result = subprocess.run(
        [*checker, str(home / desktop.PLACES[name] / name)], capture_output=True, text=True, timeout=60
    )
    assert result.returncode == 0, result.stdout + result.stderr
