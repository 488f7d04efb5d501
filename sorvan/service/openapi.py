"""Prints the service's OpenAPI document, from which the page's types are made, and what it has to know of each
kind of recipe."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine

from sorvan.core.model.channels import KINDS
from sorvan.core.recipes.registry import described
from sorvan.picture.formats import FORMATS
from sorvan.service.app import create_app

TOLD = ("owner", "called", "chosen")
"""What a page has to know of a kind of channel."""


def _of(row: object, *fields: str) -> dict[str, Any]:
    return {f: getattr(row, f) for f in fields}


def document() -> str:
    """The OpenAPI document as JSON. No database is reached."""
    app = create_app(create_engine("postgresql+psycopg://nobody@127.0.0.1:1/none"), Path("/nonexistent"))
    channels = {kind: _of(facts, *TOLD) for kind, facts in KINDS.items()}
    formats = [
        {"id": format, "name": made.full, **_of(made, "form", "clear", "heard")} for format, made in FORMATS.items()
    ]
    return json.dumps(
        {**app.openapi(), "x-recipes": described(), "x-channels": channels, "x-formats": formats}, indent=1
    )


if __name__ == "__main__":
    sys.stdout.write(document())
