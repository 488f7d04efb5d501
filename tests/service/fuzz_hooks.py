"""Lets the fuzzer speak of what is really there: without it nearly all it says is about things that are not."""

from __future__ import annotations

import json
import os
import random
import urllib.request
from typing import Any

import schemathesis

PRODUCTION = os.environ["SORVAN_FUZZED"]
DICE = random.Random(9)
_whole = json.load(urllib.request.urlopen(PRODUCTION))
BY_KIND: dict[str, list[str]] = {}
for _document in _whole["documents"]:
    BY_KIND.setdefault(_document["kind"], []).append(_document["id"])
PARTS = [
    id
    for document in _whole["documents"]
    for field in ("joints", "pieces", "dials", "chains", "groups", "channels", "cast", "recipes")
    for id in document.get(field) or {}
]
OWNERS = ("puppet", "motion", "shot", "voice", "production")


def _real(name: str, given: Any) -> Any:
    if name in OWNERS and DICE.random() < 0.9:
        return DICE.choice(BY_KIND[name])
    return given


def _told(value: Any, name: str = "") -> Any:
    if isinstance(value, dict):
        return {key: _told(inside, key) for key, inside in value.items()}
    if isinstance(value, list):
        return [_told(inside, name) for inside in value]
    if isinstance(value, str) and name in OWNERS:
        return _real(name, value)
    if isinstance(value, str) and DICE.random() < 0.5 and len(value) < 40 and name not in ("do", "kind", "name"):
        return DICE.choice(PARTS)
    return 0 if name == "base" else value


@schemathesis.hook
def map_path_parameters(_: Any, path_parameters: dict[str, Any] | None) -> dict[str, Any] | None:
    """Name documents that are there, mostly."""
    return {name: _real(name, given) for name, given in (path_parameters or {}).items()}


@schemathesis.hook
def map_body(_: Any, body: Any) -> Any:
    """Name parts that are there, in half of the places."""
    return _told(body) if isinstance(body, dict) else body
