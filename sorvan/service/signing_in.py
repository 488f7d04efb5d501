"""Signing in: who has the right password holds a cookie for a while, and may do what is theirs to do.

On this machine's own address nobody signs in: it is for whoever sits at it. As soon as the service can be reached from
elsewhere, nothing is told to anybody who is not signed in.
"""

from __future__ import annotations

import asyncio
import hashlib
import secrets
import threading
import time
from collections import OrderedDict, deque
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from functools import cache
from http.cookies import CookieError, SimpleCookie
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import Engine
from starlette.responses import Response
from starlette.routing import BaseRoute, Match
from starlette.types import ASGIApp, Receive, Scope, Send

from sorvan.core.errors import Refusal, missing
from sorvan.service.letters.messages import DatabaseLetter
from sorvan.service.problems import database_away, from_refusal
from sorvan.service.who_acts import ACTING
from sorvan.service.windows.windows import BEHIND
from sorvan.store import accounts
from sorvan.store.accounts import RANKS, User
from sorvan.store.database import AWAY

COOKIE = "sorvan"
LASTS = timedelta(days=30)
"""How long a browser stays signed in."""
SHORTEST = 10
"""Letters in the shortest password."""
TRIES, WITHIN = 5, 60.0
"""Wrong passwords for one name, or four times as many from one address, within so many seconds, after which no more are
looked at."""
SIGN_IN_FIRST = 4401
"""Close code of a socket that is not signed in, or no more, or may not see its production."""
OPEN = {("GET", "/api/health"), ("GET", "/api/session"), ("POST", "/api/session"), ("DELETE", "/api/session")}
"""What is answered without signing in."""
PAGE = ("/assets", "/{path:path}")
"""Routes to the page itself, which tells nothing."""
OF_PRODUCTION = "/api/productions/{production}"
OWNERS = (f"{OF_PRODUCTION}/shares",)
"""What only the owner may change."""
OF_ONES_OWN = (f"{OF_PRODUCTION}/lately",)
"""What everybody may change who may look, since it is nobody else's."""
_HASHER = PasswordHasher()
_AT_ONCE = threading.Semaphore(2)
"""Each comparison takes 64 MB."""


@cache
def _nobody() -> str:
    """What a password is compared with where there is no such user: so that it takes as long."""
    return _HASHER.hash(secrets.token_hex())


def hashed(password: str) -> str:
    """A password as it is kept (Argon2id with the parameters of RFC 9106 for little memory). Raises `Refusal` if it is too
    short."""
    if len(password) < SHORTEST:
        raise Refusal(f"A password has at least {SHORTEST} letters.", remedy="Choose a longer one.", kind="invalid")
    with _AT_ONCE:
        return _HASHER.hash(password)


def token_hash(token: str) -> str:
    """What is kept of what a browser holds."""
    return hashlib.sha256(token.encode()).hexdigest()


class PasswordTries:
    """Counts wrong passwords, by name and by address."""

    def __init__(self) -> None:
        self._wrong: OrderedDict[str, deque[float]] = OrderedDict()
        self._lock = threading.Lock()

    def check(self, name: str, address: str) -> None:
        """Raises `Refusal` if there were too many of late."""
        for what, most in ((f"name {accounts.key_of(name)}", TRIES), (f"address {address}", 4 * TRIES)):
            with self._lock:
                wrong = self._wrong.get(what, deque())
                while wrong and wrong[0] < time.monotonic() - WITHIN:
                    wrong.popleft()
                if len(wrong) >= most:
                    seconds = round(wrong[0] + WITHIN - time.monotonic()) + 1
                    raise Refusal(
                        "There were too many wrong passwords.", remedy=f"Wait {seconds} seconds.", kind="busy"
                    )

    def wrong(self, name: str, address: str) -> None:
        """Note a wrong one."""
        with self._lock:
            for what in (f"name {accounts.key_of(name)}", f"address {address}"):
                self._wrong.setdefault(what, deque()).append(time.monotonic())
                self._wrong.move_to_end(what)
            while len(self._wrong) > 10_000:
                self._wrong.popitem(last=False)


def signed_in(engine: Engine, tries: PasswordTries, name: str, password: str, address: str) -> tuple[User, str]:
    """The user with this name and password, and what the browser is to hold. Raises `Refusal` if there is none."""
    tries.check(name, address)
    found = accounts.find(engine, name)
    try:
        with _AT_ONCE:
            _HASHER.verify(found[1] if found else _nobody(), password)
    except (VerificationError, InvalidHashError):
        found = None
    if found is None:
        tries.wrong(name, address)
        raise Refusal("The name or the password is wrong.", remedy="Type both again.", kind="not-signed-in")
    token = secrets.token_urlsafe(32)
    accounts.sign_in(engine, found[0].id, token_hash(token), datetime.now(UTC) + LASTS)
    return found[0], token


def set_cookie(response: Response, token: str | None, secure: bool) -> None:
    """Let a browser hold this, or nothing any more."""
    age = int(LASTS.total_seconds()) if token else 0
    response.set_cookie(COOKIE, token or "", max_age=age, path="/", httponly=True, samesite="strict", secure=secure)


def token_in(scope: Scope) -> str | None:
    """What the browser holds."""
    for name, value in scope["headers"]:
        if name == b"cookie":
            try:
                morsel = SimpleCookie(value.decode("latin-1")).get(COOKIE)
            except CookieError:
                continue
            if morsel is not None and morsel.value:
                return str(morsel.value)
    return None


class SignedInOnly:
    """Lets only those through who are signed in, and only to what they may see or do."""

    def __init__(self, app: ASGIApp, engine: Engine, routes: Sequence[BaseRoute]) -> None:
        self.app, self.engine, self.routes = app, engine, routes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        try:
            user = await asyncio.to_thread(allowed, self.engine, self.routes, scope)
        except Refusal as refusal:
            await self._refuse(refusal, scope, receive, send)
            return
        except AWAY:
            if scope["type"] == "http":
                await database_away()(scope, receive, send)
            else:
                await self._close(BEHIND, receive, send, DatabaseLetter(here=False).encoded())
            return
        acting = ACTING.set(user)
        try:
            await self.app(scope, receive, send)
        finally:
            ACTING.reset(acting)

    async def _refuse(self, refusal: Refusal, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket":
            await self._close(SIGN_IN_FIRST, receive, send)
            return
        await from_refusal(refusal)(scope, receive, send)

    async def _close(self, code: int, receive: Receive, send: Send, letter: bytes | None = None) -> None:
        # Accepted first: only then does a browser learn the code, and why.
        await receive()
        await send({"type": "websocket.accept"})
        if letter is not None:
            await send({"type": "websocket.send", "bytes": letter})
        await send({"type": "websocket.close", "code": code})


def _route_of(routes: Sequence[BaseRoute], scope: Scope) -> tuple[str | None, dict[str, Any]]:
    """The route that will answer, as it is written down, and what it finds in the path; the path is read nowhere else.
    None where there is no such route."""
    partial: tuple[str | None, dict[str, Any]] = (None, {})
    for route in (r for r in routes if hasattr(r, "path")):
        match, found = route.matches(scope)
        if match is Match.NONE:
            continue
        known = (str(route.path), found.get("path_params", {}))  # type: ignore[attr-defined]
        if match is Match.FULL:
            return known
        partial = partial if partial[0] else known
    return partial


def allowed(engine: Engine, routes: Sequence[BaseRoute], scope: Scope) -> User | None:
    """Whoever asks, if they may ask this. Raises `Refusal` if not."""
    method = "GET" if scope["type"] == "websocket" else scope["method"]
    route, of = _route_of(routes, scope)
    if route in PAGE:
        return None
    token = token_in(scope)
    user = accounts.signed(engine, token_hash(token)) if token else None
    if user is None:
        if (method, route) in OPEN:
            return None
        raise Refusal("You are not signed in.", remedy="Sign in first.", kind="not-signed-in")
    if route is None:
        raise missing("address", scope["path"])
    production = of.get("production")
    if production is None:
        return user
    may = accounts.may(engine, user.id, production)
    if may is None:
        # Whether there is one is nobody else's business.
        raise missing("production", production)
    needed = "look" if method in ("GET", "HEAD") or route in OF_ONES_OWN else "edit"
    if (route in OWNERS and method != "GET") or (method == "DELETE" and route == OF_PRODUCTION):
        needed = "own"
    if RANKS[may] < RANKS[needed]:
        what = "change it" if needed == "edit" else "do this with it"
        raise Refusal(
            f"You may look at this production, but not {what}." if may == "look" else "Only its owner may do this.",
            remedy="Ask its owner.",
            kind="not-allowed",
        )
    return user
