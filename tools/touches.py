"""Write what every catalogue entry touches, for installations without sources; with --check say whether that is current."""

from __future__ import annotations

import sys

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.declare.derived import TABLE, sources_digest, table_of


def main() -> int:
    current = TABLE.exists() and f'"sources": "{sources_digest()}"' in TABLE.read_text()
    if "--check" in sys.argv:
        if not current:
            print(f"{TABLE.name} is stale: run make schema")
        return 0 if current else 1
    TABLE.unlink(missing_ok=True)
    TABLE.write_text(table_of({name: entry.touches() for name, entry in CATALOGUE.items()}))
    return 0


if __name__ == "__main__":
    sys.exit(main())
