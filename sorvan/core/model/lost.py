"""What a document has lost, in sentences."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from sorvan.core.model.documents import AnyDocument

_THINGS = {
    "pieces": "piece", "joints": "joint", "groups": "group", "chains": "limb", "dials": "dial", "book": "pose",
    "channels": "channel", "keys": "key", "poses": "card", "recipes": "recipe", "plants": "plant", "sounds": "sound",
    "cast": "cast member", "spans": "span", "swatches": "swatch", "values": "value", "drawings": "drawing",
}  # fmt: skip
"""What one of those that a field holds is called."""


def lost(document: AnyDocument, before: Any, after: Any) -> Iterator[str]:
    """What stands in `before` and no longer, or otherwise, in `after`: bodies of this document as plain data."""
    kind = called(document.kind)
    for place, what in _differences((), before, after):
        # Of “pieces, the piece “wing”” the second says it all.
        said = [name for step, name in place if name != step.replace("_", " ") or _THINGS.get(step) is None] or [
            name for _, name in place
        ]
        yield f"The {kind} “{document.name}”: {' › '.join(said) or 'it'} {what}."


def called(kind: str) -> str:
    """What a kind of document is called."""
    return {"voice": "voice line"}.get(kind, kind)


LostAt = tuple[tuple[str, str], ...]
"""Where something stands: each step, and what it is called."""


def _differences(place: LostAt, before: Any, after: Any) -> Iterator[tuple[LostAt, str]]:
    if isinstance(before, dict) and isinstance(after, dict):
        for key, value in before.items():
            here = (*place, (str(key), _called(place, str(key), value)))
            if key in after:
                yield from _differences(here, value, after[key])
            elif value not in (None, [], {}):
                yield here, "was left out"
    elif isinstance(before, list | tuple) and isinstance(after, list | tuple) and len(before) != len(after):
        yield place, f"was cut from {len(before)} to {len(after)}"
    elif isinstance(before, list | tuple) and isinstance(after, list | tuple):
        for n, (one, other) in enumerate(zip(before, after, strict=True)):
            yield from _differences((*place, (str(n), _called(place, str(n + 1), one))), one, other)
    elif before != after:
        yield place, "was left out" if after is None else f"is now {str(after)[:40] or 'empty'}"


def _called(place: LostAt, key: str, value: Any) -> str:
    """What to call the thing under this key."""
    thing = _THINGS.get(place[-1][0]) if place else None
    name = value.get("name") if isinstance(value, dict) else None
    if thing == "key" and key.isdigit():
        return f"the key at frame {int(key) + 1}"
    return f"the {thing} “{str(name or key)[:60]}”" if thing else key.replace("_", " ")
