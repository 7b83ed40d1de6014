"""Reading build files and situations, with one sentence for everything that can be wrong with them.

BuildFileError    carries the sentences; ``str()`` joins them, a line each
"""

import json
from pathlib import Path
from typing import Any, TypeVar

import pydantic

from plinth.builds.build import Build
from plinth.builds.invalid import shown_found, words_of
from plinth.builds.quantities import Model
from plinth.builds.situation import Situation

LARGEST_FILE_BYTES = 4_000_000
ModelT = TypeVar("ModelT", bound=Model)


class BuildFileError(ValueError):
    """Something in a file or a situation is not as it must be; ``sentences`` says what, one each."""

    def __init__(self, sentences: list[str]) -> None:
        super().__init__("\n".join(sentences))
        self.sentences = sentences


def read_build(path: Path | str) -> Build:
    """The build in a JSON file. Raises BuildFileError with path, what was found and what was expected."""
    return parse_build(read_text(Path(path)), str(path))


def parse_build(text: str, where: str) -> Build:
    """The build in a JSON text; ``where`` names it in sentences."""
    try:
        document = json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as error:
        raise BuildFileError(
            [
                (
                    f"{where}: found broken JSON at line {error.lineno}, column {error.colno} ({error.msg}), "
                    "expected one JSON object that describes a build; `plinth schema` prints its shape"
                )
            ]
        ) from error
    except RecursionError as error:
        raise BuildFileError([f"{where}: found JSON nested too deeply, expected a build"]) from error
    except ValueError as error:
        raise BuildFileError([f"{where}: found {error}, expected a finite number"]) from error
    if not isinstance(document, dict):
        raise BuildFileError(
            [f"{where}: found {shown_found(document)}, expected one JSON object that describes a build"]
        )
    return _validated(Build, document, where)


def read_document(model: type[ModelT], text: str, where: str) -> ModelT:
    """A kept document of any kind from its JSON text. Raises BuildFileError with a sentence that names ``where``."""
    try:
        document = json.loads(text, parse_constant=_refuse_constant)
    except (ValueError, TypeError, RecursionError) as error:
        raise BuildFileError([f"{where}: found broken text, expected what Plinth wrote there"]) from error
    if not isinstance(document, dict):
        raise BuildFileError([f"{where}: found {shown_found(document)}, expected what Plinth wrote there"])
    return _validated(model, document, where)


def parse_situation(pairs: list[str]) -> Situation:
    """The situation in ``key=value`` words. Raises BuildFileError."""
    document: dict[str, Any] = {}
    fields = ", ".join(Situation.model_fields)
    for pair in pairs:
        key, equals, value = pair.partition("=")
        if not equals:
            raise BuildFileError([f"--situation: found {pair!r}, expected key=value with key one of {fields}"])
        if key not in Situation.model_fields:
            raise BuildFileError([f"--situation: found key {key!r}, expected one of {fields}"])
        document[key] = value
    return _validated(Situation, document, "--situation")


def build_schema() -> dict[str, Any]:
    """JSON Schema of build files."""
    return Build.model_json_schema()


def read_text(path: Path) -> str:
    """The text of a file. Raises BuildFileError where it is no file of text, or a very large one."""
    try:
        if not path.is_dir() and not path.is_file() and path.exists():
            # A pipe would be waited on until somebody writes into it.
            raise BuildFileError([f"{path}: found a pipe or a device, expected a JSON build file"])
        if path.stat().st_size > LARGEST_FILE_BYTES:
            raise BuildFileError([f"{path}: found {path.stat().st_size} bytes, expected a build file of at most 4 MB"])
        return path.read_text(encoding="utf-8")
    except UnicodeDecodeError as error:
        raise BuildFileError([f"{path}: found bytes that are no UTF-8 text, expected a JSON build file"]) from error
    except (OSError, ValueError) as error:
        if isinstance(error, BuildFileError):
            raise
        reason = getattr(error, "strerror", None) or str(error)
        raise BuildFileError([f"{path}: found no readable file ({reason}), expected a JSON build file"]) from error


def _refuse_constant(name: str) -> float:
    raise ValueError(f"the number {name}")


def _validated(model: type[ModelT], document: dict[str, Any], where: str) -> ModelT:
    try:
        return model.model_validate(document)
    except pydantic.ValidationError as error:
        raise BuildFileError(words_of(error, where)) from error
