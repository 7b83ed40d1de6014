"""Small changes of a source file that a test should notice: a figure by a factor, a sign, a comparison, a choice."""

import ast
import dataclasses
from collections.abc import Iterator
from pathlib import Path

_COMPARED = {ast.Lt: ">", ast.Gt: "<", ast.LtE: ">", ast.GtE: "<", ast.Eq: "!=", ast.NotEq: "=="}
_OPERATED = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*"}
_SIGNS = {ast.Lt: "<", ast.Gt: ">", ast.LtE: "<=", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=", ast.Add: "+",
          ast.Sub: "-", ast.Mult: "*", ast.Div: "/"}  # fmt: skip


@dataclasses.dataclass(frozen=True)
class Mutant:
    """``new`` in place of what stands from ``begin`` to ``end`` of the file; ``function`` the line it begins at."""

    path: Path
    begin: int
    end: int
    new: str
    line: int
    function: int

    @property
    def words(self) -> str:
        """Where it is, what stood there and what does now."""
        old = self.path.read_text()[self.begin : self.end]
        return f"{'/'.join(self.path.parts[-2:])}:{self.line}: {old} -> {self.new}"

    def applied(self) -> str:
        """The source with it."""
        source = self.path.read_text()
        return source[: self.begin] + self.new + source[self.end :]


def mutants_of(path: Path) -> Iterator[Mutant]:
    """All mutants of a file."""
    source = path.read_text()
    starts = [0]
    for line in source.splitlines(keepends=True):
        starts.append(starts[-1] + len(line))
    lines = source.splitlines()

    def place(line: int, column: int) -> int:
        # ast counts bytes in a line.
        return starts[line - 1] + len(lines[line - 1].encode()[:column].decode())

    def span(node: ast.expr) -> tuple[int, int]:
        assert node.end_lineno is not None
        assert node.end_col_offset is not None
        return place(node.lineno, node.col_offset), place(node.end_lineno, node.end_col_offset)

    def between(left: ast.expr, right: ast.expr, kind: type[ast.AST]) -> tuple[int, int] | None:
        begin, end = span(left)[1], span(right)[0]
        at = source.find(_SIGNS[kind], begin, end)
        return None if at < 0 else (at, at + len(_SIGNS[kind]))

    def visit(node: ast.AST, function: int) -> Iterator[Mutant]:
        if isinstance(node, ast.FunctionDef):
            function = node.decorator_list[0].lineno if node.decorator_list else node.lineno
        for name, value in ast.iter_fields(node):
            if name in ("annotation", "returns", "decorator_list", "keywords_of_class"):
                continue
            for child in value if isinstance(value, list) else [value]:
                if isinstance(child, ast.JoinedStr | ast.ImportFrom | ast.Import | ast.Assert):
                    continue
                if isinstance(child, ast.AST):
                    yield from visit(child, function)
        found = _change(node)
        if found is None:
            return
        where, new = found
        at = span(where[0]) if len(where) == 1 else between(where[0], where[1], where[2])
        if at is not None:
            yield Mutant(path, *at, new, getattr(node, "lineno", 0), function)

    yield from visit(ast.parse(source), 0)


def _change(node: ast.AST) -> tuple[tuple[ast.expr] | tuple[ast.expr, ast.expr, type[ast.AST]], str] | None:
    """What of a node is replaced, and by what; None for one that is left alone."""
    match node:
        case ast.Constant(value=bool() | None):
            return None
        case ast.Constant(value=float() | int() as number):
            changed = "1.0" if number == 0.0 else repr(number * 2)
            return (node,), changed
        case ast.Compare(left=left, ops=[op], comparators=[right]) if type(op) in _COMPARED:
            return (left, right, type(op)), _COMPARED[type(op)]
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _OPERATED:
            return (left, right, type(op)), _OPERATED[type(op)]
        case ast.Call(func=ast.Name(id="min" | "max") as called):
            return (called,), "max" if called.id == "min" else "min"
        case _:
            return None
