"""The live socket: carries letters between a page and its window."""

from __future__ import annotations

import asyncio
from typing import Any

import msgspec
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from sorvan.core.errors import Refusal, in_words
from sorvan.service.letters.messages import FROM_PAGE, DatabaseLetter, Refused, ToPage
from sorvan.service.rooms.rooms import Rooms
from sorvan.service.signing_in import SIGN_IN_FIRST, allowed
from sorvan.service.windows.windows import BEHIND, FAULT, Window
from sorvan.store.database import AWAY

router = APIRouter()
_decode = msgspec.msgpack.Decoder().decode
LOOK_AGAIN = 3.0
"""Seconds between looks whether a window may still be open."""
NO_SUCH = 4004
"""Close code: there is no such production."""


@router.websocket("/api/productions/{production}/live")
async def live(socket: WebSocket, production: str) -> None:
    """Follow a production."""
    rooms: Rooms = socket.app.state.rooms
    await socket.accept()
    try:
        room = await asyncio.to_thread(rooms.room, production)
    except Refusal as refusal:
        await _send(socket, Refused(what=refusal.what, where="", remedy=refusal.remedy))
        await socket.close(NO_SUCH)
        return
    except AWAY:
        # It answers, and says what keeps it.
        await _send(socket, DatabaseLetter(here=False))
        await socket.close(BEHIND)
        return
    window = Window(room, socket.app.state.studio, asyncio.get_running_loop())
    window.open()
    if rooms.away:
        window.send(DatabaseLetter(here=False))
    works = (_read, _write, *((_still_allowed,) if socket.app.state.sign_in else ()))
    tasks = [asyncio.create_task(work(socket, window)) for work in works]
    try:
        done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
        over = FAULT if any(_unforeseen(task.exception()) for task in done) else window.over
        if over is not None:
            await socket.close(over)
    finally:
        window.close()
        for task in tasks:
            task.cancel()
        ends = await asyncio.gather(*tasks, return_exceptions=True)
    for end in ends:
        if isinstance(end, BaseException) and _unforeseen(end):
            raise end


def _unforeseen(end: BaseException | None) -> bool:
    """Whether a socket ended otherwise than by the page's going or the service's letting go of it."""
    return end is not None and not isinstance(end, WebSocketDisconnect | asyncio.CancelledError)


async def _send(socket: WebSocket, letter: ToPage) -> None:
    await socket.send_bytes(letter.encoded())


async def _write(socket: WebSocket, window: Window) -> None:
    """Send what the outbox holds, until the window's life is over."""
    while True:
        await window.ready.wait()
        window.ready.clear()
        while window.over is None and (letter := window.next()) is not None:
            await socket.send_bytes(letter)
        if window.over is not None:
            return


async def _still_allowed(socket: WebSocket, window: Window) -> None:
    """End once whoever it is has signed out, or may see the production no more."""
    while True:
        await asyncio.sleep(LOOK_AGAIN)
        try:
            await asyncio.to_thread(allowed, socket.app.state.engine, socket.app.state.routes, socket.scope)
        except Refusal:
            window.over = SIGN_IN_FIRST
            return
        except AWAY:
            continue


async def _read(socket: WebSocket, window: Window) -> None:
    """Put what the page says into the mailbox, until the page goes."""
    while True:
        data = await socket.receive_bytes()
        said: Any = None
        try:
            said = _decode(data)
            window.ask(FROM_PAGE.validate_python(said))
        except msgspec.DecodeError:
            window.send(Refused(what="That was not a letter.", where="", remedy="Load the page again."))
        except ValidationError as error:
            refusal = in_words(error)
            n = said.get("n") if isinstance(said, dict) else None
            asked = n if isinstance(n, int) else None
            window.send(Refused(what=refusal.what, where=refusal.where, remedy=refusal.remedy, n=asked))
