"""The documents say what is so."""

from __future__ import annotations

import json
import re
from pathlib import Path

from gatillo.catalogue import CATALOGUE
from gatillo.files.level_file import decode_level
from gatillo.inspect.expectations import judge
from gatillo.level.naming import spoken
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial

ROOT = Path(__file__).resolve().parents[2]


def test_the_level_in_the_format_document_loads_runs_and_holds():
    text = (ROOT / "docs" / "format.md").read_text()
    raw = re.search(r"```json\n(.*?)```", text, re.DOTALL).group(1)
    level = decode_level(raw.encode())
    run = run_trial(Program(level))
    assert [v.outcome for v in judge(run)] == ["held"]


def test_every_entry_of_the_schema_is_in_the_format_document():
    schema = json.loads((ROOT / "docs" / "level.schema.json").read_text())
    text = (ROOT / "docs" / "format.md").read_text()
    for name in ("Level", "Kind", "Object", "Rule", "Trial", "Settings"):
        for entry in schema["$defs"][name]["properties"]:
            if entry != "is":
                assert f"`{entry}`" in text or f'"{entry}"' in text, (name, entry)


def test_pictures_exist_and_are_all_shown_in_the_readme_or_a_page_about_behaviours():
    pages = [ROOT / "README.md", *(ROOT / "docs" / "behaviours").glob("*.md")]
    linked = {name for p in pages for name in re.findall(r"screenshots/([\w-]+\.png)", p.read_text())}
    assert linked == {p.name for p in (ROOT / "docs" / "screenshots").glob("*.png")}


def test_every_behaviour_has_its_place_in_a_page_and_every_link_there_leads_somewhere():
    folder = ROOT / "docs" / "behaviours"
    index = (folder / "README.md").read_text()
    for name, entry in CATALOGUE.items():
        if entry.group == "behaviour":
            assert spoken(name) in index, name
    for page in folder.glob("*.md"):
        for link in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            assert (folder / link).exists(), (page.name, link)
