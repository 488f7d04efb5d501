"""The `sorvan` command: the same work as in the page, without the page."""

from sorvan.cli.command import main

__all__ = ["main"]
