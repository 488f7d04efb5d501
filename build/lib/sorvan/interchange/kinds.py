"""What a file's name says that it is."""

from __future__ import annotations

FILMS = (".mp4", ".m4v", ".mov", ".webm", ".mkv", ".avi", ".gif")


def is_film(name: str) -> bool:
    """Whether a file's name says that it is a film."""
    return name.lower().endswith(FILMS)
