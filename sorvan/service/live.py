"""The live socket: a window follows a production, and its hand reaches the puppet.

Messages are MessagePack maps with a `type`. From the page: `watch`, `grab`, `drag`,
`try-pose`, `try-command`, `look-at-mesh`. To the page: `changed`, `plan`, `part`, `rig`, `spacing`,
`pose`, `grabbed`, `mesh`, `settled`, `render`, `database`, `gone`, `refused`.
"""

from __future__ import annotations

import asyncio
import contextlib
from typing import Any

import msgspec
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.picture.studio import Studio
from sorvan.service.rooms import Message, Room, Rooms, step_message
from sorvan.service.views import Drag, Hold, LookAtMesh, TryCommand, TryPose, View, Watch

router = APIRouter()
_encode = msgspec.msgpack.Encoder().encode
_decode = msgspec.msgpack.Decoder().decode


class Window:
    """One open socket: the view it has, and what is still to be sent to it."""

    def __init__(self, socket: WebSocket, room: Room, studio: Studio) -> None:
        self.socket, self.room, self.studio = socket, room, studio
        self.view: View | None = None
        self.outbox: asyncio.Queue[Message] = asyncio.Queue()
        self.loop = asyncio.get_running_loop()

    def hear(self, message: Message) -> None:
        """Called from any thread when something happens in the room."""
        self.loop.call_soon_threadsafe(self._heard, message)

    def _heard(self, message: Message) -> None:
        self.outbox.put_nowait(message)
        if message["type"] == "changed" and self.view is not None:
            self._send(
                self._carefully(lambda: self.view.follow(self.room.documents, self.room.seq) if self.view else [])
            )
            # The page keeps showing what the hand left until it knows that the plan has caught up.
            self._send([{"type": "settled", "seq": self.room.seq}])

    def _send(self, messages: list[Message]) -> None:
        for message in messages:
            self.outbox.put_nowait(message)

    def _carefully(self, work: Any) -> list[Message]:
        try:
            found: list[Message] = work()
        except Refusal as refusal:
            return [{"type": "refused", "what": refusal.what, "where": refusal.where, "remedy": refusal.remedy}]
        except ValidationError as error:
            first = error.errors()[0]
            return [{"type": "refused", "what": first["msg"], "where": ".".join(map(str, first["loc"])), "remedy": ""}]
        return found

    async def write(self) -> None:
        """Send what is in the outbox, until the socket closes."""
        while True:
            await self.socket.send_bytes(_encode(await self.outbox.get()))

    async def read(self) -> None:
        """Answer the page, until the socket closes."""
        while True:
            message = _decode(await self.socket.receive_bytes())
            kind = message.pop("type", "") if isinstance(message, dict) else ""
            self._send(self._carefully(lambda k=kind, m=message: self._answer(k, m)))

    def _answer(self, kind: str, message: dict[str, Any]) -> list[Message]:
        if kind == "watch":
            self.view = View(self.room.documents, Watch.model_validate(message), self.room.seq, self.studio)
            return self.view.start()
        if self.view is None:
            return []
        match kind:
            case "grab":
                return self.view.grab(Hold.model_validate(message))
            case "drag":
                return self.view.drag(Drag.model_validate(message))
            case "try-pose":
                return self.view.try_pose(TryPose.model_validate(message))
            case "look-at-mesh":
                return self.view.look_at_mesh(LookAtMesh.model_validate(message))
            case "try-command":
                return self.view.try_command(TryCommand.model_validate(message))
        raise Refusal(f"“{kind}” is not something the live socket knows.")


@router.websocket("/api/productions/{production}/live")
async def live(socket: WebSocket, production: str) -> None:
    """Follow a production."""
    rooms: Rooms = socket.app.state.rooms
    await socket.accept()
    try:
        room = await asyncio.to_thread(rooms.room, production)
    except Refusal as refusal:
        await socket.send_bytes(
            _encode({"type": "refused", "what": refusal.what, "where": "", "remedy": refusal.remedy})
        )
        await socket.close(4004)
        return
    window = Window(socket, room, socket.app.state.studio)
    room.listeners.add(window.hear)
    window.outbox.put_nowait(
        {
            "type": "changed",
            "seq": room.seq,
            "changed": [d.model_dump(mode="json") for d in room.documents.by_id.values()],
            "removed": [],
            "undo": step_message(room.undo),
            "redo": step_message(room.redo),
        }
    )
    tasks = [asyncio.create_task(window.write()), asyncio.create_task(window.read())]
    try:
        await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
    finally:
        room.listeners.discard(window.hear)
        for task in tasks:
            task.cancel()
        with contextlib.suppress(
            WebSocketDisconnect, RuntimeError, asyncio.CancelledError, msgspec.DecodeError, KeyError
        ):
            await asyncio.gather(*tasks)
