"""How a field of a model is set by hand: told with the field itself, so that no page has to know."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sorvan.core.model.base import Value


@dataclass(frozen=True)
class Shown:
    """What a field is called, its unit, and between which ends and in which steps it is slid; or the `choices` there are,
    each with its words. `untold` is the number that stands for nothing told. It counts only `where` another field holds
    some value. `tip` explains a name of the trade to whoever doesn't know it."""

    label: str
    unit: str = ""
    least: float = 0.0
    most: float = 100.0
    step: float = 1.0
    choices: tuple[tuple[str, str], ...] = ()
    untold: float | None = None
    where: tuple[str, str] | None = None
    tip: str = ""


def shown_in(model: type[Value]) -> Iterator[tuple[str, Shown, Any]]:
    """The fields of a model that are set by hand, in their order: name, how, and what each is where nothing is told."""
    for name, field in model.model_fields.items():
        for mark in field.metadata:
            if isinstance(mark, Shown):
                yield name, mark, field.default
