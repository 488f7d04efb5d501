"""Routes to signing in, and to sharing a production."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from pydantic import Field

from sorvan.service.routes.exchanged import Exchanged
from sorvan.service.signing_in import set_cookie, signed_in, token_hash, token_in
from sorvan.service.who_acts import ACTING
from sorvan.store import accounts

router = APIRouter(prefix="/api", tags=["people"])


class SessionView(Exchanged):
    """Whether people sign in here, and who has."""

    sign_in: bool
    user: str | None


class SignIn(Exchanged):
    """A name and its password."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    password: Annotated[str, Field(min_length=1, max_length=1000)]


class SharesView(Exchanged):
    """Whose a production is, and what others may do with it, by name."""

    owner: str | None
    others: dict[str, accounts.May]
    people: list[str]
    """Whom it could be shared with."""


class ShareWith(Exchanged):
    """What somebody may do with a production; null: nothing any more."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    may: Literal["look", "edit"] | None


@router.get("/session")
def session(request: Request) -> SessionView:
    """Whether people sign in here, and who this is."""
    user = ACTING.get()
    return SessionView(sign_in=request.app.state.sign_in, user=user.name if user else None)


@router.post("/session")
def sign_in(request: Request, response: Response, given: SignIn) -> SessionView:
    """Sign in with a name and its password."""
    state = request.app.state
    address = request.client.host if request.client else ""
    user, token = signed_in(state.engine, state.tries, given.name, given.password, address)
    set_cookie(response, token, request.url.scheme == "https")
    return SessionView(sign_in=state.sign_in, user=user.name)


@router.delete("/session", status_code=204)
def sign_out(request: Request) -> Response:
    """Sign out of this browser."""
    if token := token_in(request.scope):
        accounts.sign_out(request.app.state.engine, token_hash(token))
    response = Response(status_code=204)
    set_cookie(response, None, request.url.scheme == "https")
    return response


@router.get("/productions/{production}/shares")
def shares(request: Request, production: str) -> SharesView:
    """Whose a production is, and with whom it is shared."""
    engine = request.app.state.engine
    found = accounts.sharing(engine, production)
    people = [u.name for u in accounts.listed(engine) if u.name != found.owner] if request.app.state.sign_in else []
    return SharesView(owner=found.owner, others=found.others, people=people)


@router.put("/productions/{production}/shares")
def share(request: Request, production: str, given: ShareWith) -> SharesView:
    """Let somebody look at a production, or edit it, or neither any more."""
    engine = request.app.state.engine
    accounts.share(engine, production, accounts.named(engine, given.name).id, given.may)
    return shares(request, production)
