"""What requests may carry: no more than is asked for, and no text that can't be written down."""

from __future__ import annotations

import json
import re

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from sorvan.interchange import limits
from sorvan.interchange.archive import WHOLE
from sorvan.service.problems import problem

LETTERS = 16 * 1024 * 1024
"""Bytes of a body that is no file."""
FILES = 4 * limits.BYTES + LETTERS
"""Bytes of a body with files."""
ARCHIVE = WHOLE + LETTERS
"""Bytes of a body with an archive: what was exported can be loaded again."""
_DOUBTFUL = re.compile(rb"\\u(?:0000|[dD][89a-fA-F])|\x00")


class Bounded:
    """Counts bodies while they arrive, and looks through those in JSON before anyone reads them."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "DELETE"):
            await self.app(scope, receive, send)
            return
        headers = dict(scope["headers"])
        kind = headers.get(b"content-type", b"").split(b";")[0].strip().lower()
        whole = scope["path"].endswith("/productions/archive")
        most = (ARCHIVE if whole else FILES) if kind == b"multipart/form-data" else LETTERS
        declared = headers.get(b"content-length", b"")
        if declared.isdigit() and int(declared) > most:
            await _too_large(most)(scope, receive, send)
            return
        counted = _Counted(receive, most)
        try:
            if kind != b"multipart/form-data":
                body = await counted.all()
                if not _can_be_written(body):
                    await _unwritable()(scope, receive, send)
                    return
                counted.receive = _replayed(body, receive)
            await self.app(scope, counted, send)
        except _TooLarge:
            await _too_large(most)(scope, receive, send)


class _TooLarge(Exception):
    pass


class _Counted:
    def __init__(self, receive: Receive, most: int) -> None:
        self.receive, self.left = receive, most

    async def __call__(self) -> Message:
        message = await self.receive()
        self.left -= len(message.get("body", b""))
        if self.left < 0:
            raise _TooLarge
        return message

    async def all(self) -> bytes:
        parts: list[bytes] = []
        while True:
            message = await self()
            parts.append(message.get("body", b""))
            if message["type"] != "http.request" or not message.get("more_body"):
                return b"".join(parts)


def _replayed(body: bytes, further: Receive) -> Receive:
    given = False

    async def receive() -> Message:
        nonlocal given
        if given:
            return await further()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return receive


def _can_be_written(body: bytes) -> bool:
    """Whether all text in a body in JSON can be written down: the database takes no NUL, and UTF-8 no half of a
    surrogate pair. What is no JSON at all is for others to refuse."""
    if not _DOUBTFUL.search(body):
        return True
    try:
        again = json.dumps(json.loads(body), ensure_ascii=False)
        again.encode()
    except UnicodeEncodeError:
        return False
    except (ValueError, RecursionError):
        return True
    return "\\u0000" not in again.replace("\\\\", "")


def _too_large(most: int) -> ASGIApp:
    return problem(
        413,
        f"More than {most // 2**20} MB were sent.",
        kind="too-large",
        remedy="Send less at a time. Nothing was changed.",
    )


def _unwritable() -> ASGIApp:
    return problem(
        422,
        "There is a sign in the text that can't be written down.",
        kind="invalid",
        remedy="Type the text anew instead of pasting it. Nothing was changed.",
    )
