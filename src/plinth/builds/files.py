"""Reading build files and situations, with one sentence for everything that can be wrong with them.

BuildFileError    carries the sentences; ``str()`` joins them, a line each
"""

import dataclasses
import json
from pathlib import Path
from typing import Any, TypeVar

import pydantic

from plinth.builds.build import Build
from plinth.builds.modules import MODULE_KINDS
from plinth.builds.quantities import Model
from plinth.builds.situation import Situation
from plinth.builds.supplies import SUPPLY_KINDS

LARGEST_FILE_BYTES = 4_000_000
_KINDS = frozenset(kind.model_fields["kind"].default for kind in (*SUPPLY_KINDS, *MODULE_KINDS))
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
        raise BuildFileError([f"{where}: found {_shown(document)}, expected one JSON object that describes a build"])
    return _validated(Build, document, where)


def read_document(model: type[ModelT], text: str, where: str) -> ModelT:
    """A kept document of any kind from its JSON text. Raises BuildFileError with a sentence that names ``where``."""
    try:
        document = json.loads(text, parse_constant=_refuse_constant)
    except (ValueError, TypeError, RecursionError) as error:
        raise BuildFileError([f"{where}: found broken text, expected what Plinth wrote there"]) from error
    if not isinstance(document, dict):
        raise BuildFileError([f"{where}: found {_shown(document)}, expected what Plinth wrote there"])
    return _validated(model, document, where)


@dataclasses.dataclass(frozen=True)
class Invalid:
    """What is wrong with a model: the field (``path``, empty: the whole), what was ``found`` and ``expected``.

    Of what a model says of itself there is only ``found``: its own sentence.
    """

    path: str
    found: str
    expected: str = ""

    @property
    def reason(self) -> str:
        """Both, without the field."""
        return f"{self.found}, expected {self.expected}" if self.expected else self.found

    @property
    def words(self) -> str:
        """The field, where it is one, and both."""
        return f"{self.path}: {self.reason}" if self.path else self.reason


def invalid(error: pydantic.ValidationError) -> list[Invalid]:
    """What is wrong with a model, field by field; never empty."""
    return [_invalid(detail) for detail in error.errors()]


def words_of(error: pydantic.ValidationError, where: str) -> list[str]:
    """The same in our words: a sentence each, naming ``where`` and the field."""
    return [f"{where}: {fault.path or 'the build'}: {fault.reason}" for fault in invalid(error)]


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


def _invalid(detail: Any) -> Invalid:
    path = ".".join(_without_kinds(detail["loc"]))
    kind, what_was, context = detail["type"], f"found {_shown(detail['input'])}", detail.get("ctx", {})
    bounds = {
        "greater_than": "above {gt}",
        "greater_than_equal": "at least {ge}",
        "less_than_equal": "at most {le}",
        "less_than": "below {lt}",
    }
    message = detail["msg"]
    match kind:
        case "missing":
            return Invalid(path, "found nothing", "a value; add this field")
        case "extra_forbidden":
            return Invalid(path, "found an unknown field", "only the fields that `plinth schema` lists")
        case "value_error":
            return Invalid(path, str(context["error"]))
        case "float_type" | "float_parsing" | "int_type" | "int_parsing":
            return Invalid(path, what_was, "a number")
        case "finite_number":
            return Invalid(path, what_was, "a finite number")
        case "union_tag_invalid":
            return Invalid(path, f"found kind {context['tag']!r}", f"one of {context['expected_tags']}")
        case "literal_error":
            return Invalid(path, what_was, str(context["expected"]))
        case "model_type" | "model_attributes_type" | "dict_type":
            return Invalid(path, what_was, "a JSON object")
        case _ if kind in bounds:
            return Invalid(path, what_was, f"a number {bounds[kind].format(**context)}")
        case _:
            return Invalid(path, what_was, f"{message[0].lower()}{message[1:]}")


def _without_kinds(steps: tuple[int | str, ...]) -> list[str]:
    """The place in the file: validation puts the kind of supply or module after its name, which no file has."""
    tagged = len(steps) > 1 and steps[0] in ("supply", "module") and steps[1] in _KINDS
    return [str(step) for k, step in enumerate(steps) if not (tagged and k == 1)]


def _shown(value: object) -> str:
    text = repr(value) if isinstance(value, str) else str(value)
    return text if len(text) <= 60 else text[:57] + "..."
