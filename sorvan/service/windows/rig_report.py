"""What the program makes of a rig, as sent to the page: findings, guessed roles, twins, meshes."""

from __future__ import annotations

import time
from functools import partial
from typing import Any

import numpy as np

from sorvan.core.art.colours import colours_in
from sorvan.core.art.source import Arts
from sorvan.core.change.views import USUAL, to_flip
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.rig import findings
from sorvan.core.deform.bend import Weighted
from sorvan.core.deform.sheet import SheetReady
from sorvan.core.model.puppet import DialStop, Piece, Puppet
from sorvan.core.plan.bending import Bender
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.seen_from_elsewhere import places_in_views
from sorvan.core.plan.turning import turnaround_of
from sorvan.core.rig.blinks import blink_parts
from sorvan.core.rig.limits import rest_direction
from sorvan.core.rig.proposal import loose_of
from sorvan.core.rig.roles import ARM, LEG, STANDING, roles_of
from sorvan.core.rig.sides import middles_of, twins
from sorvan.core.rig.views import offered_views
from sorvan.service.letters.messages import BendView, FindingView, MeshLetter, RigLetter, TurnView, ViewView


def finding_view(found: Finding) -> FindingView:
    """One likely mistake with its mend, as sent."""
    return FindingView(
        check=found.check,
        text=found.text,
        joints=tuple(found.joints),
        pieces=tuple(found.pieces),
        mend=found.mend,  # type: ignore[arg-type]
        mending=found.mending if found.mend else "",
        frame=found.frame,
        keys=found.keys,
    )


def rig_letter(evaluation: Evaluation) -> RigLetter:
    """Everything the Rig and Pieces benches show of a puppet that is not in its document."""
    puppet, arts = evaluation.puppet, evaluation.arts
    roles = roles_of(puppet)
    return RigLetter(
        puppet=puppet.id,
        findings=tuple(finding_view(f) for f in findings(puppet)),
        roles=dict(roles),
        twins=twins(puppet),
        middles={id: round(x, 2) for id, x in middles_of(puppet, [*puppet.pieces]).items()},
        bends=tuple(_bend_view(evaluation, b) for b in evaluation.rig.benders),
        colours={p.id: tuple(_colours(p, arts)) for p in puppet.pieces.values()} if arts else {},
        directions={id: rest_direction(puppet, id) for id, j in puppet.joints.items() if not j.handle},
        standing=tuple(id for id, role in roles.items() if role in STANDING),
        turn=_turn_view(puppet),
        named_views=views_named(puppet),
        loose=len(loose_of(puppet)),
        blinks=blink_parts(puppet),
    )


def views_named(puppet: Puppet) -> tuple[str, ...]:
    """The views that pieces of a puppet are named by, in their order round it."""
    found = offered_views(puppet)
    return tuple(name for at, name in USUAL if any(at in by for by in found.values()))


def _turn_view(puppet: Puppet) -> TurnView | None:
    dial = turnaround_of(puppet)
    if dial is None:
        return None
    views = dial.views()
    return TurnView(
        dial=dial.id,
        views=tuple(_view_view(v, p) for v, p in zip(views, places_in_views(puppet, views), strict=True)),
        to_flip=bool(to_flip(dial)),
    )


def _view_view(view: DialStop, places: dict[str, tuple[float, float]]) -> ViewView:
    return ViewView(
        at=view.at,
        values=dict(view.values),
        arms=view.shortens(ARM[0]),
        legs=view.shortens(LEG[0]),
        places={id: (round(x, 2), round(y, 2)) for id, (x, y) in places.items()},
    )


def _colours(piece: Piece, arts: Arts) -> list[str]:
    """Every colour of a piece's drawings, each once."""
    found: dict[str, None] = {}
    for d in piece.drawings:
        found |= dict.fromkeys(arts.kept(("colours", d.art), partial(_colours_in, arts, d.art)))
    return list(found)


def _colours_in(arts: Arts, art: str) -> list[str]:
    return colours_in(arts.art(art))


def _bend_view(evaluation: Evaluation, bender: Bender) -> BendView:
    """How fine a bending drawing is, and what a frame of it costs here and now."""
    began = time.perf_counter()
    bender.points(evaluation.worlds, 0, 1)
    took = time.perf_counter() - began
    mesh = bender.ready.solver.mesh if isinstance(bender.ready, SheetReady) else None
    return BendView(
        piece=evaluation.puppet.order[bender.piece],
        drawing=bender.drawing,
        points=bender.count,
        milliseconds=round(took * 1000, 2),
        triangles=len(mesh.triangles) if mesh else None,
        smallest_angle=round(mesh.smallest_angle(), 1) if mesh else None,
    )


def mesh_letters(evaluation: Evaluation, held: Piece, weights: Weighted | None, joint: str | None) -> list[MeshLetter]:
    """The mesh over a piece's shown drawing, at rest, with one joint's weights if it has any."""
    row = evaluation.puppet.order.index(held.id)
    drawing = held.drawings.index(held.shown())
    sheet = next(
        (
            b.ready.solver.mesh
            for b in evaluation.rig.benders
            if (b.piece, b.drawing) == (row, drawing) and isinstance(b.ready, SheetReady)
        ),
        None,
    )
    mesh = weights.mesh if weights else sheet
    if mesh is None:
        return []
    fields: dict[str, Any] = {
        "piece": held.id,
        "joint": joint,
        "vertices": np.ascontiguousarray(mesh.vertices, dtype="<f4").tobytes(),
        "triangles": np.ascontiguousarray(mesh.triangles, dtype="<i4").tobytes(),
    }
    joints = held.attach.joints if held.attach and held.attach.kind == "bend" else ()
    if weights is not None and joint in joints:
        own = weights.weights[:, joints.index(joint)]
        fields["weights"] = np.ascontiguousarray(own, dtype="<f4").tobytes()
    return [MeshLetter(**fields)]
