"""The `sorvan` command: the same work as in the page, without the page."""

from sorvan.cli.main import main

__all__ = ["main"]
