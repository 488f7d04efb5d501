"""The commands of `sorvan` by name: each is loaded when it is asked for, with what it needs and nothing else."""

from __future__ import annotations

import gc
import sys
from importlib import import_module
from typing import Any

import typer
from typer.core import TyperGroup
from typer.main import get_group

from sorvan.core.errors import Refusal

COMMANDS = {
    "serve": ("serving", "Serve Sorvan: on this machine, for whoever sits at it, or for others, who sign in."),
    "list": ("listing", "List all productions with their puppets, motions and shots."),
    "import": ("art", "Bring art into a production as the pieces of a puppet."),
    "gait": ("motions", "Plan a gait: a cycle with labelled poses, and feet that stay where they stand."),
    "trace": ("motions", "Write where joints are on the stage in every frame."),
    "check": ("motions", "Look for likely mistakes in all rigs, motions and shots."),
    "align": ("voices", "Find when each word and sound of a text is heard in a recording."),
    "speak": ("voices", "Make mouths for a recording."),
    "render": ("films", "Render a motion, a shot or the whole film: to a film, an animation, pictures or a sound."),
    "export": ("archives", "Write a whole production to one archive."),
    "load": ("archives", "Load a production from an archive."),
    "sweep": ("archives", "Remove art, sounds and films that nothing needs any more."),
    "user": ("people", "Who may sign in where the service can be reached from elsewhere."),
    "share": ("people", "Let somebody look at a production, or edit it, or neither."),
    "owner": ("people", "Let a production be somebody's."),
    "worker": ("working", "Draw what is to be rendered, for every service on the same database."),
}
"""Where each command is, and what it does in a line."""


class ByName(TyperGroup):
    """Commands that are known by name until one of them is wanted."""

    def list_commands(self, ctx: Any) -> list[str]:
        """Their names, in the order of the work."""
        return list(COMMANDS)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        """The command of this name, loaded."""
        if cmd_name not in COMMANDS:
            return None
        # What is loaded stays: to look for what can be let go of meanwhile takes a tenth of the time.
        gc.disable()
        try:
            return get_group(import_module(f"sorvan.cli.{COMMANDS[cmd_name][0]}").app).commands.get(cmd_name)
        finally:
            gc.enable()

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        """Say what there is, without loading it."""
        with formatter.section("Commands"):
            formatter.write_dl([(name, does) for name, (_, does) in COMMANDS.items()])


app = typer.Typer(
    cls=ByName, no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None
)


@app.callback()
def _whole() -> None:
    """The same work as in the page, without the page."""


def main() -> None:
    """Run the command; a refusal goes to stderr, and the exit code says what kind of failure it was.

    1: refused as asked. 2: wrong use of the command. 3: something named is not there.
    """
    try:
        app()
    except Refusal as refusal:
        print(f"sorvan: {refusal.sentence()}", file=sys.stderr)
        sys.exit(3 if refusal.kind == "missing" else 1)
