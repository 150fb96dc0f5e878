"""Makes the pictures in docs/screenshots/, docs/behaviours/ and the gallery from the demo data; with --check says which are stale.

A picture is stale when the code or the level it shows changed since it was made. Pixels are no
measure: fonts differ from machine to machine.
"""

from __future__ import annotations

import base64
import hashlib
import json
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FOLDER = ROOT / "docs" / "screenshots"
BEHAVIOURS = ROOT / "docs" / "behaviours"
MADE = FOLDER / "made-from.json"
EXAMPLES = ROOT / "src" / "gatillo" / "examples"
LEVEL = EXAMPLES / "01-seed-pods.gatillo"
WHOLE = EXAMPLES / "night-shift.gatillo"
ON_THE_WHOLE = (
    "desk",
    "desk-dark",
    "desk-zoomed",
    "trials",
    "graph",
    "own-node",
    "playing",
    "settle",
    "layout",
)
"""Views that are shown on the whole level; the others on the first study."""
ELSEWHERE = {"own-behaviour": EXAMPLES / "26-flutters.gatillo"}
"""Views of a level of their own."""


def fingerprint() -> str:
    """A digest of everything the pictures are made from."""
    digest = hashlib.blake2b(digest_size=12)
    studies: list[Path] = []
    studies += EXAMPLES.glob("*.gatillo")
    for path in sorted({*(ROOT / "src" / "gatillo" / "desk").rglob("*.py"), *studies}):
        digest.update(path.relative_to(ROOT).as_posix().encode() + b"\0" + path.read_bytes())
    return digest.hexdigest()


def report_picture() -> None:
    """The page of a run, in a browser; the picture stays as it is where there is none."""
    browser = shutil.which("chromium")
    if browser is None:
        print("docs/screenshots/report.png is left as it is: there is no Chromium")
        return
    with tempfile.TemporaryDirectory() as folder:
        page = Path(folder) / "report.html"
        subprocess.run(
            [sys.executable, "-m", "gatillo.cli.main", "report", str(WHOLE), "-o", str(page)], check=True
        )
        # the cursor is put at a moment in the middle, as a reader would
        text = page.read_text(encoding="utf-8").replace("go(0, null);\n})();", "go(1720, null);\n})();")
        script = re.search(r"<script>(.*?)</script>", text, re.DOTALL)
        assert script is not None
        digest = base64.b64encode(hashlib.sha256(script[1].encode()).digest()).decode()
        text = re.sub(r"script-src '[^']*'", f"script-src 'sha256-{digest}'", text)
        page.write_text(text, encoding="utf-8")
        options = [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--no-first-run",
            "--disable-background-networking",
        ]
        words = [browser, *options, "--window-size=1280,800", f"--user-data-dir={folder}/profile"]
        picture = FOLDER / "report.png"
        subprocess.run(
            [*words, "--virtual-time-budget=3000", f"--screenshot={picture}", page.as_uri()],
            check=True,
            stderr=subprocess.DEVNULL,
        )
    print("docs/screenshots/report.png")


def main() -> int:
    from gatillo.desk.shots import SCENES, VIEWS, save_gallery, save_scene, save_shot

    if "--check" in sys.argv:
        made = json.loads(MADE.read_text())["fingerprint"] if MADE.exists() else ""
        pictures = [
            *(FOLDER / f"{view}.png" for view in VIEWS),
            *(BEHAVIOURS / f"{name}.png" for name in SCENES),
        ]
        if made != fingerprint() or not all(picture.exists() for picture in pictures):
            print("docs/screenshots is stale: run make shots and look at the pictures")
            return 1
        return 0
    FOLDER.mkdir(parents=True, exist_ok=True)
    for look in ("light", "dark"):
        print(f"{len(save_gallery(look))} pictures of the gallery, {look}")
    for view in VIEWS:
        level = ELSEWHERE.get(view, WHOLE if view in ON_THE_WHOLE else LEVEL)
        save_shot(level, view, FOLDER / f"{view}.png")
        print(f"docs/screenshots/{view}.png")
    report_picture()
    for name, scene in SCENES.items():
        save_scene(scene, BEHAVIOURS / f"{name}.png")
        print(f"docs/behaviours/{name}.png")
    MADE.write_text(json.dumps({"fingerprint": fingerprint()}) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
