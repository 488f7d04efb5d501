"""The application: everything put together."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator, Callable
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request, Response
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine, text

from sorvan.core.errors import Refusal
from sorvan.picture.studio import Studio
from sorvan.service.access import LOOPBACK, OwnPagesOnly, PlainPaths, WithHeads
from sorvan.service.heavy import Turns
from sorvan.service.letters.messages import FROM_PAGE, TO_PAGE, DatabaseLetter
from sorvan.service.problems import install, problem
from sorvan.service.readers import Readers
from sorvan.service.request_limits import Bounded
from sorvan.service.rooms.aligners import Aligners
from sorvan.service.rooms.rooms import Rooms
from sorvan.service.routes import (
    art,
    film_on_paper,
    live,
    morphs,
    overview,
    parting,
    people,
    productions,
    proposals,
    renders,
    reusing,
    shelf,
    touching_up,
    turns,
    voices,
)
from sorvan.service.routes.exchanged import Exchanged
from sorvan.service.routes.renders import FOLLOW, OWN_WORKER, Follower
from sorvan.service.signing_in import PasswordTries, SignedInOnly
from sorvan.store import assets
from sorvan.store.database import AWAY
from sorvan.store.sweep import sweep_assets, sweep_films

log = logging.getLogger("sorvan")
SOON = 0.7
"""Seconds in which the database must answer to count as here."""
SWEEP = 3600.0
"""Seconds between sweeps."""
LOOK_AROUND = 1.0
"""Seconds between looks at the database: whether it is there, and what other processes wrote."""

ROUTERS = (
    people.router,
    productions.router,
    overview.router,
    film_on_paper.router,
    art.router,
    morphs.router,
    turns.router,
    proposals.router,
    shelf.router,
    reusing.router,
    parting.router,
    touching_up.router,
    voices.router,
    renders.router,
    live.router,
)
PAGE_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; style-src 'self' 'unsafe-inline'; "
    "script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'; object-src 'none'; frame-ancestors 'none'; base-uri 'none'"
)


class Health(Exchanged):
    """Whether the database answers."""

    database: bool


def create_app(
    engine: Engine,
    home: Path,
    page: Path | None = None,
    hosts: tuple[str, ...] = LOOPBACK,
    worker: tuple[str, ...] | None = OWN_WORKER,
    revive: Callable[[], object] | None = None,
    sign_in: bool = False,
) -> FastAPI:
    """The service on a database, putting films together under `home`, serving the built page.

    `worker` is the command that starts a render worker of its own; `revive` starts the database again where that is in
    our hands. With `sign_in` only those are answered who are signed in, and only of what they may see.
    """
    rooms = Rooms(engine)
    studio = Studio(lambda id: assets.get(engine, id)[1], forgiving=True)
    follower = Follower(engine, rooms, worker)
    aligners, readers = Aligners(), Readers()

    @contextlib.asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        tending = (_look_around(rooms, revive), _follow(follower), _sweep(engine, home / "renders"))
        watch = [asyncio.create_task(work) for work in tending]
        yield
        for task in watch:
            task.cancel()
        await asyncio.to_thread(aligners.stop)
        await asyncio.to_thread(readers.stop)
        await asyncio.to_thread(follower.stop)

    app = FastAPI(title="Sorvan", version="1", lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.engine, app.state.rooms, app.state.films = engine, rooms, home / "renders"
    app.state.studio, app.state.pictures = studio, overview.SmallPictures()
    app.state.aligners, app.state.readers, app.state.turns = aligners, readers, Turns()
    app.state.sign_in, app.state.tries = sign_in, PasswordTries()
    # Those of the routers as they are written down, in the order in which they are tried.
    app.state.routes = routes = [route for router in ROUTERS for route in router.routes]
    app.add_middleware(Bounded)
    if sign_in:
        app.add_middleware(SignedInOnly, engine=engine, routes=routes)
    app.add_middleware(OwnPagesOnly, hosts=hosts)
    app.add_middleware(WithHeads)
    app.add_middleware(PlainPaths)
    install(app)
    for router in ROUTERS:
        app.include_router(router)

    pulse = _Pulse(engine)

    @app.get("/api/health", tags=["health"])
    async def health() -> Health:
        """Whether the database answers. Told within a second, whatever the database does."""
        return Health(database=await pulse.felt())

    @app.middleware("http")
    async def careful(request: Request, call_next):  # type: ignore[no-untyped-def]
        response: Response = await call_next(request)
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Content-Security-Policy", PAGE_POLICY)
        response.headers.setdefault("Referrer-Policy", "no-referrer")
        response.headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
        if request.url.path.startswith("/assets/") and response.status_code == 200:
            # What a file of the page is called says what is in it.
            response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response

    if page is not None and page.exists():
        _serve_page(app, page)
    routes += app.routes
    _tell_of_letters(app)
    return app


def _tell_of_letters(app: FastAPI) -> None:
    """Put the letters of the live socket into the OpenAPI document, beside what HTTP carries."""
    plain = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            found = plain()
            for name, letters in (("FromPage", FROM_PAGE), ("ToPage", TO_PAGE)):
                schema = letters.json_schema(ref_template="#/components/schemas/{model}")
                schemas = found["components"]["schemas"]
                schemas |= {k: v for k, v in schema.pop("$defs", {}).items() if k not in schemas}
                schemas[name] = schema
        return app.openapi_schema or {}

    app.openapi = openapi  # type: ignore[method-assign]


def _serve_page(app: FastAPI, page: Path) -> None:
    app.mount("/assets", StaticFiles(directory=page / "assets"), name="page-assets")

    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def unknown(path: str) -> JSONResponse:
        return problem(404, f"There is nothing at /api/{path}.", kind="missing", remedy="Check the address.")

    @app.get("/{path:path}", include_in_schema=False)
    def index(path: str) -> FileResponse:
        named = (page / path).resolve()
        if path and named.is_file() and named.is_relative_to(page.resolve()):
            return FileResponse(named)
        return FileResponse(page / "index.html", headers={"Cache-Control": "no-cache"})


class _Pulse:
    """Looks whether the database answers, one look at a time."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self.looking: asyncio.Task[bool] | None = None

    async def felt(self) -> bool:
        """Whether it answers soon."""
        if self.looking is None or self.looking.done():
            self.looking = asyncio.create_task(asyncio.to_thread(self._look))
        # The look goes on by itself where it is not waited for to its end: the next who asks may have its answer.
        done, _ = await asyncio.wait([self.looking], timeout=SOON)
        return bool(done) and self.looking.result()

    def _look(self) -> bool:
        try:
            with self.engine.connect() as db:
                db.execute(text("SELECT 1"))
        except AWAY:
            return False
        return True


async def _follow(follower: Follower) -> None:
    """Keep open windows up to date with renders."""
    while True:
        await asyncio.sleep(FOLLOW)
        try:
            await asyncio.to_thread(follower.look)
        except AWAY:
            continue
        except Exception:
            log.exception("following renders failed")


async def _sweep(engine: Engine, films: Path) -> None:
    """Remove now and then what nothing needs any more."""
    while True:
        await asyncio.sleep(SWEEP)
        try:
            await asyncio.to_thread(sweep_assets, engine)
            await asyncio.to_thread(sweep_films, engine, films)
        except AWAY:
            continue
        except Exception:
            log.exception("sweeping failed")


async def _look_around(rooms: Rooms, revive: Callable[[], object] | None) -> None:
    """Keep open windows up to date with the database, and tell them when it goes and comes back."""
    away = False
    while True:
        if away and revive is not None:
            try:
                await asyncio.to_thread(revive)
            except (Refusal, OSError) as error:
                log.warning("the database could not be started again: %s", error)
        await asyncio.sleep(LOOK_AROUND)
        try:
            await asyncio.to_thread(rooms.look_around)
            now_away = False
        except AWAY:
            now_away = True
        except Exception:
            log.exception("looking around failed")
            continue
        if now_away != away:
            away = rooms.away = now_away
            log.warning("database %s", "away" if away else "back")
            for room in rooms.open():
                room.tell(DatabaseLetter(here=not away))
