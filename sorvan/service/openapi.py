"""Prints the service's OpenAPI document, from which the page's types are made, and what it has to know of each
kind of recipe."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from sqlalchemy import create_engine

from sorvan.core.model.channels import KINDS
from sorvan.core.recipes.registry import described
from sorvan.service.app import create_app

TOLD = ("owner", "neutral", "unit", "called", "chosen")
"""What a page has to know of a kind of channel."""


def document() -> str:
    """The OpenAPI document as JSON. No database is reached."""
    app = create_app(create_engine("postgresql+psycopg://nobody@127.0.0.1:1/none"), Path("/nonexistent"))
    channels = {kind: {f: getattr(facts, f) for f in TOLD} for kind, facts in KINDS.items()}
    return json.dumps({**app.openapi(), "x-recipes": described(), "x-channels": channels}, indent=1)


if __name__ == "__main__":
    sys.stdout.write(document())
