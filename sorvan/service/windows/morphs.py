"""How a drawing becomes another, as it is told to a page."""

from __future__ import annotations

import numpy as np

from sorvan.core.change.drawings import drawing
from sorvan.core.geometry import Floats
from sorvan.core.morph.ready import Ready
from sorvan.core.morph.trouble import advice, troubles
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ready_morphs import made_so
from sorvan.core.rig.skeleton import piece
from sorvan.service.letters.morphs import AdviceView, GoingView, LookAtMorph, MetView, MorphLetter, TroubleView


def morph_letter(evaluation: Evaluation, wanted: LookAtMorph) -> MorphLetter:
    """How one of a piece's drawings becomes another, as it is or as it is tried. Raises `Refusal` if one is gone."""
    held = piece(evaluation.puppet, wanted.piece)
    one, two = (drawing(held, id) for id in (wanted.first, wanted.second))
    morph = wanted.tried or held.morph(one.id, two.id)
    arts = evaluation.arts
    assert arts is not None
    ready, art = made_so(held, (one, two), morph, evaluation.production, arts)
    parts = np.array(wanted.parts)
    bad = troubles(ready, parts) if wanted.measure else []
    told = advice(arts.art(one.art), arts.art(two.art), (one.pivot, two.pivot), morph, parts) if wanted.advise else []
    return MorphLetter(
        n=wanted.n,
        piece=held.id,
        first=one.id,
        second=two.id,
        art=art,
        box=ready.box,
        count=ready.points.shape[1],
        ends=_f32(ready.points),
        parts=len(parts),
        points=_f32(ready.points_at(parts).transpose(2, 0, 1)),
        looks=_f32(ready.looks_at(parts).T),
        going=_going(ready),
        met=tuple({m.id: MetView(id=m.id, first=m.first, second=m.second) for m in ready.met}.values()),
        crossed=ready.crossed,
        shapes=ready.shapes,
        troubles=tuple(
            TroubleView(kind=t.kind, going=t.going, amounts=_f32(t.amounts), worst=t.worst, at=t.at) for t in bad
        ),
        advice=tuple(AdviceView(mark=a.mark, before=round(a.before, 4), after=round(a.after, 4)) for a in told),
        measured=wanted.measure,
    )


def _going(ready: Ready) -> tuple[GoingView, ...]:
    return tuple(
        GoingView(
            first=g.first,
            second=g.second,
            contours=tuple((c.start, c.stop) for c in g.contours),
            closed=g.closed,
            name=g.name,
        )
        for g in ready.going
    )


def _f32(values: Floats) -> bytes:
    return np.ascontiguousarray(values, dtype="<f4").tobytes()
