"""Ordering films, following how far they are, and fetching them. Workers draw them."""

from __future__ import annotations

import os
import secrets
import subprocess
import sys
import time
from datetime import UTC, datetime
from fractions import Fraction
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse
from sqlalchemy import Engine

from sorvan.core.errors import Refusal
from sorvan.core.model.base import Value
from sorvan.core.timing.rates import per_second
from sorvan.picture.film import joined
from sorvan.picture.formats import BY_ENDING, FORMATS
from sorvan.picture.order import RenderOrder, stretches
from sorvan.picture.sound import flac, samples_of, wav
from sorvan.service.letters.messages import RenderLetter, RenderView
from sorvan.service.rooms.rooms import Rooms
from sorvan.store import assets, renders
from sorvan.store.renders import Render, Stretch

router = APIRouter(prefix="/api/productions/{production}/renders", tags=["renders"])
FOLLOW = 0.3
"""Seconds between looks at how far renders are."""


def shown(render: Render, seconds_left: float | None = None) -> RenderView:
    """A render as the page shows it."""
    return RenderView(
        id=render.id,
        title=render.title,
        state=render.state,
        done=render.done,
        total=render.total,
        message=render.message,
        settings=render.settings,
        ready=render.state == "done",
        at=render.at.isoformat(),
        place=render.place,
        seconds_left=seconds_left,
    )


def ordered(engine: Engine, rooms: Rooms, production: str, order: RenderOrder) -> Render:
    """Put an order on the list, in parts that workers take. Raises `Refusal` if it can't be made."""
    documents = rooms.room(production).documents
    settings = order.settings(documents)
    size = "" if order.alone else f", {settings.width} × {settings.height} px"
    first, stop = order.range_of(documents)
    pace = (
        f", {float(per_second(order.rate)):g} a second"
        if order.rate and order.rate != documents.production.rate
        else ""
    )
    title = f"{order.name(documents)}, frames {first + 1}–{stop}{size}{pace}, {FORMATS[order.format].called}"
    heard = order.heard(documents, lambda id: assets.get(engine, id)[1])
    sound = flac(heard) if heard is not None else None
    render = Render(
        id=secrets.token_hex(8),
        production=production,
        title=title,
        settings=order.model_dump(),
        # A sound is mixed as it is ordered: there is nothing left to draw.
        state="done" if order.alone else "waiting",
        done=settings.stop - settings.start if order.alone else 0,
        total=settings.stop - settings.start,
        message="",
        file="",
        at=datetime.now(UTC),
    )
    cut = [] if order.alone else stretches(settings)
    parts = [Stretch(n, start, stop) for n, (start, stop) in enumerate(cut)]
    return renders.add(engine, render, order.needed(documents), parts, sound)


class Follower:
    """Tells windows how far renders are, whoever draws them; sees to it that somebody does.

    The service has workers of its own, as many as there are cores to spare, started by `command` as soon as there
    is something to draw, and again should they die; without a command others are trusted to come.
    """

    def __init__(self, engine: Engine, rooms: Rooms, command: tuple[str, ...] | None, count: int | None = None) -> None:
        self.engine, self.rooms, self.command = engine, rooms, command
        # One core is left to answer whoever works on.
        self.count = count if count is not None else max((os.cpu_count() or 2) - 1, 1)
        self._told: dict[str, Render] = {}
        self._began: dict[str, tuple[float, int]] = {}
        self._workers: list[subprocess.Popen[bytes]] = []

    def look(self) -> None:
        """Tell what is new since the last look."""
        found = renders.under_way(self.engine, tuple(self._told))
        if any(not r.over for r in found):
            self._have_workers()
        for render in found:
            if self._told.get(render.id) != render:
                self._tell(render)
        self._told = {r.id: r for r in found if not r.over}
        self._began = {id: began for id, began in self._began.items() if id in self._told}

    def _tell(self, render: Render) -> None:
        now = time.monotonic()
        at, before = self._began.setdefault(render.id, (now, render.done)) if render.done else (now, 0)
        speed = (render.done - before) / max(now - at, 1e-3)
        left = (render.total - render.done) / speed if render.done > before and not render.over else None
        for room in self.rooms.open():
            if room.id == render.production:
                room.tell(RenderLetter(render=shown(render, left)))

    def _have_workers(self) -> None:
        if self.command is None:
            return
        self._workers = [w for w in self._workers if w.poll() is None]
        while len(self._workers) < self.count:
            # It ends when this end of its standard input is closed, however this process ends.
            self._workers.append(subprocess.Popen(self.command, stdin=subprocess.PIPE))

    def stop(self) -> None:
        """Let the workers end. What they have drawn is kept."""
        for worker in self._workers:
            if worker.stdin is not None:
                worker.stdin.close()
        for worker in self._workers:
            worker.wait(timeout=20)


OWN_WORKER = (sys.executable, "-m", "sorvan.cli", "worker", "--with-parent")


def _rate_of(engine: Engine, render: Render, order: RenderOrder) -> Fraction | None:
    """Pictures a second of a render; None for one that was made before this was kept."""
    if order.rate is not None:
        return per_second(order.rate)
    held = renders.documents_to_draw(engine, render.id)
    return per_second(held.production.rate) if held.by_id else None


def file_of(engine: Engine, folder: Path, render: Render) -> Path:
    """The film or the ZIP of pictures of a render that is done; put together when it is first wanted."""
    order = RenderOrder.model_validate(render.settings)
    path = folder / (render.file or f"{render.id}{FORMATS[order.format].ending}")
    if render.state == "done" and not render.file and not path.exists():
        folder.mkdir(parents=True, exist_ok=True)
        making = path.with_suffix(f".{secrets.token_hex(4)}")
        try:
            sound = renders.sound(engine, render.id)
            heard = samples_of(sound) if sound is not None else None
            if order.alone:
                wav(samples_of(renders.sound(engine, render.id) or b""), str(making))
            else:
                joined(renders.parts(engine, render.id), order.format, _rate_of(engine, render, order), making, heard)
            making.replace(path)
        finally:
            making.unlink(missing_ok=True)
    if render.state != "done" or not path.exists():
        raise Refusal(
            "This is not ready to be fetched.", remedy="Wait until it is done, or start it again.", kind="not-there-yet"
        )
    return path


@router.get("")
def list_renders(request: Request, production: str) -> list[RenderView]:
    """All renders of the production, the newest first."""
    return [shown(r) for r in renders.of(request.app.state.engine, production)]


@router.post("", status_code=201)
def order_render(request: Request, production: str, order: RenderOrder) -> RenderView:
    """Start a render."""
    return shown(ordered(request.app.state.engine, request.app.state.rooms, production, order))


def _found(request: Request, production: str, render: str) -> Render:
    found = renders.get(request.app.state.engine, render)
    if found.production != production:
        raise Refusal("That render belongs to another production.", kind="missing")
    return found


@router.post("/{render}/cancel")
def cancel_render(request: Request, production: str, render: str) -> RenderView:
    """Stop a render that waits or runs."""
    _found(request, production, render)
    renders.end(request.app.state.engine, render, "cancelled")
    return shown(renders.get(request.app.state.engine, render))


@router.post("/{render}/again")
def take_up_render(request: Request, production: str, render: str) -> RenderView:
    """Let a render that was cancelled, or failed, go on with what is still to be drawn."""
    _found(request, production, render)
    renders.take_up(request.app.state.engine, render)
    return shown(renders.get(request.app.state.engine, render))


class BeforeRender(Value):
    """The render before which another is to be drawn; the last of all, if there is none."""

    before: str | None = None


@router.post("/{render}/turn", status_code=204)
def order_renders(request: Request, production: str, render: str, turn: BeforeRender) -> None:
    """Let a render that waits be drawn sooner or later."""
    _found(request, production, render)
    renders.put_before(request.app.state.engine, render, turn.before)


@router.delete("/{render}", status_code=204)
def remove_render(request: Request, production: str, render: str) -> None:
    """Take a render that is over off the list, with its file."""
    found = _found(request, production, render)
    if not found.over:
        raise Refusal("This is still being made.", remedy="Cancel it first.", kind="conflict")
    for ending in BY_ENDING:
        (request.app.state.films / f"{render}{ending}").unlink(missing_ok=True)
    renders.remove(request.app.state.engine, render)


@router.get("/{render}/file", response_class=FileResponse)
def render_file(request: Request, production: str, render: str, download: bool = False) -> FileResponse:
    """The film or the ZIP of pictures."""
    found = _found(request, production, render)
    path = file_of(request.app.state.engine, request.app.state.films, found)
    media = FORMATS[BY_ENDING[path.suffix]].media
    name = f"{found.title.split(',')[0]}{path.suffix}" if download else None
    return FileResponse(path, media_type=media, filename=name)
