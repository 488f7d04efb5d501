"""Whatever is sent, what is left can be opened: commands made at random of everything that the commands allow."""

from __future__ import annotations

import json
import os
import random
from functools import cache
from typing import Any

import pytest
from pydantic import ValidationError

from sorvan.core.change.commands import COMMAND
from sorvan.core.change.writes import difference, replayed
from sorvan.core.errors import Refusal
from sorvan.core.model import stored
from sorvan.core.model.documents import Documents
from sorvan.demo.quay import build

SEEDS = int(os.environ.get("SORVAN_NASTY", "6"))
COMMANDS = 160
NUMBERS = (0, 1, -1, 2, 3, 7, 24, 100, 0.5, 1e-9, -1e6, 1e6, 1e9, 19_999, 20_000)
WORDS = ("", " ", "x", "gone", "body", "puppet", "x" * 121, "é\u0301", "‮", "a.turn", "🙂" * 60)


@cache
def schema() -> dict[str, Any]:
    """The JSON Schema of every command."""
    return COMMAND.json_schema()


class Nasty:
    """Makes values that mostly follow a schema, of the ids that are there."""

    def __init__(self, seed: int, documents: Documents) -> None:
        self.dice = random.Random(seed)
        self.ids = _ids(documents)

    def command(self) -> dict[str, Any]:
        named = self.dice.choice(sorted(schema()["discriminator"]["mapping"].values()))
        made: dict[str, Any] = self.value({"$ref": named}, "")
        return made

    def value(self, of: dict[str, Any], name: str, depth: int = 0) -> Any:
        """A value after a schema; now and then one that is not."""
        dice = self.dice
        if "$ref" in of:
            return self.value(schema()["$defs"][of["$ref"].rpartition("/")[2]], name, depth + 1)
        if "const" in of:
            return of["const"]
        if "enum" in of:
            return dice.choice(of["enum"])
        for choice in ("anyOf", "oneOf"):
            if choice in of:
                return self.value(dice.choice(of[choice]), name, depth + 1)
        if dice.random() < 0.004:
            return dice.choice([None, "", [], {}, -1, 1e300])
        match of.get("type"):
            case "object":
                return self.record(of, depth)
            case "array":
                return self.row(of, name, depth)
            case "number" | "integer":
                return self.number(of)
            case "boolean":
                return dice.random() < 0.5
            case "string":
                return self.word(of, name)
        return None

    def record(self, of: dict[str, Any], depth: int) -> dict[str, Any]:
        dice = self.dice
        given = {
            field: self.value(inside, field, depth + 1)
            for field, inside in of.get("properties", {}).items()
            if field in of.get("required", ()) or dice.random() < (0.6 if depth < 4 else 0.2)
        }
        more = of.get("additionalProperties")
        if isinstance(more, dict):
            return {str(self.key(of)): self.value(more, "", depth + 1) for _ in range(dice.randint(0, 3))}
        return given

    def key(self, of: dict[str, Any]) -> str:
        return self.dice.choice([self.id(""), str(self.dice.choice([0, 3, 12, 47])), f"{self.id('')}.turn"])

    def row(self, of: dict[str, Any], name: str, depth: int) -> list[Any]:
        if "prefixItems" in of:
            return [self.value(inside, name, depth + 1) for inside in of["prefixItems"]]
        least, most = of.get("minItems", 0), min(of.get("maxItems", 4), of.get("minItems", 0) + 3)
        count = self.dice.randint(least, max(least, most))
        return [self.value(of.get("items", {}), name, depth + 1) for _ in range(count)]

    def number(self, of: dict[str, Any]) -> float | int:
        low = of.get("minimum", of.get("exclusiveMinimum", -1e6))
        high = of.get("maximum", of.get("exclusiveMaximum", 1e6))
        odd = self.dice.choice([low, high, *NUMBERS])
        found = odd if self.dice.random() < 0.1 else self.dice.uniform(max(low, -200), min(high, 200))
        return int(found) if of.get("type") == "integer" else found

    def word(self, of: dict[str, Any], name: str) -> str:
        if "[0-9a-f]{64}" in of.get("pattern", ""):
            return self.dice.choice(self.ids["asset"])
        if "#[0-9a-f]" in of.get("pattern", ""):
            return f"#{self.dice.getrandbits(32):08x}"
        if "A-Za-z" in of.get("pattern", ""):
            return self.id(name)
        return self.dice.choice(WORDS)

    def id(self, name: str) -> str:
        kinds = sorted(self.ids)
        close = [kind for kind in kinds if kind == name or kind.startswith(name.rstrip("s") or "-")]
        if self.dice.random() < 0.12:
            return self.dice.choice(["new", f"n{self.dice.randint(0, 99)}", "gone", "puppet"])
        return self.dice.choice(self.ids[self.dice.choice(close if close and self.dice.random() < 0.9 else kinds)])


def _ids(documents: Documents) -> dict[str, list[str]]:
    """The ids that are there, by what they name."""
    found: dict[str, list[str]] = {"asset": [*sorted(documents.art_assets())[:4], "0" * 64]}
    for document in documents.by_id.values():
        found.setdefault(document.kind, []).append(document.id)
        for field, inside in document.model_dump(mode="json").items():
            if isinstance(inside, dict):
                found.setdefault(field, []).extend(inside)
    return {kind: ids for kind, ids in found.items() if ids}


def as_stored(documents: Documents) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(json.dumps({id: d.model_dump(mode="json") for id, d in documents.by_id.items()}))
    return found


@cache
def quay() -> Documents:
    return build()[0]


@pytest.mark.parametrize("seed", range(SEEDS))
def test_after_any_commands_the_production_opens_as_it_was_left(seed: int) -> None:
    documents = quay()
    nasty = Nasty(seed, documents)
    bodies = as_stored(documents)
    done = 0
    for _ in range(COMMANDS):
        given = nasty.command()
        try:
            command = COMMAND.validate_python(given)
            after = command.apply(documents)
            label = command.label(documents)
        except (ValidationError, Refusal):
            continue
        writes = difference(documents, after)
        assert label or not writes, given
        replayed(bodies, [type(w).model_validate_json(w.model_dump_json()) for w in writes])
        documents, done = after, done + 1
        if nasty.dice.random() < 0.1:
            nasty.ids = _ids(documents)
    found = stored.opened(json.loads(json.dumps(bodies)), "quay", "Quay")
    assert found.left_out == ()
    assert found.documents == documents
    assert list(as_stored(found.documents).items()) == list(as_stored(documents).items())
    assert done >= COMMANDS / 50, f"only {done} of {COMMANDS} commands were taken: this tests nothing"
