"""Who may sign in, and whose productions are."""

from __future__ import annotations

import sys
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Literal

import typer

from sorvan.cli.command import find, open_database
from sorvan.core.errors import Refusal
from sorvan.core.model.base import LONGEST_NAME, fresh_id
from sorvan.service.signing_in import hashed
from sorvan.store import accounts

app = typer.Typer(rich_markup_mode=None)

user_app = typer.Typer(
    no_args_is_help=True, rich_markup_mode=None, help="Who may sign in where the service can be reached from elsewhere."
)
app.add_typer(user_app, name="user")
PasswordFile = Annotated[
    Path | None, typer.Option(help="file with the password, or - for standard input; else it is asked")
]


class ShareOption(StrEnum):
    """What somebody may do with a production."""

    look = "look"
    edit = "edit"
    none = "none"


def _password(file: Path | None) -> str:
    if file is None:
        found: str = typer.prompt("Password", hide_input=True, confirmation_prompt="The same again")
        return found
    text = sys.stdin.read() if str(file) == "-" else file.read_text()
    return text.rstrip("\n")


@user_app.command("add")
def add(name: str, password_file: PasswordFile = None) -> None:
    """Let somebody sign in. The first gets all productions that are there."""
    if not 0 < len(name.strip()) <= LONGEST_NAME or not name.isprintable():
        raise Refusal(f"A name has 1 to {LONGEST_NAME} letters.", where=name[:40], remedy="Choose another.")
    engine = open_database()
    given = accounts.add(engine, accounts.User(fresh_id(), name.strip()), hashed(_password(password_file)))
    owns = f" {given} production{'s are' if given != 1 else ' is'} theirs." if given else ""
    print(f"“{name.strip()}” may sign in.{owns}")


@user_app.command("list")
def list_users() -> None:
    """Everybody who may sign in."""
    for user in accounts.listed(open_database()):
        print(user.name)


@user_app.command("password")
def password(name: str, password_file: PasswordFile = None) -> None:
    """Give somebody another password; they are signed out everywhere."""
    engine = open_database()
    accounts.set_password(engine, accounts.named(engine, name).id, hashed(_password(password_file)))
    print(f"“{name}” has a new password.")


@user_app.command("remove")
def remove(name: str) -> None:
    """Let somebody sign in no more. Their productions stay, and are nobody's until they are given to somebody."""
    engine = open_database()
    accounts.remove(engine, accounts.named(engine, name).id)
    print(f"“{name}” may not sign in any more.")


@app.command()
def share(production: str, name: str, may: ShareOption) -> None:
    """Let somebody look at a production, or edit it, or neither (none)."""
    engine = open_database()
    user = accounts.named(engine, name)
    what: dict[ShareOption, Literal["look", "edit"]] = {ShareOption.look: "look", ShareOption.edit: "edit"}
    accounts.share(engine, find(engine, production), user.id, what.get(may))
    said = {
        ShareOption.look: "look at it",
        ShareOption.edit: "look at it and edit it",
        ShareOption.none: "not see it any more",
    }
    print(f"“{user.name}” may {said[may]}.")


@app.command()
def owner(production: str, name: str) -> None:
    """Let a production be somebody's."""
    engine = open_database()
    user = accounts.named(engine, name)
    accounts.give(engine, find(engine, production), user.id)
    print(f"It is “{user.name}”'s.")
