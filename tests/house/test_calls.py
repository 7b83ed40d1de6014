"""No call hands over so many values by their places that a reader must look up which is which."""

import ast
from pathlib import Path

import plinth

ROOT = Path(plinth.__file__).parent
MOST = 6
# Of these each value is one more of the same.
ALIKE = {"column", "sa.select", "op.create_table"}


def by_place(source: str) -> list[str]:
    return [
        ast.unparse(node.func)
        for node in ast.walk(ast.parse(source))
        if isinstance(node, ast.Call) and len(node.args) > MOST and ast.unparse(node.func) not in ALIKE
    ]


def test_of_many_values_each_is_named() -> None:
    found = {
        f"{path.relative_to(ROOT)}: {name}"
        for path in sorted(ROOT.rglob("*.py"))
        for name in by_place(path.read_text(encoding="utf-8"))
    }
    assert found == set()


def test_such_a_call_is_seen() -> None:
    assert by_place("f(1, 2, 3, 4, 5, 6, 7)") == ["f"]
    assert by_place("f(1, 2, 3, 4, 5, 6, g=7)") == []
    assert by_place("column(1, 2, 3, 4, 5, 6, 7)") == []
