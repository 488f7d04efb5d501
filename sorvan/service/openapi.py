"""Prints the service's OpenAPI document, from which the page's types are made, and what it has to know of each
kind of recipe and channel, and of each number and each choice that a document or a command holds."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine

from sorvan.core.model.base import Value
from sorvan.core.model.channels import KINDS
from sorvan.core.model.times import Time, times_of
from sorvan.core.recipes.registry import described
from sorvan.picture.formats import FORMATS
from sorvan.service.app import create_app

TOLD = ("owner", "called", "chosen")
"""What a page has to know of a kind of channel."""


def _of(row: object, *fields: str) -> dict[str, Any]:
    return {f: getattr(row, f) for f in fields}


ENDS = {"minimum": "least", "maximum": "most", "exclusiveMinimum": "above", "exclusiveMaximum": "below"}
"""What the ends between which a number lies are called, by what a JSON schema calls them."""
SAID = {Time.AT: "frame", Time.LASTS: "frames", Time.LENGTH: "frames"}
"""In what a number of frames is said: as one of them, counted from 1, or as so many."""


def _models(of: type[Value] = Value) -> Iterator[type[Value]]:
    for model in of.__subclasses__():
        yield model
        yield from _models(model)


def _inside(said: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """What a field may be, and what is in it: in a mapping, a list or a tuple all are alike."""
    yield said
    alike = (said.get("items"), said.get("additionalProperties"), *said.get("patternProperties", {}).values())
    for part in (*said.get("anyOf", ()), *said.get("prefixItems", ()), *alike):
        if isinstance(part, dict):
            yield from _inside(part)


def numbers(api: dict[str, Any]) -> dict[str, dict[str, Any]]:
    """By model and field, what each number may be that a document, a command or a request holds: between which ends it
    lies, whether it is whole, what it is untold, and whether it is a frame or so many.

    What says only a part of a thing has the same ends as the thing itself and is not told again; nor is what lies
    anywhere on the stage.
    """
    times = {model.__name__: times_of(model) for model in _models()}
    told = {}
    for name, schema in api["components"]["schemas"].items():
        if name.startswith("Body_") or name.endswith("Given"):
            continue
        for field, said in schema.get("properties", {}).items():
            number = next((k for k in _inside(said) if k.get("type") in ("number", "integer")), {})
            of = {ends: number[end] for end, ends in ENDS.items() if end in number}
            if not of:
                continue
            if isinstance(said.get("default"), int | float):
                of["untold"] = said["default"]
            if number["type"] == "integer":
                of["whole"] = True
            if (mark := SAID.get(times.get(name, {}).get(field))) is not None:  # type: ignore[arg-type]
                of["said"] = mark
            told[f"{name}.{field}"] = of
    for kind, facts in KINDS.items():
        if facts.typed:
            told[f"{kind}.typed"] = dict(zip(("least", "most"), facts.typed, strict=True))
    return told


def choices(api: dict[str, Any]) -> dict[str, list[str]]:
    """By model and field, the words of which one is chosen, in the order in which the core has them."""
    told = {}
    for name, schema in api["components"]["schemas"].items():
        if name.endswith("Given"):
            continue
        for field, said in schema.get("properties", {}).items():
            words = next((k["enum"] for k in _inside(said) if "enum" in k), ())
            if len(words) > 1 and all(isinstance(w, str) for w in words):
                told[f"{name}.{field}"] = list(words)
    return told


def document() -> str:
    """The OpenAPI document as JSON. No database is reached."""
    app = create_app(create_engine("postgresql+psycopg://nobody@127.0.0.1:1/none"), Path("/nonexistent"))
    channels = {kind: _of(facts, *TOLD) for kind, facts in KINDS.items()}
    formats = [
        {"id": format, "name": made.full, **_of(made, "form", "clear", "heard")} for format, made in FORMATS.items()
    ]
    api = app.openapi()
    facts = {"x-recipes": described(), "x-channels": channels, "x-formats": formats, "x-numbers": numbers(api)}
    facts["x-choices"] = choices(api)
    return json.dumps({**api, **facts}, indent=1)


if __name__ == "__main__":
    sys.stdout.write(document())
