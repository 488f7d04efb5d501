"""Made-up shots: somebody who walks, put into a shot to do this and that."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np

from sorvan.core.geometry import Floats, place_in
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Member
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.shot.scene import Acted, InShot, ShotScene
from tests.core.walkers import planned, walker
from tests.core.worlds import do

NEAR = 0.05
"""Units by which an end of a foot may be higher than the other, and still stand."""
S = InShot(shot="s")


@lru_cache
def strolling(step: float = 150.0, frames: int = 12, **figure: Any) -> Documents:
    """A figure with a walk “m” planned on the spot, and an empty shot “s” of 96 frames."""
    documents = planned(walker(**figure), gait="walk", step=step, frames=frames)
    return do(documents, {"do": "add-shot", "id": "s", "name": "Along the quay", "length": 96})


def on_stage(documents: Documents, *spans: dict[str, Any], id: str = "c", **fields: Any) -> Documents:
    """The documents with the figure in the shot's cast, doing these spans."""
    cast = {"kind": "member", "id": id, "puppet": "a", "at": [200.0, 600.0], **fields}
    documents = do(documents, {"do": "add-cast", "shot": "s", "cast": cast})
    for n, span in enumerate(spans):
        whole = {"id": f"p{n}", "motion": "m", "start": 0, "frames": 96, **span}
        documents = do(
            documents, {"do": "set-span", "shot": "s", "cast": id, "span": whole, "match": span.get("blend", 0) > 0}
        )
    return documents


def changed_span(documents: Documents, **fields: Any) -> Documents:
    """The documents with the first span changed."""
    member = documents.shot("s").cast["c"]
    assert isinstance(member, Member)
    span = member.spans["p0"].changed(**fields).model_dump(mode="json")
    return do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": span})


def acted(documents: Documents, id: str = "c", times: Floats | None = None) -> Acted:
    """One of the cast, evaluated in the final pass."""
    scene = ShotScene.full(documents, InShot(shot="s", seen_as="final"), times=times)
    return next(a for a in scene.acted if a.cast.id == id)


def slides(found: Acted) -> Floats:
    """How far each foot slides along the stage from each frame to the next while it is held firmly (stage units),
    `(feet, frames)`. A foot that rolls stands on its heel or on its toe."""
    assert found.carried is not None
    place = found.carried.place
    rows = []
    for track in tracks(found.evaluation, anatomy(found.evaluation.puppet).legs):
        ends = [place_in(place, p.real, p.imag) for p in (track.heel, track.toe)]
        # What it stands on in both frames must stay; from one frame to the next it may roll from heel to toe.
        lowest = np.maximum(ends[0].imag, ends[1].imag)
        down = [p.imag > lowest - NEAR for p in ends]
        both = [d[1:] & d[:-1] for d in down]
        moved = np.max([np.where(b, np.abs(np.diff(p.real)), 0.0) for b, p in zip(both, ends, strict=True)], axis=0)
        held = found.evaluation.values.get(f"{track.joint}.plant")
        firm = np.zeros(place.shape[1], bool) if held is None else held[0] > 0.999
        rows.append(np.where(firm[1:] & firm[:-1], moved, 0.0))
    return np.array(rows)


def stood(found: Acted) -> int:
    """In how many frames a foot is held firmly."""
    planted = [v[0] > 0.999 for id, v in found.evaluation.values.items() if id.endswith(".plant")]
    return int(np.sum(planted))
