"""What a page is told of numbers and choices is what the models take."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Iterator
from typing import Annotated, Any

import pytest
from pydantic import BaseModel, TypeAdapter, ValidationError

import sorvan.core.change.commands
import sorvan.service.letters.messages
import sorvan.service.routes.renders  # noqa: F401

STEP = 1e-6
"""Less than anybody types."""


@pytest.fixture(scope="module")
def api() -> dict[str, Any]:
    made = subprocess.run([sys.executable, "-m", "sorvan.service.openapi"], capture_output=True, check=True)
    found: dict[str, Any] = json.loads(made.stdout)
    return found


@pytest.fixture(scope="module")
def told(api: dict[str, Any]) -> dict[str, dict[str, Any]]:
    found: dict[str, dict[str, Any]] = api["x-numbers"]
    return found


def models(of: type[BaseModel] = BaseModel) -> Iterator[type[BaseModel]]:
    for model in of.__subclasses__():
        yield model
        yield from models(model)


def takes(field: TypeAdapter[Any], value: float | str) -> bool:
    try:
        field.validate_python(value)
    except ValidationError:
        return False
    return True


def test_every_number_that_a_page_is_told_of_is_taken_up_to_its_ends_and_not_beyond(
    told: dict[str, dict[str, Any]],
) -> None:
    known = {m.__name__: m for m in models() if m.__module__.startswith("sorvan.")}
    tried = set()
    for of, facts in told.items():
        name, field = of.split(".")
        if name not in known or field not in known[name].model_fields:
            continue
        held = known[name].model_fields[field]
        takes_one: TypeAdapter[Any] = TypeAdapter(Annotated[held.annotation, *held.metadata, of])
        step = 1 if facts.get("whole") else STEP
        ends = [(facts[e], way) for e, way in (("least", -1), ("most", 1)) if e in facts]
        open_ends = [(facts[e], way) for e, way in (("above", -1), ("below", 1)) if e in facts]
        if not any(takes(takes_one, e - way * step) for e, way in ends + open_ends):
            continue  # a number within something else
        tried.add(of)
        for end, way in ends:
            assert takes(takes_one, end) and not takes(takes_one, end + way * step), of
        for end, way in open_ends:
            assert takes(takes_one, end - way * step) and not takes(takes_one, end), of
        assert "untold" not in facts or facts["untold"] == held.default, of
        assert not facts.get("whole") or not takes(takes_one, facts.get("least", 0) + 0.5), of
    assert len(tried) > 250


def test_a_frame_is_told_apart_from_how_many(told: dict[str, dict[str, Any]]) -> None:
    assert told["Span.start"]["said"] == "frame" and told["Span.frames"]["said"] == "frames"
    assert told["Span.start"] == {"least": 0, "below": 20000, "whole": True, "said": "frame"}
    assert told["Motion.length"] == {"least": 1, "most": 20000, "untold": 48, "whole": True, "said": "frames"}
    # Within a mapping, and by kind of channel.
    assert told["Bend.reach"] == {"above": 0, "most": 100000}
    assert told["opacity.typed"] == {"least": 0, "most": 100}
    assert not any(of.endswith("Given") for of, _ in (n.split(".") for n in told))


def test_what_a_page_is_told_to_choose_from_is_taken_and_nothing_else(api: dict[str, Any]) -> None:
    known = {m.__name__: m for m in models() if m.__module__.startswith("sorvan.")}
    tried = set()
    for of, words in api["x-choices"].items():
        name, field = of.split(".")
        if name not in known or field not in known[name].model_fields:
            continue
        one: TypeAdapter[Any] = TypeAdapter(known[name].model_fields[field].annotation)
        if not takes(one, words[0]):
            continue  # a word within something else
        tried.add(of)
        assert all(takes(one, word) for word in words) and not takes(one, "none of them"), of
    assert len(tried) > 50 and {"Joint.role", "Family.family", "ChangeRecipe.preset", "Shot.stage"} <= tried
