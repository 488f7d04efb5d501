"""What takes long waits its turn: so many at once, so many in the queue, and nobody who has gone."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from types import SimpleNamespace
from typing import Any

import pytest

from sorvan.core.errors import Refusal
from sorvan.service.heavy import AT_ONCE, WAITING, Turns, _in_turn


def asked(turns: Turns, gone: bool = False) -> Any:
    async def is_disconnected() -> bool:
        return gone

    return SimpleNamespace(app=SimpleNamespace(state=SimpleNamespace(turns=turns)), is_disconnected=is_disconnected)


def test_few_are_served_at_once_some_wait_and_more_are_refused() -> None:
    async def day() -> None:
        turns = Turns()
        served: list[AsyncIterator[None]] = []

        async def come(gone: bool = False) -> None:
            turn = _in_turn(asked(turns, gone))
            await anext(turn)
            served.append(turn)

        async def end(turn: AsyncIterator[None]) -> None:
            with pytest.raises(StopAsyncIteration):
                await anext(turn)
            for _ in range(4):
                await asyncio.sleep(0)

        # The first who waits will have gone by the time that it is their turn.
        tasks = [asyncio.create_task(come(gone=n == AT_ONCE)) for n in range(AT_ONCE + WAITING)]
        await asyncio.sleep(0)
        assert len(served) == AT_ONCE and turns.waiting == WAITING
        with pytest.raises(Refusal, match="Too much"):
            await come()
        await end(served[0])
        with pytest.raises(Refusal, match="Nobody waits"):
            await tasks[AT_ONCE]
        assert len(served) == AT_ONCE + 1 and turns.waiting == WAITING - 2
        for n in range(1, AT_ONCE + WAITING - 1):
            await end(served[n])
        await asyncio.gather(*tasks, return_exceptions=True)
        assert turns.waiting == 0 and not turns.free.locked()

    asyncio.run(day())
