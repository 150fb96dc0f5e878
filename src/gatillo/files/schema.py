"""The JSON Schema of the level file, its clauses drawn from the catalogue."""

from __future__ import annotations

from typing import Any

import msgspec

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import CARDS
from gatillo.level.model import Level


def level_schema() -> dict[str, Any]:
    """Return the schema as JSON-ready data (JSON Schema 2020-12)."""
    schema: dict[str, Any] = msgspec.json.schema(Level)
    clause = schema["$defs"]["Clause"]
    clause["properties"]["use"]["enum"] = sorted(CATALOGUE)
    clause["allOf"] = [
        {
            "if": {"properties": {"use": {"const": name}}},
            "then": {
                "description": f"{entry.group}: {entry.sentence} — {entry.help}",
                "properties": {
                    "with": {
                        "additionalProperties": False,
                        "properties": {
                            slot: {
                                "type": "string",
                                "description": declared.hint,
                                **({"enum": list(declared.options)} if declared.options else {}),
                            }
                            for slot, declared in entry.slots.items()
                        },
                    }
                },
            },
        }
        for name, entry in sorted(CATALOGUE.items())
    ]
    schema["$defs"]["Node"]["properties"]["use"]["enum"] = sorted([*CATALOGUE, *CARDS])
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Gatillo level", **schema}
