"""Write the demo builds to examples/, where `plinth solve` and readers find them."""

import pathlib

from plinth.demo.builds import BUILDS

FOLDER = pathlib.Path(__file__).parent.parent / "examples"

for build in BUILDS:
    path = FOLDER / f"{build.name.lower().replace(' ', '-')}.json"
    path.write_text(build.model_dump_json(indent=2, exclude_none=True) + "\n", encoding="utf-8")
    print(path)
