"""Rooms: a production that is open, the documents as they are now, and who is told of changes."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Container, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple, Protocol
from weakref import WeakValueDictionary

from sqlalchemy import Engine
from sqlalchemy.exc import IntegrityError

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.shapes import drawn_arts
from sorvan.core.change.writes import Write, difference, disturbs, patched
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.picture.studio import ART_MEDIA
from sorvan.service.letters.messages import Changed, Removed, StepView, ToPage, WriteView
from sorvan.service.problems import Conflict
from sorvan.service.rooms.worked_out_once import Once
from sorvan.service.who_acts import acting_name
from sorvan.store import assets, log
from sorvan.store.log import EntryKind, LogEntry, Stale, State, Step

LAG = 200
"""Changes that may stand in the log alone before the documents are written down whole again."""


class Listener(Protocol):
    """Somebody who is told of what happens in a room. Never waits, and never raises."""

    def hear(self, message: ToPage) -> None: ...


class Acknowledged(NamedTuple):
    """A change that is on disk: its number (0: there was nothing to change), what it was, and what it wrote."""

    seq: int
    label: str
    writes: tuple[Write, ...]
    undo: Step | None
    redo: Step | None


@dataclass
class Room:
    """One open production. Reading `state` is free; writing goes through one lock, one transaction at a time."""

    engine: Engine
    id: str
    state: State
    listeners: list[Listener] = field(default_factory=list)
    lock: threading.RLock = field(default_factory=threading.RLock)
    once: Once = field(default_factory=Once)
    """What its windows have in common is worked out once."""

    @property
    def documents(self) -> Documents:
        """The documents as they are now."""
        return self.state.documents

    @property
    def seq(self) -> int:
        """The number of the newest change."""
        return self.state.seq

    def join(self, listener: Listener) -> State:
        """Tell this listener of everything from now on. Gives what there is until now."""
        with self.lock:
            self.listeners.append(listener)
            return self.state

    def leave(self, listener: Listener) -> None:
        """Tell this listener no more."""
        with self.lock:
            if listener in self.listeners:
                self.listeners.remove(listener)
            if not self.listeners:
                self.once.forget()

    def submit(
        self, change: str, window: str, base: int, command: AnyCommand, *, exactly: bool = False
    ) -> Acknowledged:
        """Apply a command that was made while looking at change number `base`.

        It is carried over onto what came since if they touch other things; raises `Conflict`
        if another window touched the same. Sending the same change id twice does it once; raises `Refusal` if it
        stood for something else the first time. `exactly` says that the command is as it was sent, and not made here
        with new ids each time.
        """
        with self.lock:
            return self._retrying(lambda: self._submit(change, window, base, command, exactly))

    def _submit(self, change: str, window: str, base: int, command: AnyCommand, exactly: bool) -> Acknowledged:
        made = command.model_dump(mode="json")
        if again := self._again(change, "do", made, exactly):
            return again
        before = self.state
        if base > before.seq:
            raise Refusal(
                f"This was made while looking at change {base}, and there are only {before.seq}.",
                remedy="Load the page again, then do it again.",
                kind="conflict",
            )
        after = command.apply(before.documents)
        # What can be done can be named; what can't was refused in its own words.
        label = command.label(before.documents)
        writes = difference(before.documents, after)
        if not writes:
            return Acknowledged(0, label, (), before.undo, before.redo)
        touched = {w.document for w in writes}
        _keep_drawn(self.engine, after.only(touched))
        for kind, id in assets.lacking(self.engine, after.only(touched), before.documents.only(touched)):
            raise Refusal(f"There is no {kind} “{id[:12]}…” here.", where=label, remedy="Bring it in first.")
        if base < before.seq:
            theirs = [s for s in log.since(self.engine, self.id, base, window) if disturbs(writes, s.writes)]
            if theirs:
                raise Conflict(label, [s.label for s in theirs])
        return self._write(LogEntry(change, window, "do", label, made, writes, who=acting_name()))

    def take_back(self, change: str, window: str, expected: int) -> Acknowledged:
        """Undo change number `expected`, which must be the newest that stands."""
        with self.lock:
            return self._retrying(lambda: self._turn(change, window, "undo", self.state.undo, expected))

    def bring_back(self, change: str, window: str, expected: int) -> Acknowledged:
        """Redo change number `expected`, which must be the last undone."""
        with self.lock:
            return self._retrying(lambda: self._turn(change, window, "redo", self.state.redo, expected))

    def _turn(self, change: str, window: str, kind: EntryKind, step: Step | None, expected: int) -> Acknowledged:
        if again := self._again(change, kind, expected):
            return again
        if step is None:
            raise Refusal(f"There is nothing to {kind}.", kind="conflict")
        if step.seq != expected:
            raise Refusal(
                f"Another window did something else in the meantime: {kind} would now touch “{step.label}”.",
                remedy=f"Look at it, and press {kind} again if that is what you want.",
                kind="conflict",
            )
        writes = tuple(w.reversed() for w in reversed(step.writes)) if kind == "undo" else step.writes
        return self._write(LogEntry(change, window, kind, step.label, None, writes, step.seq, acting_name()))

    def _again(
        self, change: str, kind: EntryKind, what: Mapping[str, Any] | int, exactly: bool = True
    ) -> Acknowledged | None:
        """The answer to a change that is on disk already, as when its first answer was lost on the way. Raises
        `Refusal` if that was another command, or the turn of another change."""
        known = log.known(self.engine, self.id, change)
        if known is None:
            return None
        found, same = known
        if not exactly and isinstance(same[1], dict) and isinstance(what, Mapping):
            same, what = (same[0], same[1]["do"]), what["do"]
        if same != (kind, what):
            raise Refusal(
                f"A change with this id was made already: “{found.label}”.",
                remedy="Load the page again, then do it again.",
                kind="conflict",
            )
        if found.seq > self.seq:
            self.reload()
        return Acknowledged(found.seq, found.label, found.writes, self.state.undo, self.state.redo)

    def _write(self, entry: LogEntry) -> Acknowledged:
        # What is kept is what can be made again of the writes, and whoever reads the log will have the very same.
        # Of what is taken back or brought back all must be as it was left.
        after = patched(self.documents, entry.writes, sure=entry.kind == "do")
        after.hold_together(self.documents)
        if entry.kind != "do":
            # What an older version wrote says less than there is by now; whoever reads it, here or in the log, is told all.
            entry = replace(entry, writes=difference(self.documents, after))
        try:
            undo, redo = log.append(self.engine, self.id, self.seq, entry, after.production.name)
        except IntegrityError:
            raise Stale from None
        done = Acknowledged(self.seq + 1, entry.label, entry.writes, undo, redo)
        self._now(after, done)
        return done

    def _now(self, documents: Documents, done: Acknowledged) -> None:
        """Take up a change that is on disk, and tell of it. Nothing here can fail for want of a database."""
        self.state = replace(self.state, documents=documents, seq=done.seq, undo=done.undo, redo=done.redo)
        self.tell(changed_message(done))

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
            steps, undo, redo = log.newer(self.engine, self.id, self.seq)
            for step in steps:
                after = patched(self.documents, step.writes, sure=True)
                self._now(after, Acknowledged(step.seq, step.label, step.writes, undo, redo))

    def keep_snapshot(self, lag: int = LAG) -> None:
        """Write the documents down whole if more than so many changes stand in the log alone."""
        state = self.state
        if state.seq - state.snapshot > lag:
            log.keep_snapshot(self.engine, self.id, state)
            with self.lock:
                self.state = replace(self.state, snapshot=state.seq)

    def tell(self, message: ToPage) -> None:
        """Pass a message to every window that has this production open."""
        with self.lock:
            for listener in self.listeners:
                listener.hear(message)


def _keep_drawn(engine: Engine, after: Documents) -> None:
    """Put by the art of shapes drawn here, so that whoever looks for it finds it."""
    drawn = drawn_arts(after)
    assets.put(engine, {id: (ART_MEDIA, data) for id, data in drawn.items()})


def _gone(documents: Documents, assets: Container[str]) -> Iterator[str]:
    """What can't be shown or heard for want of its asset, in a sentence each."""
    for puppet in documents.puppets():
        for piece in puppet.pieces.values():
            for drawing in piece.drawings:
                if drawing.art in assets:
                    yield f"The puppet “{puppet.name}”: the drawing “{drawing.name}” of “{piece.name}” is gone."
        if puppet.reference and any(p in assets for p in puppet.reference.pictures):
            yield f"The puppet “{puppet.name}”: pictures laid under the work are gone."
    for voice in documents.voices():
        if voice.sound and voice.sound.asset in assets:
            yield f"The voice line “{voice.name}”: its sound is gone."


def step_view(step: Step | None) -> StepView | None:
    """What the page shows of a step that undo or redo would touch."""
    return StepView(seq=step.seq, label=step.label, who=step.who) if step else None


def write_views(writes: Iterable[Write]) -> tuple[WriteView, ...]:
    """What a change wrote, as the page takes it up."""
    return tuple(map(_view, writes))


def _view(write: Write) -> WriteView:
    # A place among others is seldom worth saying.
    told = {} if write.next is None else {"next": write.next}
    return WriteView(document=write.document, path=write.path, has=write.has, after=write.after, **told)


def changed_message(done: Acknowledged) -> Changed:
    """What windows are told of a change."""
    return Changed(seq=done.seq, writes=write_views(done.writes), undo=step_view(done.undo), redo=step_view(done.redo))


RECENT = 4
"""Rooms that stay open for a while when nobody is in them any more."""


class Rooms:
    """Every open production, by id. A room is open as long as anybody holds it: a window, a request, an errand; of those
    that nobody holds, the few that were asked for last."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self.away = False
        """Whether the database was away when it was last looked for."""
        self._rooms: WeakValueDictionary[str, Room] = WeakValueDictionary()
        self._recent: OrderedDict[str, Room] = OrderedDict()
        self._loading: dict[str, threading.Lock] = {}
        self._lock = threading.Lock()

    def room(self, id: str) -> Room:
        """The production's room, opened if need be. Raises `Refusal` if there is no such production."""
        with self._lock:
            found = self._rooms.get(id)
            loading = None if found else self._loading.setdefault(id, threading.Lock())
        if loading is not None:
            # Whoever wants another production does not wait for this one.
            with loading:
                found = self._rooms.get(id) or self._opened(id)
        assert found is not None
        self._used(found)
        return found

    def _opened(self, id: str) -> Room:
        try:
            state = log.load(self.engine, id)
            gone = _gone(state.documents, {id for _, id in assets.lacking(self.engine, state.documents)})
            found = Room(self.engine, id, replace(state, left_out=(*state.left_out, *gone)))
            with self._lock:
                self._rooms[id] = found
        finally:
            with self._lock:
                self._loading.pop(id, None)
        return found

    def _used(self, room: Room) -> None:
        with self._lock:
            if self._rooms.get(room.id) is room:
                self._recent[room.id] = room
                self._recent.move_to_end(room.id)
            while len(self._recent) > RECENT:
                self._recent.popitem(last=False)

    def close(self, id: str) -> None:
        """Forget a production that was removed, and tell its windows."""
        with self._lock:
            gone = self._rooms.pop(id, None)
            self._recent.pop(id, None)
        if gone:
            gone.tell(Removed())

    def open(self) -> list[Room]:
        """The rooms open now."""
        with self._lock:
            return list(self._rooms.values())

    def look_around(self) -> None:
        """Take up what other processes wrote to open productions, and take snapshots that are due.

        Raises if the database is away.
        """
        rooms = {room.id: room for room in self.open()}
        now = log.seqs(self.engine, rooms)
        for id, room in rooms.items():
            if id not in now:
                self.close(id)
            elif now[id] > room.seq:
                room.reload()
            room.keep_snapshot()
