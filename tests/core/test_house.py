"""The house: one word names one type."""

from __future__ import annotations

import ast
import re
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


def test_colours_of_the_page_stand_in_its_tokens() -> None:
    literal = re.compile(r"#[0-9a-fA-F]{3,8}\b|\b(?:rgb|hsl)a?\(")
    themes = sorted((ROOT / "web/src/theme").glob("_*.scss"))
    found = {f.name: literal.findall(re.sub(r"//.*", "", f.read_text())) for f in themes}
    assert len(found.pop("_tokens.scss")) > 50
    assert {name: colours for name, colours in found.items() if colours} == {}
