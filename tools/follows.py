"""Write what the studies say after each line and card, for the list under an empty line; with --check say whether that is current."""

from __future__ import annotations

import json
import sys
from importlib.resources import files
from pathlib import Path

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.language.likely import counted, pairs_of

TABLE = Path(str(files("gatillo.language"))) / "follows.json"


def main() -> int:
    levels = [read_level(study_path(name)) for name in study_names()]
    text = json.dumps(counted(pair for level in levels for pair in pairs_of(level)), indent=1) + "\n"
    if "--check" in sys.argv:
        current = TABLE.exists() and TABLE.read_text() == text
        if not current:
            print(f"{TABLE.name} is stale: run make schema")
        return 0 if current else 1
    TABLE.write_text(text)
    return 0


if __name__ == "__main__":
    sys.exit(main())
