"""Who may sign in, and who may see and change which production."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import Engine, delete, func, insert, select, text, update
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.exc import IntegrityError

from sorvan.core.errors import Refusal, missing
from sorvan.store.tables import productions, rigs, shares, signed_in, users

May = Literal["look", "edit", "own"]
RANKS: dict[str, int] = {"look": 1, "edit": 2, "own": 3}
"""What somebody may do with a production: each includes those before it."""


@dataclass(frozen=True)
class User:
    """Somebody who may sign in."""

    id: str
    name: str


def key_of(name: str) -> str:
    """A name without what makes no difference in one: case, and how its letters are put together (Unicode TR 15)."""
    return unicodedata.normalize("NFKC", name).casefold().strip()[:240]


def add(engine: Engine, user: User, hashed: str) -> int:
    """A new user. The first one gets every production that is nobody's, and the shelf of rigs; says how many productions.
    Raises `Refusal` if the name is taken."""
    try:
        with engine.begin() as db:
            # One after the other, and not while a production is made that nobody signed in for.
            db.execute(text("LOCK TABLE users IN SHARE ROW EXCLUSIVE MODE"))
            first = not db.scalar(select(func.count()).select_from(users))
            db.execute(insert(users).values(id=user.id, name=user.name, key=key_of(user.name), password=hashed))
            if not first:
                return 0
            db.execute(update(rigs).where(rigs.c.owner.is_(None)).values(owner=user.id))
            given = db.execute(update(productions).where(productions.c.owner.is_(None)).values(owner=user.id))
            return given.rowcount
    except IntegrityError:
        raise Refusal(
            f"There is a user “{user.name}” already.", remedy="Choose another name.", kind="conflict"
        ) from None


def listed(engine: Engine) -> list[User]:
    """Everybody who may sign in, by name."""
    with engine.connect() as db:
        return [User(*row) for row in db.execute(select(users.c.id, users.c.name).order_by(users.c.key))]


def find(engine: Engine, name: str) -> tuple[User, str] | None:
    """The user of this name, and the hash of the password."""
    with engine.connect() as db:
        query = select(users.c.id, users.c.name, users.c.password).where(users.c.key == key_of(name))
        row = db.execute(query).first()
    return (User(row.id, row.name), row.password) if row else None


def named(engine: Engine, name: str) -> User:
    """The user of this name. Raises `Refusal` if there is none."""
    found = find(engine, name)
    if found is None:
        raise Refusal(f"There is no user “{name}”.", remedy="`sorvan user list` shows those there are.", kind="missing")
    return found[0]


def set_password(engine: Engine, user: str, hashed: str) -> None:
    """Give a user another password. Whoever is signed in with the old one is so no more."""
    with engine.begin() as db:
        db.execute(update(users).where(users.c.id == user).values(password=hashed))
        db.execute(delete(signed_in).where(signed_in.c.user == user))


def remove(engine: Engine, user: str) -> None:
    """Take a user away. Productions of theirs are nobody's then, until they are given to somebody."""
    with engine.begin() as db:
        db.execute(delete(users).where(users.c.id == user))


def sign_in(engine: Engine, user: str, token: str, until: datetime) -> None:
    """Let whoever holds what `token` is the hash of be this user for a while."""
    with engine.begin() as db:
        db.execute(delete(signed_in).where(signed_in.c.until < func.now()))
        db.execute(insert(signed_in).values(token=token, user=user, until=until))


def sign_out(engine: Engine, token: str) -> None:
    """Let it be nobody any more."""
    with engine.begin() as db:
        db.execute(delete(signed_in).where(signed_in.c.token == token))


def signed(engine: Engine, token: str) -> User | None:
    """Who is signed in with what `token` is the hash of."""
    query = (
        select(users.c.id, users.c.name)
        .join(signed_in, signed_in.c.user == users.c.id)
        .where(signed_in.c.token == token, signed_in.c.until > func.now())
    )
    with engine.connect() as db:
        row = db.execute(query).first()
    return User(*row) if row else None


def may(engine: Engine, user: str, production: str) -> May | None:
    """What a user may do with a production; None: nothing, or there is none."""
    return visible(engine, user, production).get(production)


def visible(engine: Engine, user: str, production: str | None = None) -> dict[str, May]:
    """What a user may do with each production that they may see, or with one."""
    query = (
        select(productions.c.id, productions.c.owner, shares.c.may)
        .outerjoin(shares, (shares.c.production == productions.c.id) & (shares.c.user == user))
        .where((productions.c.owner == user) | shares.c.may.is_not(None))
    )
    if production is not None:
        query = query.where(productions.c.id == production)
    with engine.connect() as db:
        return {row.id: "own" if row.owner == user else row.may for row in db.execute(query)}


@dataclass(frozen=True)
class Sharing:
    """Whose a production is, and what others may do with it, by name."""

    owner: str | None
    others: dict[str, May]


def sharing(engine: Engine, production: str) -> Sharing:
    """Whose a production is, and with whom it is shared. Raises `Refusal` if it is gone."""
    whose = (
        select(productions.c.id, users.c.name)
        .outerjoin(users, users.c.id == productions.c.owner)
        .where(productions.c.id == production)
    )
    with_whom = (
        select(users.c.name, shares.c.may)
        .join(shares, shares.c.user == users.c.id)
        .where(shares.c.production == production)
        .order_by(users.c.key)
    )
    with engine.connect() as db:
        row = db.execute(whose).first()
        if row is None:
            raise missing("production", production)
        return Sharing(row.name, {str(one.name): one.may for one in db.execute(with_whom)})


def share(engine: Engine, production: str, user: str, what: Literal["look", "edit"] | None) -> None:
    """Let a user look at a production, or edit it, or neither any more. Raises `Refusal` if it is gone, or theirs."""
    with engine.begin() as db:
        row = db.execute(select(productions.c.owner).where(productions.c.id == production)).first()
        if row is None:
            raise missing("production", production)
        if row.owner == user:
            raise Refusal("It is theirs already.", remedy="Choose somebody else.", kind="conflict")
        if what is None:
            db.execute(delete(shares).where(shares.c.production == production, shares.c.user == user))
        else:
            statement = upsert(shares).values(production=production, user=user, may=what)
            db.execute(statement.on_conflict_do_update(index_elements=["production", "user"], set_={"may": what}))


def give(engine: Engine, production: str, user: str) -> None:
    """Let a production be this user's from now on. Raises `Refusal` if it is gone."""
    with engine.begin() as db:
        if not db.execute(update(productions).where(productions.c.id == production).values(owner=user)).rowcount:
            raise missing("production", production)
        db.execute(delete(shares).where(shares.c.production == production, shares.c.user == user))
