"""The pages of what ``import plinth`` gives, for those who script: ``python -m scripts.docs FOLDER``."""

import sys
from pathlib import Path

import pdoc

import plinth

# What a build is made of has pages of its own.
BUILD_PARTS = ("parts", "supply_parts", "modules", "situation", "hookup", "properties", "taken_in", "rail_load")


def write_docs(folder: Path) -> list[Path]:
    """A page for the names of ``plinth`` itself, one for each sort of part, a search; what was written."""
    for name in plinth.__all__:
        # Names are loaded when first used; the pages are made of those that stand in the module.
        vars(plinth)[name] = getattr(plinth, name)
    pdoc.render.configure(docformat="restructuredtext", footer_text=f"Plinth {plinth.__version__}", show_source=False)
    # The other rooms of the house are not promised to anybody: they are read in the code.
    parts = (f"plinth.builds.{name}" for name in BUILD_PARTS)
    pdoc.pdoc("plinth", "!plinth.", *parts, output_directory=folder)
    return sorted(folder.iterdir())


if __name__ == "__main__":
    for path in write_docs(Path(sys.argv[1])):
        print(path)
