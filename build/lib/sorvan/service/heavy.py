"""Requests that take long: few of them at once, so that there is always somebody for the others.

They wait for their turn without holding a thread, and whoever has gone meanwhile is passed over.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from dataclasses import dataclass, field

from fastapi import Depends, Request

from sorvan.core.errors import Refusal

AT_ONCE, WAITING = 2, 16
"""Heavy requests that are worked on at the same time, and how many more may wait for their turn."""


@dataclass
class Turns:
    """Who is served, and how many wait."""

    free: asyncio.Semaphore = field(default_factory=lambda: asyncio.Semaphore(AT_ONCE))
    waiting: int = 0


async def _in_turn(request: Request) -> AsyncIterator[None]:
    turns: Turns = request.app.state.turns
    if turns.waiting >= WAITING:
        raise Refusal("Too much is being made at the same time.", remedy="Wait a moment, then try again.", kind="busy")
    turns.waiting += 1
    try:
        await turns.free.acquire()
    finally:
        turns.waiting -= 1
    try:
        if await request.is_disconnected():
            raise Refusal("Nobody waits for it any more.", kind="cancelled")
        yield
    finally:
        turns.free.release()


IN_TURN = Depends(_in_turn)
"""What a route that takes long depends on."""
