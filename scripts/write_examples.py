"""Write the demo builds to examples/, where `plinth solve` and readers find them, and the schemas of all files."""

import pathlib

from plinth.cli.schemas import SCHEMAS, schema_text
from plinth.demo.builds import BUILDS

ROOT = pathlib.Path(__file__).parent.parent

for build in BUILDS:
    path = ROOT / "examples" / f"{build.name.lower().replace(' ', '-')}.json"
    path.write_text(build.model_dump_json(indent=2, exclude_none=True) + "\n", encoding="utf-8")
    print(path)
for name in SCHEMAS:
    path = ROOT / "src" / "plinth" / "schemas" / f"{name}.json"
    path.write_text(schema_text(name), encoding="utf-8")
    print(path)
