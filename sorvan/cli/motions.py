"""Gaits, traces and checks."""

from __future__ import annotations

from csv import writer as csv_writer
from json import dumps
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from sorvan.cli.command import do, find, named, open_database
from sorvan.core.change.production import AddMotion
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.in_shots import ShotFinding
from sorvan.core.checks.motion import findings as motion_findings
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.checks.rig import findings as rig_findings
from sorvan.core.checks.shots import findings as shot_findings
from sorvan.core.checks.voice import findings as voice_findings
from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.base import fresh_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import Gait
from sorvan.core.model.shot import Shot
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import trace
from sorvan.core.planning.gaits import PRESETS, by_preset
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.rig.roles import roles_of
from sorvan.core.timing.rates import per_second
from sorvan.service.rooms.rooms import Rooms
from sorvan.store import log

app = typer.Typer(rich_markup_mode=None)


@app.command()
def gait(
    production: str,
    puppet: Annotated[str, typer.Option(help="the puppet's name")],
    gait: Annotated[str, typer.Option(help="walk, run, sneak, limp, skip, trot or gallop")],
    frames: Annotated[int, typer.Option(help="frames of the whole cycle, 8 to 48")],
    name: Annotated[str, typer.Option(help="what the motion is called; done again if it has a gait already")],
    step: Annotated[float | None, typer.Option(help="length of a step in units; a natural one if not given")] = None,
    preset: Annotated[str | None, typer.Option(help="a preset's shape, as tired or proud")] = None,
) -> None:
    """Plan a gait: a cycle with labelled poses, ordinary keys, and feet that stay where they stand."""
    engine = open_database()
    room = Rooms(engine).room(find(engine, production))
    held = named(list(room.documents.puppets()), puppet, "puppet", production)
    shape = _asked({"kind": "gait", "id": fresh_id(), "name": gait.capitalize(), "gait": gait, "frames": frames}, step)
    if preset is not None:
        if preset not in PRESETS:
            raise Refusal(f"There is no preset “{preset}”.", remedy=f"Use one of {', '.join(PRESETS)}.", kind="missing")
        chosen = by_preset(shape, preset)  # type: ignore[arg-type]
        shape = chosen.changed(gait=shape.gait, frames=shape.frames)
    motion = next((m for m in room.documents.motions(held.id) if m.name == name), None)
    if motion is None:
        id = fresh_id()
        do(room, AddMotion(id=id, puppet=held.id, name=name, length=frames, cycle=True))
    else:
        id = motion.id
        known = next((r for r in motion.recipes.values() if isinstance(r, Gait)), None)
        shape = shape.changed(id=known.id) if known else shape
    do(room, DoRecipe(motion=id, recipe=shape))
    done = room.documents.motion(id)
    for said in done.recipes[shape.id].said:
        typer.echo(said, err=True)
    poses = ", ".join(f"{p.label} {f + 1}" for f, p in done.poses.items())
    typer.echo(f"“{name}”: {done.length} frames, {poses}")


def _asked(given: dict[str, object], step: float | None) -> Gait:
    try:
        return Gait.model_validate(given | {"step": step})
    except ValidationError as error:
        raise in_words(error) from None


@app.command("trace")
def trace_(
    production: str,
    motion: Annotated[str, typer.Option(help="the motion's name")],
    csv: Annotated[Path, typer.Option(help="the file to write")],
    joint: Annotated[list[str] | None, typer.Option(help="a joint's name; every joint if none is named")] = None,
) -> None:
    """Write where joints are on the stage in every frame: frame (from 1), joint, x, y (units), angle (degrees).
    Feet are also written as heel and toe."""
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    held = named(list(documents.motions()), motion, "motion", production)
    assert isinstance(held, Motion)
    puppet = documents.puppet(held.puppet)
    wanted = None
    if joint:
        wanted = {id for id, j in puppet.joints.items() if j.name in joint or id in joint}
        if lacking := [n for n in joint if all(n not in (id, j.name) for id, j in puppet.joints.items())]:
            raise Refusal(f"There is no joint “{lacking[0]}”.", where=puppet.name, kind="missing")
    legs = anatomy(puppet).legs if "thigh" in roles_of(puppet).values() else ()
    rows = trace(puppet, held, legs, wanted)
    with csv.open("w", newline="", encoding="utf-8") as file:
        writer = csv_writer(file)
        writer.writerow(("frame", "joint", "x", "y", "angle"))
        for f in range(held.length):
            writer.writerows((f + 1, r.name, *(f"{float(v[f]):.6f}" for v in (r.x, r.y, r.angle))) for r in rows)
    typer.echo(f"{csv}: {len(rows)} joints and ends of feet over {held.length} frames")


@app.command()
def check(
    production: str,
    json: Annotated[bool, typer.Option("--json", help="write what was found as JSON")] = False,
) -> None:
    """Look for likely mistakes in all rigs, motions and shots. The exit code is 0 if there are none, 1 if there
    are."""
    engine = open_database()
    documents = log.load(engine, find(engine, production)).documents
    found: list[dict[str, object]] = []
    for puppet in documents.puppets():
        found += [_told(f, puppet, None) for f in rig_findings(puppet)]
        for motion in documents.motions(puppet.id):
            seen = MotionSeen(Evaluation.full(puppet, motion), motion)
            found += [_told(f, puppet, motion) for f in motion_findings(seen, documents)]
            heard = voice_findings(puppet, motion, documents.lines_on(motion), per_second(documents.production.rate))
            found += [_told(f, puppet, motion) for f in heard]
    for shot in documents.shots():
        # What is wrong in its motions has been told with them.
        own = [f for f in shot_findings(documents, shot) if f.motion is None]
        found += [_told_of_shot(f, shot) for f in own]
    if json:
        typer.echo(dumps(found, ensure_ascii=False, indent=1))
    else:
        for f in found:
            where = f["shot"] or (f"{f['puppet']}, {f['motion']}" if f["motion"] else f["puppet"])
            typer.echo(f"{where}: {f['text']}" + (f" ({f['mend']}.)" if f["mend"] else ""))
        typer.echo(f"{len(found)} likely mistakes" if found else "All is well.")
    if found:
        raise typer.Exit(1)


def _told(found: Finding, puppet: Puppet, motion: Motion | None) -> dict[str, object]:
    """A finding as the command tells it; frames are counted from 1."""
    return {
        "shot": None,
        "puppet": puppet.name,
        "motion": motion.name if motion else None,
        "check": found.check,
        "text": found.text,
        "frame": None if found.frame is None else found.frame + 1,
        "joints": [puppet.joints[j].name for j in found.joints if j in puppet.joints],
        "pieces": [puppet.pieces[p].name for p in found.pieces if p in puppet.pieces],
        "keys": [{"channel": c, "frame": f + 1} for c, f in found.keys],
        "mend": found.mending or None,
    }


def _told_of_shot(found: ShotFinding, shot: Shot) -> dict[str, object]:
    """A finding in a shot as the command tells it."""
    who = shot.cast.get(found.cast or "")
    return {
        "shot": shot.name,
        "puppet": (who.name or who.puppet) if who is not None else None,
        "motion": None,
        "check": found.check,
        "text": found.text,
        "frame": None if found.frame is None else found.frame + 1,
        "joints": [],
        "pieces": [],
        "keys": [],
        "mend": None,
    }
