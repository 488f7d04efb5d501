"""Rooms: a production that is open, the documents as they are now, and who is told of changes."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import Engine
from sqlalchemy.exc import IntegrityError

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.shapes import drawn_arts
from sorvan.core.change.writes import Write, difference, disturbs, patched
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.problems import Conflict
from sorvan.store import assets, log
from sorvan.store.log import Entry, Kind, Stale, Step

Message = dict[str, Any]
Listener = Callable[[Message], None]


@dataclass(frozen=True)
class Acknowledged:
    """A change that is on disk: its number, what it was, and the documents it wrote."""

    seq: int
    label: str
    changed: tuple[Any, ...] = ()
    removed: tuple[str, ...] = ()


@dataclass
class Room:
    """One open production. Reading is free; writing goes through one lock, one transaction at a time."""

    engine: Engine
    id: str
    documents: Documents
    seq: int
    undo: Step | None = None
    redo: Step | None = None
    listeners: set[Listener] = field(default_factory=set)
    lock: threading.RLock = field(default_factory=threading.RLock)

    def submit(self, change: str, window: str, base: int, command: AnyCommand) -> Acknowledged:
        """Apply a command that was made while looking at change number `base`.

        It is carried over onto what came since if they touch other things; raises `Conflict`
        if another window touched the same. Sending the same change id twice does it once.
        """
        with self.lock:
            return self._retrying(lambda: self._submit(change, window, base, command))

    def _submit(self, change: str, window: str, base: int, command: AnyCommand) -> Acknowledged:
        before = log.known(self.engine, self.id, change)
        if before is not None:
            return Acknowledged(*before, changed=tuple(self.documents.by_id.values()))
        label = command.label(self.documents)
        after = command.apply(self.documents)
        writes = difference(self.documents, after)
        if not writes:
            return Acknowledged(self.seq, label)
        _keep_drawn(self.engine, after, writes)
        if base < self.seq:
            theirs = [s for s in log.since(self.engine, self.id, base, window) if disturbs(writes, s.writes)]
            if theirs:
                raise Conflict(label, [s.label for s in theirs])
        return self._write(change, window, "do", label, command.model_dump(mode="json"), writes, after, None)

    def take_back(self, change: str, window: str, expected: int) -> Acknowledged:
        """Undo change number `expected`, which must be the newest that stands."""
        with self.lock:
            return self._retrying(lambda: self._turn(change, window, "undo", self.undo, expected))

    def bring_back(self, change: str, window: str, expected: int) -> Acknowledged:
        """Redo change number `expected`, which must be the last undone."""
        with self.lock:
            return self._retrying(lambda: self._turn(change, window, "redo", self.redo, expected))

    def _turn(self, change: str, window: str, kind: Kind, step: Step | None, expected: int) -> Acknowledged:
        before = log.known(self.engine, self.id, change)
        if before is not None:
            return Acknowledged(*before, changed=tuple(self.documents.by_id.values()))
        if step is None:
            raise Refusal(f"There is nothing to {kind}.", kind="conflict")
        if step.seq != expected:
            raise Refusal(
                f"Another window did something else in the meantime: {kind} would now touch “{step.label}”.",
                remedy=f"Look at it, and press {kind} again if that is what you want.",
                kind="conflict",
            )
        writes = tuple(w.reversed() for w in reversed(step.writes)) if kind == "undo" else step.writes
        after = patched(self.documents, writes)
        return self._write(change, window, kind, step.label, None, writes, after, step.seq)

    def _write(
        self,
        change: str,
        window: str,
        kind: Kind,
        label: str,
        command: dict[str, Any] | None,
        writes: tuple[Write, ...],
        after: Documents,
        target: int | None,
    ) -> Acknowledged:
        entry = Entry(change, window, kind, label, command, writes, target)
        try:
            seq = log.append(self.engine, self.id, self.seq, entry, after)
        except IntegrityError:
            raise Stale from None
        self._now(after, seq, {w.document for w in writes})
        ids = sorted({w.document for w in writes})
        changed = tuple(after.by_id[id] for id in ids if id in after.by_id)
        removed = tuple(id for id in ids if id not in after.by_id)
        return Acknowledged(seq, label, changed, removed)

    def _retrying(self, work: Callable[[], Acknowledged]) -> Acknowledged:
        """Do it on what is on disk, should another process have written in the meantime."""
        for _ in range(5):
            try:
                return work()
            except Stale:
                self.reload()
        raise Refusal("Too much is being changed at once.", remedy="Try again in a moment.", kind="conflict")

    def reload(self) -> None:
        """Take up what another process wrote."""
        with self.lock:
            documents, seq = log.load(self.engine, self.id)
            written = {w.document for w in difference(self.documents, documents)}
            self._now(documents, seq, written)

    def _now(self, documents: Documents, seq: int, written: set[str]) -> None:
        self.documents, self.seq = documents, seq
        self.undo, self.redo = log.can_undo(self.engine, self.id), log.can_redo(self.engine, self.id)
        self.tell(
            {
                "type": "changed",
                "seq": seq,
                "changed": [
                    documents.by_id[id].model_dump(mode="json") for id in sorted(written) if id in documents.by_id
                ],
                "removed": sorted(id for id in written if id not in documents.by_id),
                "undo": step_message(self.undo),
                "redo": step_message(self.redo),
            }
        )

    def tell(self, message: Message) -> None:
        """Pass a message to every window that has this production open."""
        for listener in list(self.listeners):
            listener(message)


def _keep_drawn(engine: Engine, after: Documents, writes: tuple[Write, ...]) -> None:
    """Put by the art of shapes drawn here, so that whoever looks for it finds it."""
    touched = {w.document for w in writes}
    drawn = drawn_arts(Documents({id: d for id, d in after.by_id.items() if id in touched}))
    assets.put(engine, {id: (ART_MEDIA, data) for id, data in drawn.items()})


def step_message(step: Step | None) -> Message | None:
    """What the page shows of an undoable step."""
    return {"seq": step.seq, "label": step.label} if step else None


class Rooms:
    """Every open production, by id."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._rooms: dict[str, Room] = {}
        self._lock = threading.Lock()

    def room(self, id: str) -> Room:
        """The production's room, opened if need be. Raises `Refusal` if there is no such production."""
        with self._lock:
            found = self._rooms.get(id)
            if found is None:
                documents, seq = log.load(self.engine, id)
                undo, redo = log.can_undo(self.engine, id), log.can_redo(self.engine, id)
                found = self._rooms[id] = Room(self.engine, id, documents, seq, undo, redo)
            return found

    def close(self, id: str) -> None:
        """Forget a production that was removed, and tell its windows."""
        with self._lock:
            gone = self._rooms.pop(id, None)
        if gone:
            gone.tell({"type": "removed"})

    def open(self) -> list[Room]:
        """The rooms open now."""
        with self._lock:
            return list(self._rooms.values())

    def look_around(self) -> None:
        """Take up what other processes wrote to open productions. Raises if the database is away."""
        rooms = {room.id: room for room in self.open()}
        now = log.seqs(self.engine, rooms)
        for id, room in rooms.items():
            if id not in now:
                self.close(id)
            elif now[id] != room.seq:
                room.reload()
