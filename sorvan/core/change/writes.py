"""What a change wrote: the difference between two snapshots, place by place.

Writes are what the change log keeps. Undo writes the old values back; two changes disturb
each other when a place one wrote lies at, in or around a place the other wrote.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import pairwise
from typing import Any

from pydantic import BaseModel
from pydantic_core import to_jsonable_python

from sorvan.core.errors import Refusal
from sorvan.core.model.base import Value
from sorvan.core.model.channel import Channel
from sorvan.core.model.documents import Documents
from sorvan.core.model.mending import document
from sorvan.core.model.motion import Motion, Plant
from sorvan.core.model.production import Production, Swatch
from sorvan.core.model.puppet import (
    Bend,
    BendSheet,
    Chain,
    Correction,
    Dial,
    Drawing,
    Group,
    Joint,
    Limits,
    Mark,
    Morph,
    MouthChart,
    Piece,
    Puppet,
    Reference,
)
from sorvan.core.model.recipe import RecipeBase
from sorvan.core.model.shot import Camera, Close, Copies, Heard, Join, Member, Shake, Shot, Span, Travel
from sorvan.core.model.voice import Chart, Placed, Voice

_OPENED = (
    Production, Swatch, Puppet, Piece, Drawing, Correction, Morph, Mark, Bend, BendSheet, Joint, Limits, Group, Chain, Dial,
    MouthChart, Reference, Motion, Channel, Plant, RecipeBase, Voice, Chart, Placed, Shot, Member, Copies, Camera, Span,
    Travel, Heard, Shake, Join, Close,
)  # fmt: skip
"""Models whose fields are written one by one, as they are changed; any other value is written whole."""


class Write(Value):
    """One place in one document, with what stood there and what stands there now.

    `path` leads from the document's root; an empty path is the whole document. A side that
    is absent (the place did not exist) has its `had_` or `has_` flag unset. What comes or goes among others stands
    before the one named `next`; last, if there is none or that is gone.
    """

    document: str
    path: tuple[str, ...]
    had: bool
    before: Any = None
    has: bool
    after: Any = None
    next: str | None = None

    def reversed(self) -> Write:
        """The write that takes this one back."""
        return Write(
            document=self.document,
            path=self.path,
            had=self.has,
            before=self.after,
            has=self.had,
            after=self.before,
            next=self.next,
        )


def difference(before: Documents, after: Documents) -> tuple[Write, ...]:
    """Every place in which two snapshots differ."""
    return tuple(_mapping_difference("", (), before.by_id, after.by_id))


def _mapping_difference(
    document: str, path: tuple[str, ...], before: Mapping[Any, Any], after: Mapping[Any, Any]
) -> Iterator[Write]:
    then = _then(before, after)
    for key in [*before, *(k for k in after if k not in before)]:
        old, new = before.get(key), after.get(key)
        if old is new:
            continue
        where, here = (document, (*path, str(key))) if document else (str(key), ())
        yield from _value_difference(where, here, key in before, old, key in after, new, then.get(key))


def _then(before: Mapping[Any, Any], after: Mapping[Any, Any]) -> Mapping[Any, str]:
    """Before which each entry stands that comes or goes, unless last. Entries that come are made in their order, so that
    they stand before one that stays; those that go are brought back from the last to the first, so that each stands
    before the one that did. What is filed by numbers is always in their order."""
    if before.keys() == after.keys() or isinstance(next(iter(before or after), None), int):
        return {}
    found: dict[Any, str] = {}
    stays = None
    for key in reversed(after):
        if key in before:
            stays = str(key)
        elif stays is not None:
            found[key] = stays
    found |= {key: str(later) for key, later in pairwise(before) if key not in after}
    return found


def _value_difference(
    document: str, path: tuple[str, ...], had: bool, old: Any, has: bool, new: Any, then: str | None
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
        yield Write(document=document, path=path, had=had, before=_plain(old), has=has, after=_plain(new), next=then)


def _plain(value: Any) -> Any:
    return value.model_dump(mode="json") if isinstance(value, BaseModel) else to_jsonable_python(value)


def patched(documents: Documents, writes: Iterable[Write], sure: bool = False) -> Documents:
    """The snapshot with the writes of one change made. Only what they touch is made anew and checked.

    Raises `Refusal` if a place no longer holds `before`; `sure` takes it for granted that all do.
    """
    branches: dict[str, Branch] = {}
    whole: dict[str, Write] = {}
    for write in writes:
        if write.path:
            _hang(branches.setdefault(write.document, {}), write)
        else:
            whole[write.document] = write
    made = [_rebuilt(_held(documents, id), branch, sure) for id, branch in branches.items()]
    for id, write in whole.items():
        if not sure and not _stands(write, id in documents.by_id, documents.by_id.get(id)):
            raise _since_changed(write)
    by_id = {**documents.by_id, **{d.id: d for d in made}}
    if whole:
        by_id = _written(by_id, {id: (w, document(w.after) if w.has else None) for id, w in whole.items()})
    return Documents(by_id)


def replayed(bodies: dict[str, Any], writes: Iterable[Write]) -> None:
    """Make writes in documents as they lie on disk, by their id; nothing is looked at, so that what stands there may be
    unsound."""
    for write in writes:
        at: Any = bodies
        way = (write.document, *write.path)
        for step in way[:-1]:
            if not isinstance(at, dict) or step not in at:
                break
            at = at[step]
        else:
            if not isinstance(at, dict):
                continue
            entries = _written(at, {way[-1]: (write, write.after)})
            if entries is not at:
                at.clear()
                at.update(entries)


Branch = dict[str, "Branch | Write"]


def _hang(branch: Branch, write: Write) -> None:
    for step in write.path[:-1]:
        below = branch.setdefault(step, {})
        assert isinstance(below, dict)
        branch = below
    branch[write.path[-1]] = write


def _held(documents: Documents, id: str) -> Any:
    if id not in documents.by_id:
        raise Refusal("What was changed is gone.", where=id, kind="missing")
    return documents.by_id[id]


def _rebuilt(held: Any, branch: Branch, sure: bool) -> Any:
    """What a place holds, with the writes in and under it made."""
    if isinstance(held, Value):
        fields = {name: getattr(held, name) for name in branch if name in type(held).model_fields}
        return held.changed(**_rewritten(fields, branch, sure))
    if not isinstance(held, dict):
        raise _since_changed(_first(branch))
    return _rewritten(held, branch, sure)


def _rewritten(held: Mapping[Any, Any], branch: Branch, sure: bool) -> dict[Any, Any]:
    new: dict[Any, Any] = dict(held)
    entries: dict[Any, tuple[Write, Any]] = {}
    numbered = isinstance(next(iter(held), None), int)
    for step, below in branch.items():
        key = int(step) if numbered else step
        if isinstance(below, dict):
            if key not in held:
                raise _since_changed(_first(below))
            new[key] = _rebuilt(held[key], below, sure)
            continue
        if not sure and not _stands(below, key in held, held.get(key)):
            raise _since_changed(below)
        entries[key] = (below, below.after)
    return _written(new, entries)


def _written(held: dict[Any, Any], writes: Mapping[Any, tuple[Write, Any]]) -> dict[Any, Any]:
    """Entries with these written into them, one after the other; what comes stands before the one that its write names,
    and only for that they are laid anew."""
    ahead: dict[Any, list[Any]] = {}
    for key, (write, value) in writes.items():
        if not write.has:
            held.pop(key, None)
            continue
        if key not in held and write.next in held:
            ahead.setdefault(write.next, []).append(key)
        held[key] = value
    if not ahead:
        return held
    placed: dict[Any, Any] = {}
    late = {key for keys in ahead.values() for key in keys}
    for begin in held:
        # What stands ahead of it may itself have something ahead.
        waiting = [] if begin in late else [begin]
        while waiting:
            key = waiting.pop()
            if before := ahead.pop(key, None):
                waiting += [key, *reversed(before)]
            else:
                placed[key] = held[key]
    return placed


def _first(branch: Branch) -> Write:
    below = next(iter(branch.values()))
    return _first(below) if isinstance(below, dict) else below


def _stands(write: Write, there: bool, now: Any) -> bool:
    return there == write.had and (not write.had or _holds(now, write.before))


def _since_changed(write: Write) -> Refusal:
    return Refusal(
        "This was changed again since, so it can't be taken back by itself.",
        where="/".join((write.document, *write.path)),
        remedy="Undo the newer change first.",
        kind="conflict",
    )


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
