"""Every kind of recipe there is, by the class of its parameters: each in a file of its own in this folder."""

from __future__ import annotations

import pkgutil
from functools import cache
from importlib import import_module
from typing import Any, get_args

from sorvan.core import recipes
from sorvan.core.errors import missing
from sorvan.core.model.recipe import AnyRecipe
from sorvan.core.model.shown import shown_in
from sorvan.core.recipes.kind import Kind


@cache
def kinds() -> dict[type[Any], Kind[Any]]:
    """The kinds by the class of their parameters, in the order of these."""
    for module in pkgutil.iter_modules(recipes.__path__):
        import_module(f"{recipes.__name__}.{module.name}")
    found = {kind.of: kind() for kind in Kind.__subclasses__()}
    return {model: found[model] for model in get_args(AnyRecipe)}


def kind_of(recipe: AnyRecipe) -> Kind[Any]:
    """The kind of a recipe."""
    return kinds()[type(recipe)]


def kind_named(name: str) -> Kind[Any]:
    """The kind with this name in documents. Raises `Refusal` if there is none."""
    found = next((k for model, k in kinds().items() if model.model_fields["kind"].default == name), None)
    if found is None:
        raise missing("kind of recipe", name)
    return found


def described() -> list[dict[str, Any]]:
    """What a page has to know of each kind: what it is called and does, and how its fields are set."""
    return [
        {
            "kind": model.model_fields["kind"].default,
            "name": kind.name,
            "does": kind.does,
            "settings": [
                {
                    "key": name,
                    "label": shown.label,
                    "tip": shown.tip,
                    "unit": shown.unit,
                    "min": shown.least,
                    "max": shown.most,
                    "step": shown.step,
                    "start": shown.untold if default is None else default,
                    "untold": shown.untold,
                    "choices": [list(c) for c in shown.choices],
                    "where": list(shown.where) if shown.where else None,
                }
                for name, shown, default in shown_in(model)
            ],
        }
        for model, kind in kinds().items()
    ]
