"""Errors as problem details (RFC 9457)."""

from __future__ import annotations

import json
import logging
import secrets
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from sqlalchemy.exc import DataError
from starlette.exceptions import HTTPException

from sorvan.core.errors import Refusal, of_details
from sorvan.store.database import AWAY, full

log = logging.getLogger("sorvan")

_STATUS = {
    "missing": 404,
    "conflict": 409,
    "too-large": 413,
    "wrong-type": 415,
    "damaged": 422,
    "unsafe": 422,
    "empty": 422,
    "too-deep": 422,
    "not-there-yet": 409,
    "cancelled": 409,
    "busy": 429,
    "not-signed-in": 401,
    "not-allowed": 403,
}
_TITLES = {
    401: "Sign in first",
    404: "Not there any more",
    403: "Not allowed",
    409: "Changed in the meantime",
    405: "Not done like this",
    413: "Too large",
    415: "Wrong kind of file",
    422: "Can't be done like this",
    429: "Too much at once",
    500: "A fault",
    503: "The database is away",
    507: "The disk is full",
}


class Conflict(Refusal):
    """A change that would overwrite what another window did; both sides are shown."""

    def __init__(self, mine: str, theirs: list[str]) -> None:
        super().__init__(
            "Another window changed the same thing a moment ago.",
            where=mine,
            remedy="Look at what it is now, then repeat your change if you still want it.",
            kind="conflict",
        )
        self.mine, self.theirs = mine, theirs


class _Problem(JSONResponse):
    media_type = "application/problem+json"

    def render(self, content: Any) -> bytes:
        # What it tells of may hold half of a surrogate pair, which is why it was refused.
        return json.dumps(content, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "replace")


def problem(status: int, detail: str, **more: Any) -> JSONResponse:
    """A problem document."""
    body = {
        "type": "about:blank",
        "title": _TITLES.get(status, "Can't be done"),
        "status": status,
        "detail": detail,
        **more,
    }
    return _Problem(body, status)


def from_refusal(refusal: Refusal) -> JSONResponse:
    """The problem document of a refusal."""
    more: dict[str, Any] = {"where": refusal.where, "remedy": refusal.remedy, "kind": refusal.kind}
    if isinstance(refusal, Conflict):
        more |= {"mine": refusal.mine, "theirs": refusal.theirs}
    return problem(_STATUS.get(refusal.kind, 422), refusal.what, **more)


def database_away() -> JSONResponse:
    """The problem document for a database that can't be reached."""
    return problem(
        503,
        "The database can't be reached just now. Nothing that was acknowledged is lost.",
        remedy="Wait: this is tried again by itself.",
        kind="database-away",
    )


def disk_full(whose: str) -> JSONResponse:
    """The problem document for a disk without room."""
    return problem(
        507,
        f"There is no more room on the disk {whose}. Nothing that was acknowledged is lost.",
        remedy="Make room there, then do it again.",
        kind="disk-full",
    )


def install(app: FastAPI) -> None:
    """Answer every error of the app with a problem document."""

    async def refused(_: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, Refusal)
        return from_refusal(error)

    async def invalid(_: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, (RequestValidationError, ValidationError))
        return from_refusal(of_details(error.errors()[0], "The request"))

    async def plain(_: Request, error: Exception) -> JSONResponse:
        assert isinstance(error, HTTPException)
        return problem(error.status_code, str(error.detail), kind="http")

    async def away(_: Request, error: Exception) -> JSONResponse:
        if full(error):
            return disk_full("of the database")
        log.warning("database away: %s", error)
        return database_away()

    async def unwritable(_: Request, error: Exception) -> JSONResponse:
        log.info("not written down: %s", error)
        return problem(
            422,
            "There is a sign or a number in it that can't be written down.",
            kind="invalid",
            remedy="Give it anew. Nothing was changed.",
        )

    async def fault(request: Request, error: Exception) -> JSONResponse:
        mark = secrets.token_hex(4)
        log.error("fault %s at %s %s", mark, request.method, request.url.path, exc_info=error)
        return problem(
            500,
            "Something went wrong in the service. Nothing that was acknowledged is lost.",
            kind="fault",
            id=mark,
            remedy=f"Load the page again. The log of the service has more under {mark}.",
        )

    app.add_exception_handler(Refusal, refused)
    app.add_exception_handler(DataError, unwritable)
    app.add_exception_handler(UnicodeEncodeError, unwritable)
    app.add_exception_handler(Exception, fault)
    app.add_exception_handler(RequestValidationError, invalid)
    app.add_exception_handler(ValidationError, invalid)
    app.add_exception_handler(HTTPException, plain)

    @app.exception_handler(OSError)
    async def no_room(_: Request, error: OSError) -> JSONResponse:
        if not full(error):
            raise error
        return disk_full("of the service")

    for kind in AWAY:
        app.add_exception_handler(kind, away)
