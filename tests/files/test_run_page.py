"""A run as one page: shown by a real browser, it has the trace's firings, and texts of a level stay texts."""

from __future__ import annotations

import json
import re
import shutil
from pathlib import Path

import pytest
from msgspec.structs import replace
from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from typer.testing import CliRunner

from building import START, add, c, kind, level, rule, send, things
from gatillo.cli.main import app
from gatillo.examples import study_path
from gatillo.files.level_file import read_level, write_level
from gatillo.files.run_page.run_page import run_page
from gatillo.level.expectations import FiresTimes, HoldsAt
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial

CHROMIUM, DRIVER = shutil.which("chromium"), shutil.which("chromedriver")
needs_browser = pytest.mark.skipif(not (CHROMIUM and DRIVER), reason="there is no Chromium on this machine")
HOSTILE = (
    '</script><script>document.title="taken"</script><img src=x onerror="document.title=1"> & \u2028 “q”'
)
NIGHT_SHIFT = Path(study_path("night-shift.gatillo"))


@pytest.fixture(scope="module")
def browser(tmp_path_factory):
    options = webdriver.ChromeOptions()
    options.binary_location = CHROMIUM
    profile = tmp_path_factory.mktemp("profile")
    for word in (
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--window-size=1280,800",
        f"--user-data-dir={profile}",
    ):
        options.add_argument(word)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=webdriver.ChromeService(executable_path=DRIVER))
    yield driver
    driver.quit()


def shown(browser, page: str, path: Path) -> None:
    path.write_text(page, encoding="utf-8")
    browser.get(path.as_uri())


def complaints(browser) -> list[str]:
    return [one["message"] for one in browser.get_log("browser") if one["level"] == "SEVERE"]


def yard(amount="1"):
    built = level(
        rule("Begin", when=START, do=send("boom"), id=1),
        rule(
            "Count",
            when=c("every_tick"),
            if_=c("formula_holds", formula="level.n < 3"),
            do=add("level.n", amount),
            id=2,
        ),
        rule("Walk", when=c("each_in_every_tick", who="Pod"), do=c("move_by", who="Pod", dx="2"), id=3),
        kinds=(kind("Pod"),),
        objects=things("Pod", (10, 20), (30, 40)),
        has={"n": 0.0},
        seconds=0.5,
    )
    expectations = (FiresTimes(rule="Begin"), HoldsAt(formula="level.n = 9", time=0.2))
    return replace(built, trials=(replace(built.trials[0], expectations=expectations),))


def run_of(lv) -> Run:
    return run_trial(Program(lv))


@needs_browser
def test_the_page_shows_the_firings_of_the_trace_tick_by_tick_and_firing_by_firing(browser, tmp_path):
    lv = yard()
    run = run_of(lv)
    shown(browser, run_page(lv, run), tmp_path / "page.html")
    body = browser.find_element(By.TAG_NAME, "body")
    wanted = {
        tick: [run.program.rules[f.rule_index].source.name for f in run.trace.firings_at(tick)]
        for tick in range(31)
    }

    def fired():
        found = [one.text for one in browser.find_elements(By.CSS_SELECTOR, "#fired li")]
        return [re.match("“(.*?)” fired", one).group(1) for one in found]

    assert fired() == []
    for tick in range(1, 6):
        body.send_keys(Keys.ARROW_RIGHT)
        assert f"tick {tick}" in browser.find_element(By.ID, "clock").text
        assert fired() == wanted[tick]
    body.send_keys(Keys.END)
    assert "tick 30" in browser.find_element(By.ID, "clock").text
    assert fired() == wanted[30]
    body.send_keys(Keys.HOME)
    seen = []
    for firing in run.trace.firings()[:6]:
        body.send_keys(Keys.ARROW_DOWN)
        here = browser.find_element(By.CSS_SELECTOR, "#fired li.here").text
        seen.append((re.match("“(.*?)” fired", here).group(1), here))
        assert f"tick {firing.tick}" in browser.find_element(By.ID, "clock").text
    assert [name for name, _ in seen] == [
        run.program.rules[f.rule_index].source.name for f in run.trace.firings()[:6]
    ]
    assert any("for 2 matches (Pod: Pod 1, Pod 2)" in words for _, words in seen)
    # objects are where they are in the run
    body.send_keys(Keys.END)
    places = [
        one.get_attribute("transform") for one in browser.find_elements(By.CSS_SELECTOR, "#things g.thing")
    ]
    world = run.world
    assert places == [
        f"translate({x:g} {lv.settings.height - y:g}) rotate(0) scale(1)"
        for x, y in zip(world.x.tolist(), world.y.tolist(), strict=True)
    ]
    assert complaints(browser) == []


@needs_browser
def test_a_failed_expectation_leads_to_its_tick_and_says_why(browser, tmp_path):
    lv = yard()
    shown(browser, run_page(lv, run_of(lv)), tmp_path / "page.html")
    assert browser.find_element(By.ID, "count").text == "1 of 2 expectations hold"
    browser.find_element(By.CSS_SELECTOR, "#verdicts .failed").click()
    assert "tick 12" in browser.find_element(By.ID, "clock").text
    why = browser.find_element(By.CSS_SELECTOR, "#verdicts pre").text
    assert "level.n was 3" in why and "by “Count”" in why


@needs_browser
def test_hostile_texts_stay_texts(browser, tmp_path):
    lv = yard()
    first = replace(lv.order[0], name=HOSTILE[:60], note=HOSTILE)
    lv = replace(
        lv,
        name=HOSTILE,
        order=(first, *lv.order[1:]),
        trials=(replace(lv.trials[0], name=HOSTILE[:90], expectations=()),),
    )
    page = run_page(lv, run_of(lv))
    shown(browser, page, tmp_path / "page.html")
    assert browser.title.startswith("</script><script>")
    assert browser.find_element(By.TAG_NAME, "h1").text.startswith("</script><script>document.title")
    assert len(browser.find_elements(By.TAG_NAME, "img")) == 0
    assert len(browser.find_elements(By.TAG_NAME, "script")) == 2
    assert complaints(browser) == []


@needs_browser
def test_the_policy_forbids_what_is_not_the_page_s_own(browser, tmp_path):
    lv = yard()
    page = run_page(lv, run_of(lv))
    bad = page.replace(
        "</body>", '<script>document.title="taken"</script><img src="https://example.org/x.png"></body>'
    )
    shown(browser, bad, tmp_path / "page.html")
    assert browser.title != "taken"
    assert any("Content Security Policy" in one for one in complaints(browser))


@needs_browser
def test_another_run_is_shown_beside_it(browser, tmp_path):
    lv, other = yard(), yard("2")
    shown(browser, run_page(lv, run_of(lv), run_of(other), "“other”"), tmp_path / "page.html")
    assert "Compared with “other”: 1 firing new." in browser.find_element(By.TAG_NAME, "header").text
    assert len(browser.find_elements(By.CSS_SELECTOR, "#ghosts g.ghost")) == 2


def test_nothing_is_loaded_from_elsewhere_and_the_demo_is_small(tmp_path):
    out = tmp_path / "page.html"
    lv = read_level(NIGHT_SHIFT)
    short = replace(lv, trials=(replace(lv.trials[0], length=12.0),))
    write_level(tmp_path / "short.gatillo", short)
    done = CliRunner().invoke(app, ["report", str(tmp_path / "short.gatillo"), "-o", str(out)])
    assert done.exit_code == 0, done.output
    page = out.read_text()
    assert re.findall(r"(?:src|href)=\"?https?:", page) == []
    assert out.stat().st_size < 5e6
    data = json.loads(re.search(r'id="data">(.*?)</script>', page, re.DOTALL).group(1))
    run = run_of(short)
    assert [one[:4] for one in data["runs"][0]["firings"]] == [
        [f.tick, f.position, f.rule_index, f.matches] for f in run.trace.firings()
    ]
    assert len(data["runs"][0]["scenery"]) == 19


def test_a_long_run_of_many_keeps_within_bounds(monkeypatch):
    monkeypatch.setattr("gatillo.files.run_page.run_data.MOST_NUMBERS", 200)
    lv = yard()
    data = json.loads(re.search(r'id="data">(.*?)</script>', run_page(lv, run_of(lv)), re.DOTALL).group(1))[
        "runs"
    ][0]
    assert data["every"] == 2
    assert len(data["moves"]) == 16
    # where it ends is shown, whatever is left out on the way
    assert data["moves"][-1][1:3] == [70, 20]


def test_a_page_that_cannot_be_written_is_said(tmp_path):
    done = CliRunner().invoke(
        app, ["report", str(study_path("01-seed-pods.gatillo")), "-o", str(tmp_path / "no" / "page.html")]
    )
    assert done.exit_code == 2
    assert "cannot be written" in done.output
