"""The house: one word names one type."""

from __future__ import annotations

import ast
from collections import defaultdict
from collections.abc import Iterator

from tests.begun import ROOT


def types_of(tree: ast.Module) -> Iterator[str]:
    """The classes and names for types that a module gives; what stands for any type in a few functions is none."""
    for node in tree.body:
        match node:
            case ast.ClassDef(name=name):
                yield name
            case ast.Assign(targets=[ast.Name(id=name)], value=value):
                if name[0].isupper() and not name.isupper() and not ast.unparse(value).startswith("TypeVar("):
                    yield name


def test_one_word_names_one_type() -> None:
    where: dict[str, list[str]] = defaultdict(list)
    for file in sorted((ROOT / "sorvan").rglob("*.py")):
        for name in types_of(ast.parse(file.read_text())):
            if not name.startswith("_"):
                where[name].append(str(file.relative_to(ROOT)))
    assert len(where) > 500
    assert {name: files for name, files in where.items() if len(files) > 1} == {}
