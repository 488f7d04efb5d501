"""Answers that a browser keeps as a file."""

from __future__ import annotations

from fastapi import Response


def attachment(data: bytes, name: str, media: str) -> Response:
    """A file to be kept under a name; letters that not every system knows are left out of it."""
    safe = "".join(c if c.isalnum() or c in " -_." else "_" for c in name).encode("ascii", "replace").decode()
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{safe}"'})
