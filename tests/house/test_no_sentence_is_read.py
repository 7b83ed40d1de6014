"""What the core decides it decides by facts: no sentence, label or error text is searched, cut or compared."""

import ast
from collections.abc import Iterator
from pathlib import Path

import plinth

ROOT = Path(plinth.__file__).parent
CORE = (
    "physics", "units", "builds", "predict", "judge", "record", "guide", "bench", "wiring", "shelf", "workshop",
    "session", "demo", "processes", "instruments",
)  # fmt: skip
# What a thing of the core says in words, as the models name it. What somebody typed is a plain name, or ``typed``.
SAID = {
    "words", "label", "sentence", "sentences", "said", "title", "full_title", "ask", "why", "why_not", "check",
    "caution", "reason", "message", "check_words", "hot_words", "most_words", "why_open", "against", "flow",
}  # fmt: skip
CUTTING = {
    "startswith", "endswith", "find", "rfind", "index", "rindex", "partition", "rpartition", "split",
    "count", "removeprefix", "removesuffix", "replace",
}  # fmt: skip
FOLDING = {"lower", "casefold", "upper", "strip"}
# Decisions that read a sentence. None may.
ALLOWED: set[str] = set()


def _is_said(node: ast.expr) -> bool:
    """Whether an expression is what something says in words, or an error turned into text."""
    if isinstance(node, ast.Attribute):
        return node.attr in SAID
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in FOLDING:
        return _is_said(node.func.value)
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "str" and node.args:
        argument = node.args[0]
        return isinstance(argument, ast.Name) and argument.id in ("error", "failure", "exc")
    return False


def _reads(tree: ast.AST) -> Iterator[ast.expr]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Compare):
            sides = [node.left, *node.comparators]
            for operator, left, right in zip(node.ops, sides, node.comparators, strict=False):
                searched = isinstance(operator, ast.In | ast.NotIn) and _is_said(right)
                written = [side for side in (left, right) if isinstance(side, ast.Constant) and side.value]
                compared = isinstance(operator, ast.Eq | ast.NotEq) and written and (_is_said(left) or _is_said(right))
                if searched or compared:
                    yield node
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            cuts = node.func.attr in CUTTING and _is_said(node.func.value)
            if cuts:
                yield node


def read_in(source: str) -> list[str]:
    return [ast.unparse(node) for node in _reads(ast.parse(source))]


def test_no_decision_of_the_core_reads_a_sentence() -> None:
    reading = {
        f"{path.relative_to(ROOT)}: {text}"
        for room in CORE
        for path in sorted((ROOT / room).rglob("*.py"))
        for text in read_in(path.read_text(encoding="utf-8"))
    }
    assert reading == ALLOWED


def test_such_a_reading_is_seen() -> None:
    for source in (
        "if 'full' in str(error): pass",
        "if one.why.startswith('cannot join'): pass",
        "short = step.title.partition(': ')[2]",
        "if name in line.words: pass",
        "if margin.sentence == 'Clear.': pass",
        "if 'lead' in field.label.lower(): pass",
    ):
        assert read_in(source), source
    for source in (
        "if typed.value in known.values: pass",
        "if one.said: pass",
        "words = typed.split()",
        "if one.kind == 'changed': pass",
        "shown = f'{step.title}: {step.why}'",
    ):
        assert not read_in(source), source
