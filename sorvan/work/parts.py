"""Drawing one part of a render."""

from __future__ import annotations

import contextlib
import logging
import time
from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy import Engine

from sorvan.core.errors import Refusal
from sorvan.core.plan.show import Show
from sorvan.picture.film import FilmSettings, part_of
from sorvan.picture.order import RenderOrder
from sorvan.picture.paint import Painter
from sorvan.picture.studio import Studio
from sorvan.store import assets, renders
from sorvan.store.database import AWAY, full
from sorvan.store.renders import Stretch

log = logging.getLogger("sorvan")
TELL = 0.25
"""Seconds between tellings how far a part is."""
AGAIN = 1.0
"""Seconds between tries to keep a part while the database is away."""
FULL = "The disk of the database is full. Make room there and let it go on: what is drawn is kept."
"""What a render says that there was no room for."""
TRIES = 3
"""Times that a part is begun before the render counts as failed."""


class Stumbled(Exception):
    """Something went wrong that may go right another time."""


class Abandoned(Exception):
    """Nobody wants the part any more, or the worker is to end."""


@dataclass(frozen=True)
class ReadyRender:
    """A render made ready to draw: worked out once for all its parts."""

    render: str
    show: Show
    settings: FilmSettings
    painter: Painter


class Drawer:
    """Draws parts, one at a time, keeping the last render ready for its next part."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._ready: ReadyRender | None = None

    def draw(self, render: str, n: int, tries: int, ending: Callable[[], bool]) -> None:
        """Draw a part and keep it. A render that can't be made is failed, with words.

        Raises `Stumbled`, to be tried again, unless it was tried often enough, and what says that the database is
        away.
        """
        part = renders.begin(self.engine, render, n)
        if part is None:
            return
        try:
            data = self._drawn(render, part, ending)
        except Abandoned:
            return
        except Refusal as refusal:
            self._fail(render, refusal.sentence())
        except AWAY as error:
            if not full(error):
                raise
            self._fail(render, FULL)
        except Exception as error:
            if tries < TRIES:
                # Not the error itself: there are some that whoever waits for a thread never hears of (StopIteration).
                raise Stumbled(f"{type(error).__name__}: {error}") from error
            log.exception("part %d of render %s failed", n, render)
            self._fail(render, f"The film could not be made: {error}")
        else:
            self._insist(lambda: renders.keep(self.engine, render, part, data), render, ending)

    def _fail(self, render: str, message: str) -> None:
        try:
            renders.end(self.engine, render, "failed", message[:600])
        except AWAY as error:
            # Without room even for that: its parts are queued again, and go on once there is.
            if not full(error):
                raise

    def _drawn(self, render: str, part: Stretch, ending: Callable[[], bool]) -> bytes:
        ready = self._made_ready(render)
        told = time.monotonic()

        def progress(done: int) -> None:
            nonlocal told
            if ending():
                raise Abandoned
            if time.monotonic() - told < TELL:
                return
            told = time.monotonic()
            # Drawing goes on while nobody can be told how far it is.
            with contextlib.suppress(*AWAY):
                if not renders.progress(self.engine, render, part.n, done):
                    raise Abandoned

        return part_of(ready.show, ready.painter, ready.settings, part.start, part.stop, progress)

    def _made_ready(self, render: str) -> ReadyRender:
        if self._ready is None or self._ready.render != render:
            order = RenderOrder.model_validate(renders.get(self.engine, render).settings)
            documents = renders.documents_to_draw(self.engine, render)
            studio = Studio(lambda id: assets.get(self.engine, id)[1])
            show = order.show(documents, studio)
            self._ready = ReadyRender(render, show, order.settings(documents), Painter(studio.asset))
        return self._ready

    def _insist(self, write: Callable[[], None], render: str, ending: Callable[[], bool]) -> None:
        """Write something of a render down, however long the database is away; without room there the render fails."""
        while not ending():
            try:
                write()
                return
            except AWAY as error:
                if full(error):
                    self._fail(render, FULL)
                    return
                time.sleep(AGAIN)
