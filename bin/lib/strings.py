"""Print every string of the sources that a person can meet, a line each: where it stands, a tab, the text."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

SOURCES = Path(__file__).parents[2] / "src" / "perisect"
SKIPPED = ("store/migrations", "stand_ins", "up/", "cli/")
"""Folders whose strings are for programs, or for whoever starts them."""
SQL = re.compile(r"^(SELECT|UPDATE|INSERT|DELETE|CREATE|DROP|ALTER|LISTEN|NOTIFY|COPY|SET) ")


def sentences(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """Yield line and text of every string that reads like a label or a sentence; no docstrings, no logs."""
    hidden = {id(node) for parent in ast.walk(tree) for node in _unsaid(parent)}
    for node in ast.walk(tree):
        if id(node) in hidden:
            continue
        text = _text(node)
        if text is not None and _is_said(text):
            yield node.lineno, " ".join(text.split())  # type: ignore[attr-defined]


def _unsaid(parent: ast.AST) -> Iterator[ast.AST]:
    """Yield strings below a node that nobody is told: docstrings, what is logged, parts of longer strings."""
    body = getattr(parent, "body", None)
    if isinstance(body, list):
        for statement in body:
            if isinstance(statement, ast.Expr):
                yield statement.value
    if isinstance(parent, ast.JoinedStr):
        yield from parent.values
    if isinstance(parent, ast.Call) and ast.unparse(parent.func).startswith(("log.", "re.", "text")):
        for argument in ast.walk(parent):
            if argument is not parent:
                yield argument


def _text(node: ast.AST) -> str | None:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if isinstance(node, ast.JoinedStr):
        return "".join(
            str(part.value) if isinstance(part, ast.Constant) else f"{{{ast.unparse(part.value)[:30]}}}"  # type: ignore[attr-defined]
            for part in node.values
        )
    return None


def _is_said(text: str) -> bool:
    told = text.strip()
    begins = re.match(r"[“(]?(?:[A-Z]|\{\w)", told)
    return bool(begins) and (" " in told or told.endswith(".")) and not SQL.match(told)


def main() -> None:
    """Print them all, in the order of the files."""
    for file in sorted(SOURCES.rglob("*.py")):
        path = file.relative_to(SOURCES).as_posix()
        if path.startswith(SKIPPED):
            continue
        for line, text in sentences(ast.parse(file.read_text(encoding="utf-8"))):
            print(f"src/perisect/{path}:{line}\t{text}")


if __name__ == "__main__":
    main()
