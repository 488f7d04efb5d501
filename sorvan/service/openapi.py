"""Prints the service's OpenAPI document, from which the page's types are made, and what it has to know of each
kind of recipe."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from sqlalchemy import create_engine

from sorvan.core.recipes.registry import described
from sorvan.service.app import create_app


def document() -> str:
    """The OpenAPI document as JSON. No database is reached."""
    app = create_app(create_engine("postgresql+psycopg://nobody@127.0.0.1:1/none"), Path("/nonexistent"))
    return json.dumps({**app.openapi(), "x-recipes": described()}, indent=1)


if __name__ == "__main__":
    sys.stdout.write(document())
