"""What is wrong with a model, in our words: field by field what was found and what was expected."""

import dataclasses
from typing import Any

import pydantic

from plinth.builds.modules import MODULE_KINDS
from plinth.builds.supplies import SUPPLY_KINDS

_KINDS = frozenset(kind.model_fields["kind"].default for kind in (*SUPPLY_KINDS, *MODULE_KINDS))


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


def _invalid(detail: Any) -> Invalid:
    path = ".".join(_without_kinds(detail["loc"]))
    kind, what_was, context = detail["type"], f"found {shown_found(detail['input'])}", detail.get("ctx", {})
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


def shown_found(value: object) -> str:
    """A value as it is quoted in a sentence, cut where it is long."""
    text = repr(value) if isinstance(value, str) else str(value)
    return text if len(text) <= 60 else text[:57] + "..."
