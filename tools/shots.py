"""Makes the pictures in docs/screenshots/, docs/behaviours/ and the gallery from the demo data; with --check says which are stale.

A picture is stale when the code or the level it shows changed since it was made. Pixels are no
measure: fonts differ from machine to machine.
"""

from __future__ import annotations

import hashlib
import json
import sys
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
    for name, scene in SCENES.items():
        save_scene(scene, BEHAVIOURS / f"{name}.png")
        print(f"docs/behaviours/{name}.png")
    MADE.write_text(json.dumps({"fingerprint": fingerprint()}) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
