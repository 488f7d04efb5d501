"""Readers at work: whatever comes from outside is read in a process of its own, which may die of it."""

from __future__ import annotations

import contextlib
import logging
import math
import os
import resource
import secrets
import select
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import msgspec
from fastapi import UploadFile

from sorvan.core.errors import Refusal
from sorvan.interchange import limits
from sorvan.interchange.archive import KeepFile
from sorvan.interchange.imported import unheard
from sorvan.service.letters.messages import Importing
from sorvan.service.rooms.rooms import Room

log = logging.getLogger("sorvan")
COMMAND = (sys.executable, "-m", "sorvan.work.reading")
"""What starts a reader."""
AT_ONCE, WAITING = 2, 8
"""Readers that work at the same time, and how many more may wait for one."""
IN_PLACE = ("archive",)
"""Jobs on files that may be larger than a reader's memory."""
REMEMBERED = 64
"""Cancelled errands that are remembered until what they are about comes, or for good."""
LOOKS = 0.05
"""Seconds between looks at how much memory a reader takes."""
SILENT = 60.0
"""Seconds without a word after which a reader is ended, however little of the processor it had."""
GROWN = 192 * 1024 * 1024
"""Bytes beyond those it began with from which on a reader is not kept for the next file."""
_encode = msgspec.msgpack.Encoder().encode
_decode = msgspec.msgpack.Decoder().decode
SMALLER = "Make it simpler or smaller in the drawing program, or split it, and bring it in again."


def _kept_by_nobody(*_: object) -> None:
    raise ValueError("a reader found an asset that nobody asked for")


@dataclass
class Reader:
    """A reader's process, and what is known of it."""

    process: subprocess.Popen[bytes]
    began_with: int | None = None
    worn: bool = False
    free: bool = True
    """Whether it has answered its last order to the end."""
    room: float = math.inf
    """Bytes that it had left of the memory that it is granted when it had the fewest, since its last order."""

    @classmethod
    def start(cls, command: tuple[str, ...]) -> Reader:
        """A reader that waits for its first order."""
        # One thread is enough for sums as small as these, and more would each take room of their own.
        environment = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MALLOC_ARENA_MAX": "2"}
        process = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env={**os.environ, **environment},
        )
        return cls(process)

    def ask(self, order: Mapping[str, Any], files: Sequence[BinaryIO]) -> Iterator[dict[str, Any]]:
        """Everything the reader says to an order about files. Ends early if the reader does, or does not come on."""
        pipe = self.process.stdin
        assert pipe is not None
        self.free, self.room = False, math.inf
        where = {"lies": [_place(file) for file in files]} if order["job"] in IN_PLACE else {}
        data = _encode({**order, **where, "sizes": [_size(file) for file in files]})
        try:
            pipe.write(len(data).to_bytes(4, "big") + data)
            for file in files if not where else ():
                shutil.copyfileobj(file, pipe, 1 << 20)
            pipe.flush()
        except BrokenPipeError:
            return
        while (letter := self._next()) is not None:
            if "ready" in letter:
                if self.began_with is None:
                    self.began_with = letter["ready"]
                self.worn = letter["ready"] > self.began_with + GROWN
                self.free = True
                return
            if "size" in letter:
                letter["data"] = self._read(letter["size"])
                if letter["data"] is None:
                    break
            yield letter
        self.end()

    def _next(self) -> dict[str, Any] | None:
        self._look()
        head = self._read(4)
        data = None if head is None else self._read(int.from_bytes(head, "big"))
        if data is None:
            return None
        letter: dict[str, Any] = _decode(data)
        return letter

    def _read(self, count: int) -> bytearray | None:
        out = self.process.stdout
        assert out is not None
        found = bytearray(count)
        at, until = 0, time.monotonic() + SILENT
        while at < count:
            if not select.select([out], [], [], min(LOOKS, max(0.0, until - time.monotonic())))[0]:
                self._look()
                if time.monotonic() >= until:
                    return None
                continue
            # Past the buffer of the file, in which `select` would not see what waits.
            got = os.readv(out.fileno(), [memoryview(found)[at : at + (1 << 20)]])
            if not got:
                return None
            at += got
        return found

    def _look(self) -> None:
        """See how much of its memory it takes just now: once it is dead nobody can tell."""
        pid = self.process.pid
        with contextlib.suppress(OSError, ValueError, IndexError):
            most, _ = resource.prlimit(pid, resource.RLIMIT_AS)
            size = int(Path(f"/proc/{pid}/statm").read_text().split()[0]) * resource.getpagesize()
            # A process that is dead already has no size.
            if most != resource.RLIM_INFINITY and size:
                self.room = min(self.room, most - size)

    @property
    def alive(self) -> bool:
        """Whether it can take another order."""
        return self.free and not self.worn and self.process.poll() is None

    def end(self) -> int:
        """End it, if it still runs. Gives what it ended with, as `subprocess` does."""
        with contextlib.suppress(OSError):
            assert self.process.stdin is not None
            self.process.stdin.close()
        try:
            code = self.process.wait(0.2)
        except subprocess.TimeoutExpired:
            self.process.kill()
            code = self.process.wait()
        if self.process.stdout is not None:
            self.process.stdout.close()
        return code


@dataclass
class Readers:
    """Readers that work or wait for the next file."""

    command: tuple[str, ...] = COMMAND
    _idle: list[Reader] = field(default_factory=list)
    _busy: dict[str, Reader | None] = field(default_factory=dict)
    _stopped: bool = False
    _cancelled: dict[str, None] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _turns: threading.Semaphore = field(default_factory=lambda: threading.Semaphore(AT_ONCE))

    def read(
        self,
        order: Mapping[str, Any],
        files: Sequence[UploadFile],
        names: Sequence[str] | None = None,
        progress: Callable[[float], None] = unheard,
        errand: str | None = None,
        keep: KeepFile = _kept_by_nobody,
    ) -> dict[str, Any]:
        """What a reader finds in files: `order` says what is wanted (see `sorvan.work.reading`), `names` what they are
        called if not by their own names, `errand` what this can be cancelled by, `keep` takes the assets that are found
        on the way.

        Raises `Refusal` for whatever it can't read, for what it takes too long or too much memory for, and if it is
        cancelled.
        """
        errand = errand or secrets.token_hex(8)
        names = names or [f.filename or "file" for f in files]
        with self._lock:
            if len(self._busy) >= AT_ONCE + WAITING or errand in self._busy:
                raise Refusal(
                    "Too much is being brought in at the same time.",
                    remedy="Wait a moment, then try again.",
                    kind="busy",
                )
            self._busy[errand] = None
        try:
            while not self._turns.acquire(timeout=0.2):
                self._go_on(errand, names[0])
            try:
                self._go_on(errand, names[0])
                return self._done({**order, "names": names}, [f.file for f in files], progress, errand, keep)
            finally:
                self._turns.release()
        finally:
            with self._lock:
                self._busy.pop(errand, None)
                self._cancelled.pop(errand, None)

    def cancel(self, errand: str) -> None:
        """End the reader that is on this errand; if none is yet, as while its files still arrive, none will be."""
        with self._lock:
            self._cancelled[errand] = None
            while len(self._cancelled) > REMEMBERED:
                del self._cancelled[next(iter(self._cancelled))]
            reader = self._busy.get(errand)
        if reader is not None:
            reader.process.kill()

    def _go_on(self, errand: str, name: str) -> None:
        """Raises `Refusal` if the errand is cancelled."""
        if errand in self._cancelled:
            raise Refusal("Bringing it in was cancelled.", where=name, remedy="Nothing was changed.", kind="cancelled")

    def stop(self) -> None:
        """End them all."""
        with self._lock:
            self._stopped = True
            idle, self._idle = self._idle, []
            busy = list(self._busy)
        for errand in busy:
            self.cancel(errand)
        for reader in idle:
            reader.end()

    def _done(
        self,
        order: Mapping[str, Any],
        files: Sequence[BinaryIO],
        progress: Callable[[float], None],
        errand: str,
        keep: KeepFile,
    ) -> dict[str, Any]:
        name = order["names"][0]
        reader = self._taken(errand)
        last: dict[str, Any] = {}
        try:
            for last in reader.ask(order, files):
                if "part" in last:
                    progress(last["part"])
                elif "asset" in last:
                    id, media = last["asset"]
                    keep(id, media, last["data"])
        finally:
            with self._lock:
                kept = reader.alive and errand not in self._cancelled
                if kept:
                    self._idle.append(reader)
            code = None if kept else reader.end()
            if code is not None and code != 0:
                self._ready_again()
        self._go_on(errand, name)
        if "found" in last:
            found: dict[str, Any] = last["found"]
            return found
        raise _no(name, last, code, reader.room < limits.MEMORY / 2)

    def _ready_again(self) -> None:
        """Start the next reader while nobody waits for it yet."""
        with self._lock:
            if not self._stopped and len(self._idle) < AT_ONCE:
                self._idle.append(Reader.start(self.command))

    def _taken(self, errand: str) -> Reader:
        """A reader for an errand: one that waits, or a new one."""
        with self._lock:
            self._idle = [r for r in self._idle if r.alive]
            reader = self._idle.pop(0) if self._idle else None
        reader = reader or Reader.start(self.command)
        with self._lock:
            self._busy[errand] = reader
            if errand in self._cancelled:
                reader.process.kill()
        return reader


def along(room: Room, window: str) -> Callable[[float], None]:
    """Tells a window of a production how far what it brings in has come."""
    told = [0.0]

    def progress(part: float) -> None:
        if part - told[0] >= 0.02:
            told[0] = part
            room.tell(Importing(window=window, part=round(part, 3)))

    return progress


def _place(file: BinaryIO) -> str:
    """Where another process of this machine finds an open file, whether it has a name or not."""
    if isinstance(file, tempfile.SpooledTemporaryFile):
        file.rollover()
    file.flush()
    return f"/proc/{os.getpid()}/fd/{file.fileno()}"


def _size(file: BinaryIO) -> int:
    size = file.seek(0, os.SEEK_END)
    file.seek(0)
    return size


def _no(name: str, last: dict[str, Any], code: int | None, full: bool) -> Refusal:
    """Why nothing was found, from the reader's last words, how it ended, and whether it was getting `full`."""
    if "refused" in last:
        why = last["refused"]
        return Refusal(why["what"], where=why["where"], remedy=why["remedy"], kind=why["kind"])
    # A library that is refused memory mostly does not say so, but ends where it is.
    if "memory" in last or (full and code in (-signal.SIGABRT, -signal.SIGSEGV, -signal.SIGBUS, -signal.SIGTRAP)):
        return Refusal(
            f"Reading it takes more than the {limits.MEMORY >> 20} MB of memory that it may take.",
            where=name,
            remedy=SMALLER,
            kind="too-large",
        )
    if code in (-signal.SIGPROF, -signal.SIGXCPU, -signal.SIGKILL):
        how = (
            f"takes more than {limits.LONGEST} seconds"
            if code == -signal.SIGXCPU
            else f"got no further for {limits.STANDSTILL} seconds"
        )
        return Refusal(
            f"Reading it {how}, and was given up.",
            where=name,
            remedy=SMALLER,
            kind="too-large",
        )
    mark = secrets.token_hex(4)
    log.error("reading %r failed (%s, ended with %s): %s", name, mark, code, last.get("fault", "the reader died"))
    what = "something in it is not as it should be" if code is None else "it broke the reader, or takes too much memory"
    return Refusal(
        f"It can't be read: {what}.",
        where=name,
        remedy=f"Save it anew and bring it in again. Nothing was changed. The log of the service has more under {mark}.",
        kind="damaged",
    )
