"""What a change wrote: the difference between two snapshots, place by place.

Writes are what the change log keeps. Undo writes the old values back; two changes disturb
each other when a place one wrote lies at, in or around a place the other wrote.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

from pydantic import BaseModel
from pydantic_core import to_jsonable_python

from sorvan.core.errors import Refusal
from sorvan.core.model.base import Value
from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.core.model.motion import Channel, Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Chain, Dial, Group, Joint, Piece, Puppet

_OPENED = (Production, Puppet, Motion, Piece, Joint, Group, Chain, Dial, Channel)
"""Models whose fields are written one by one; any other value is written whole."""


class Write(Value):
    """One place in one document, with what stood there and what stands there now.

    `path` leads from the document's root; an empty path is the whole document. A side that
    is absent (the place did not exist) has its `had_` or `has_` flag unset.
    """

    document: str
    path: tuple[str, ...]
    had: bool
    before: Any = None
    has: bool
    after: Any = None

    def reversed(self) -> Write:
        """The write that takes this one back."""
        return Write(
            document=self.document, path=self.path, had=self.has, before=self.after, has=self.had, after=self.before
        )


def difference(before: Documents, after: Documents) -> tuple[Write, ...]:
    """Every place in which two snapshots differ."""
    return tuple(_mapping_difference("", (), before.by_id, after.by_id))


def _mapping_difference(
    document: str, path: tuple[str, ...], before: Mapping[Any, Any], after: Mapping[Any, Any]
) -> Iterator[Write]:
    for key in [*before, *(k for k in after if k not in before)]:
        old, new = before.get(key), after.get(key)
        if old is new:
            continue
        where, here = (document, (*path, str(key))) if document else (str(key), ())
        yield from _value_difference(where, here, key in before, old, key in after, new)


def _value_difference(
    document: str, path: tuple[str, ...], had: bool, old: Any, has: bool, new: Any
) -> Iterator[Write]:
    if had and has and old == new:
        return
    if had and has and isinstance(old, _OPENED) and type(old) is type(new):
        fields = type(old).model_fields
        yield from _mapping_difference(
            document, path, {f: getattr(old, f) for f in fields}, {f: getattr(new, f) for f in fields}
        )
    elif had and has and isinstance(old, dict) and isinstance(new, dict):
        yield from _mapping_difference(document, path, old, new)
    else:
        yield Write(document=document, path=path, had=had, before=_plain(old), has=has, after=_plain(new))


def _plain(value: Any) -> Any:
    return value.model_dump(mode="json") if isinstance(value, BaseModel) else to_jsonable_python(value)


def patched(documents: Documents, writes: Iterable[Write]) -> Documents:
    """The snapshot with these writes made. Raises `Refusal` if a place no longer holds `before`."""
    bodies: dict[str, Any] = {}
    for write in writes:
        if write.document not in bodies:
            held = documents.by_id.get(write.document)
            bodies[write.document] = None if held is None else held.model_dump(mode="json")
        if write.path:
            _patch(bodies[write.document], documents.by_id.get(write.document), write)
        else:
            bodies[write.document] = write.after if write.has else None
    changed = {id: DOCUMENT.validate_python(body) for id, body in bodies.items() if body is not None}
    gone = [id for id, body in bodies.items() if body is None]
    return documents.with_(*changed.values()).without(*gone)


def _patch(body: Any, held: Any, write: Write) -> None:
    place = body
    for step in write.path[:-1]:
        place = place.get(step) if isinstance(place, dict) else None
    last = write.path[-1]
    if (
        not isinstance(place, dict)
        or (last in place) != write.had
        or (write.had and not _holds(_at(held, write.path), write.before))
    ):
        raise Refusal(
            "This was changed again since, so it can't be taken back by itself.",
            where="/".join((write.document, *write.path)),
            remedy="Undo the newer change first.",
            kind="conflict",
        )
    if write.has:
        place[last] = write.after
    else:
        del place[last]


def _at(held: Any, path: tuple[str, ...]) -> Any:
    """What a document holds at a path that is there."""
    for step in path:
        held = getattr(held, step) if isinstance(held, BaseModel) else {str(k): v for k, v in held.items()}[step]
    return held


def _holds(now: Any, before: Any) -> bool:
    """Whether a place holds what was written down of it. A log that an older Sorvan wrote knows
    nothing of fields that came since: those it does not name must be as they are when new."""
    if isinstance(now, BaseModel) and isinstance(before, dict):
        fields = type(now).model_fields
        return before.keys() <= fields.keys() and all(
            _holds(getattr(now, f), before[f])
            if f in before
            else getattr(now, f) == field.get_default(call_default_factory=True, validated_data={})
            for f, field in fields.items()
        )
    if isinstance(now, dict) and isinstance(before, dict):
        held = {str(key): value for key, value in now.items()}
        return held.keys() == {str(k) for k in before} and all(_holds(held[str(k)], v) for k, v in before.items())
    if isinstance(now, tuple | list) and isinstance(before, tuple | list):
        return len(now) == len(before) and all(map(_holds, now, before))
    return bool(_plain(now) == before)


def disturbs(mine: Sequence[Write], theirs: Sequence[Write]) -> bool:
    """Whether any place one wrote lies at, in or around a place the other wrote."""
    wrote: dict[str, list[tuple[str, ...]]] = {}
    for write in theirs:
        wrote.setdefault(write.document, []).append(write.path)
    return any(
        path[: len(write.path)] == write.path[: len(path)] for write in mine for path in wrote.get(write.document, ())
    )
