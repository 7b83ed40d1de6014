"""The JSON Schemas of what Plinth reads and writes; ``src/plinth/schemas/`` holds them as files."""

import json
from collections.abc import Callable

from plinth.archive.documents import ArchivedBuild, ArchivedPart, ArchiveHead
from plinth.builds.files import build_schema
from plinth.builds.situation import Situation
from plinth.instruments.command_map import CommandMap

# By name: what it is of.
SCHEMAS: dict[str, Callable[[], dict[str, object]]] = {
    "build": build_schema,
    "situation": Situation.model_json_schema,
    "archive": ArchiveHead.model_json_schema,
    "archived-build": ArchivedBuild.model_json_schema,
    "archived-part": ArchivedPart.model_json_schema,
    "command-map": CommandMap.model_json_schema,
}


def schema_text(name: str) -> str:
    """One of them, as its file has it."""
    return json.dumps(SCHEMAS[name](), indent=2, ensure_ascii=False) + "\n"
