"""Errors as problem details (RFC 9457)."""

from __future__ import annotations

import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
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
}
_TITLES = {
    404: "Not there any more",
    403: "Not allowed from here",
    409: "Changed in the meantime",
    413: "Too large",
    415: "Wrong kind of file",
    422: "Can't be done like this",
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


def problem(status: int, detail: str, **more: Any) -> JSONResponse:
    """A problem document."""
    body = {
        "type": "about:blank",
        "title": _TITLES.get(status, "Can't be done"),
        "status": status,
        "detail": detail,
        **more,
    }
    return JSONResponse(body, status, media_type="application/problem+json")


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

    app.add_exception_handler(Refusal, refused)
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
