"""Making films: the queue, the process that draws, and the routes to both."""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import queue
import secrets
import threading
import time
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field
from sqlalchemy import Engine

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.plan.plan import Plan
from sorvan.core.plan.scene import InMotion, Staged
from sorvan.picture.film import Format, Settings, frames_in, make, size_for
from sorvan.picture.paint import Painter
from sorvan.picture.studio import Studio
from sorvan.service.messages import RenderLetter, RenderView
from sorvan.service.problems import AWAY
from sorvan.service.rooms import Rooms
from sorvan.store import renders
from sorvan.store.renders import Render

log = logging.getLogger("sorvan")
AGAIN = 1.0
"""Seconds between tries to write down how a render ended, while the database is away."""
router = APIRouter(prefix="/api/productions/{production}/renders", tags=["renders"])


class RenderOrder(BaseModel):
    """What to render: frames as shown to users, from 1, both ends included; width in pixels."""

    motion: str
    format: Format = "mp4"
    first: Annotated[int, Field(ge=1)] | None = None
    last: Annotated[int, Field(ge=1)] | None = None
    width: Annotated[int, Field(ge=16, le=8192)] | None = None
    clear: bool = False


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
        seconds_left=seconds_left,
    )


def prepare(documents: Documents, order: RenderOrder, studio: Studio) -> tuple[Plan, Settings]:
    """The plan and the settings of an order. Raises `Refusal` if it can't be made."""
    motion = documents.motion(order.motion)
    production = documents.production
    start, stop = frames_in(motion.length, order.first, order.last)
    width, height = size_for(production.width, production.height, order.width, order.format)
    clear = order.clear and order.format == "png"
    plan = Staged.full(documents, InMotion(motion=motion.id, backdrop=not clear), studio).plan()
    return plan, Settings(order.format, start, stop, width, height, production.rate, clear)


def draw_in_process(
    plan: Plan, art: dict[str, tuple[str, bytes]], settings: Settings, target: str, pipe: Connection
) -> None:
    """Runs in a process of its own, so that drawing never slows the hand on the stage."""
    try:
        painter = Painter(lambda id: art[id][1])
        make(plan, painter, settings, Path(target), pipe.send)
        pipe.send("done")
    except Refusal as refusal:
        pipe.send(refusal.sentence())
    except Exception as error:  # noqa: BLE001 - whatever it was, the list must say that it failed
        pipe.send(f"The film could not be made: {error}")


class Renderer:
    """Makes one render after another, in the order they were asked for."""

    def __init__(self, engine: Engine, rooms: Rooms, studio: Studio, folder: Path) -> None:
        self.engine, self.rooms, self.studio, self.folder = engine, rooms, studio, folder
        self._waiting: queue.Queue[tuple[str, Plan, Settings] | None] = queue.Queue()
        self._cancelled: set[str] = set()
        self._thread = threading.Thread(target=self._work, name="renderer", daemon=True)

    def start(self) -> None:
        """Begin working."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self._thread.start()

    def stop(self) -> None:
        """End after cutting short whatever is under way."""
        self._waiting.put(None)
        self._cancelled.add("*")
        self._thread.join(timeout=10)

    def order(self, production: str, documents: Documents, order: RenderOrder) -> Render:
        """Put an order on the list."""
        plan, settings = prepare(documents, order, self.studio)
        motion = documents.motion(order.motion)
        kind = "MP4 film" if order.format == "mp4" else "PNG sequence"
        title = f"{motion.name}, frames {settings.start + 1}–{settings.stop}, {settings.width} × {settings.height} px, {kind}"
        id = secrets.token_hex(8)
        total = settings.stop - settings.start
        render = renders.add(self.engine, id, production, title, order.model_dump(), total)
        self.studio.hold(id, plan.arts())
        self._waiting.put((id, plan, settings))
        return render

    def cancel(self, id: str) -> None:
        """Stop a render that waits or runs."""
        self._cancelled.add(id)

    def _work(self) -> None:
        while (job := self._waiting.get()) is not None:
            try:
                self._make(*job)
            except Exception:  # the queue goes on whatever becomes of one render
                log.exception("render %s failed", job[0])
                self._insist(job[0], state="failed", message="It could not be written down. Start it again.")
            finally:
                self.studio.release(job[0])

    def _make(self, id: str, plan: Plan, settings: Settings) -> None:
        if id in self._cancelled:
            self._settle(id, state="cancelled")
            return
        self._settle(id, state="running")
        art = self.studio.gather(plan.arts())
        target = self.folder / f"{id}.{'mp4' if settings.format == 'mp4' else 'zip'}"
        context = multiprocessing.get_context("spawn")
        ours, theirs = context.Pipe(duplex=False)
        process = context.Process(target=draw_in_process, args=(plan, art, settings, str(target), theirs), daemon=True)
        process.start()
        theirs.close()
        outcome = ""
        try:
            outcome = self._follow(id, ours, settings.stop - settings.start)
        finally:
            if outcome != "done":
                process.terminate()
            process.join()
            if outcome != "done":
                target.unlink(missing_ok=True)
        if outcome == "done":
            self._insist(id, state="done", done=settings.stop - settings.start, file=target.name)
        else:
            cancelled = outcome == "cancelled"
            self._insist(id, state=outcome if cancelled else "failed", message="" if cancelled else outcome)

    def _follow(self, id: str, pipe: Connection, total: int) -> str:
        began, told = time.monotonic(), 0.0
        while True:
            if {id, "*"} & self._cancelled:
                return "cancelled"
            try:
                if not pipe.poll(0.1):
                    continue
                news = pipe.recv()
            except EOFError:
                return "The drawing process ended by itself. Try a smaller size."
            if isinstance(news, str):
                return news
            now = time.monotonic()
            if now - told > 0.2:
                told = now
                # Drawing goes on while nobody can be told how far it is.
                with contextlib.suppress(*AWAY):
                    self._settle(id, done=news, seconds_left=(now - began) / news * (total - news))

    def _insist(self, id: str, **values: Any) -> None:
        """Write down how a render ended, however long the database is away."""
        while "*" not in self._cancelled:
            try:
                self._settle(id, **values)
                return
            except AWAY:
                time.sleep(AGAIN)

    def _settle(self, id: str, seconds_left: float | None = None, **values: Any) -> None:
        renders.set_(self.engine, id, **values)
        try:
            render = renders.get(self.engine, id)
        except Refusal:
            # Its production was removed, and it with it: there is nobody to draw for.
            self._cancelled.add(id)
            return
        self.rooms.room(render.production).tell(RenderLetter(render=shown(render, seconds_left)))


@router.get("")
def list_renders(request: Request, production: str) -> list[RenderView]:
    """All renders of the production, the newest first."""
    return [shown(r) for r in renders.of(request.app.state.engine, production)]


@router.post("", status_code=201)
def order_render(request: Request, production: str, order: RenderOrder) -> RenderView:
    """Start a render."""
    documents = request.app.state.rooms.room(production).documents
    return shown(request.app.state.renderer.order(production, documents, order))


def _found(request: Request, production: str, render: str) -> Render:
    found = renders.get(request.app.state.engine, render)
    if found.production != production:
        raise Refusal("That render belongs to another production.", kind="missing")
    return found


@router.post("/{render}/cancel")
def cancel_render(request: Request, production: str, render: str) -> RenderView:
    """Stop a render that waits or runs."""
    found = _found(request, production, render)
    if found.state in ("waiting", "running"):
        request.app.state.renderer.cancel(render)
    return shown(found)


@router.delete("/{render}", status_code=204)
def remove_render(request: Request, production: str, render: str) -> None:
    """Take a render that is over off the list, with its file."""
    found = _found(request, production, render)
    if found.state in ("waiting", "running"):
        raise Refusal("This is still being made.", remedy="Cancel it first.", kind="conflict")
    if found.file:
        (request.app.state.renderer.folder / found.file).unlink(missing_ok=True)
    renders.remove(request.app.state.engine, render)


@router.get("/{render}/file", response_class=FileResponse)
def render_file(request: Request, production: str, render: str, download: bool = False) -> FileResponse:
    """The film or the ZIP of pictures."""
    found = _found(request, production, render)
    path = request.app.state.renderer.folder / found.file
    if found.state != "done" or not path.exists():
        raise Refusal(
            "This is not ready to be fetched.", remedy="Wait until it is done, or start it again.", kind="not-there-yet"
        )
    media = "video/mp4" if path.suffix == ".mp4" else "application/zip"
    name = f"{found.title.split(',')[0]}{path.suffix}" if download else None
    return FileResponse(path, media_type=media, filename=name)
