"""Making views of pieces that are named by them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal

from sorvan.core.change.command import Command
from sorvan.core.change.dials import with_dial
from sorvan.core.change.drawings import GatherDrawings
from sorvan.core.change.in_views import PlaceInView
from sorvan.core.change.pieces import ShiftPieces
from sorvan.core.change.views import USUAL, turnaround, with_turnaround
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id
from sorvan.core.model.channels import channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import DialStop, Puppet
from sorvan.core.rig.riding import with_drawing
from sorvan.core.rig.skeleton import box_of, piece_worlds, rest_worlds
from sorvan.core.rig.views import boxes, drawn_by_view, view_of

NEAR = 0.01
"""Units within which two pins lie at the same place."""


class GatherViews(Command):
    """Make views of pieces that are named by them: what is one thing in several views becomes the drawings of one
    piece, each seen in its view, turning about its own pin there, and in front as it was drawn; where something has no
    drawing it is not seen. Views that were drawn beside one another are laid over the first, foot on foot. A puppet that could not be turned can be."""

    do: Literal["gather-views"] = "gather-views"
    puppet: Id
    dial: Id

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        if self.dial not in puppet.dials:
            puppet = with_turnaround(puppet, self.dial)
            documents = documents.with_(puppet)
        turnaround(puppet, self.dial)
        named = drawn_by_view(puppet)
        if not named:
            raise Refusal(
                "No pieces are named by views.",
                where=puppet.name,
                remedy="Name them “head front”, “head side”, “head back” and so on, or group them by view.",
            )
        documents = self._laid_over(documents, named)
        pins = rest_worlds(documents.puppet(self.puppet))
        places = {
            id: pins[documents.puppet(self.puppet).pieces[id].joint].at for by in named.values() for id in by.values()
        }
        for by in named.values():
            first, *others = (by[at] for at in sorted(by))
            gather = GatherDrawings(puppet=self.puppet, piece=first, others=tuple(others), stay=True)
            documents = gather.result(documents)
        documents = documents.with_(_called(documents.puppet(self.puppet), puppet, named))
        after = documents.puppet(self.puppet)
        dial = turnaround(after, self.dial)
        names = dict(USUAL)
        stops = {s.at: s for s in dial.stops}
        for at in sorted({0.0, *(at for by in named.values() for at in by)}):
            held = stops.get(at, DialStop(at=at, name=names[at]))
            stops[at] = held.changed(values={**held.values, **_shown_in(puppet, after, named, at)})
        ordered = tuple(sorted(stops.values(), key=lambda s: s.at))
        documents = documents.with_(with_dial(after, dial.changed(stops=ordered)))
        # Each turns in its view about the pin that it had there.
        for by in named.values():
            joint = after.pieces[by[min(by)]].joint
            for at in sorted(by)[1:]:
                x, y = places[by[at]]
                if math.dist(places[by[at]], places[by[min(by)]]) > NEAR:
                    placed = PlaceInView(puppet=self.puppet, dial=self.dial, at=at, joint=joint, x=x, y=y)
                    documents = placed.result(documents)
        return documents

    def _laid_over(self, documents: Documents, named: dict[str, dict[float, str]]) -> Documents:
        puppet = documents.puppet(self.puppet)
        worlds = piece_worlds(puppet)
        around = boxes(
            named, {id: box_of(puppet.pieces[id], worlds[id]) for by in named.values() for id in by.values()}
        )
        first = around[min(around)]
        for at, box in around.items():
            shared = min(first[2], box[2]) - max(first[0], box[0])
            if shared > min(first[2] - first[0], box[2] - box[0]) / 2:
                # It lies where the first does already.
                continue
            dx, dy = (first[0] + first[2] - box[0] - box[2]) / 2, first[3] - box[3]
            pieces = tuple(by[at] for by in named.values() if at in by)
            documents = ShiftPieces(puppet=self.puppet, pieces=pieces, dx=dx, dy=dy).result(documents)
        return documents

    def label(self, documents: Documents) -> str:
        return f"Make views of “{documents.puppet(self.puppet).name}” by name"


def _called(puppet: Puppet, before: Puppet, named: Mapping[str, Mapping[float, str]]) -> Puppet:
    """The puppet whose new drawings are called by their views, where their own names did not tell them."""
    names = dict(USUAL)
    for by in named.values():
        held = puppet.pieces[by[min(by)]]
        if len(held.drawings) != len(by):
            continue
        for at, drawing in zip(sorted(by), held.drawings, strict=True):
            if view_of(before.pieces[by[at]].name) is None:
                puppet = with_drawing(puppet, puppet.pieces[held.id], drawing.changed(name=names[at]))
    return puppet


def _shown_in(
    before: Puppet, after: Puppet, named: Mapping[str, Mapping[float, str]], at: float
) -> dict[str, tuple[float, ...]]:
    """What a view holds of things that are drawn by view: which drawing, what is not seen, what lies otherwise."""
    found: dict[str, tuple[float, ...]] = {}
    drawn: dict[str, str] = {}
    for by in named.values():
        id = by[min(by)]
        if at not in by:
            found[channel_id(id, "opacity")] = (0.0,)
            continue
        drawn[id] = by[at]
        if at != min(by):
            found[channel_id(id, "show")] = (float(sorted(by).index(at)),)
    return found | _lying(sorted(drawn, key=lambda id: before.order.index(drawn[id])), after)


def _lying(drawn: list[str], puppet: Puppet) -> dict[str, tuple[float, ...]]:
    """Order for pieces that should lie so from back to front. As few as can be are moved, each right in front of what
    comes before it, so that they stay where they are among the others."""
    at = {id: puppet.order.index(id) for id in drawn}
    # The longest row that lies as it should already (patience sorting).
    rows: list[list[str]] = []
    for id in drawn:
        before = [row for row in rows if at[row[-1]] < at[id]]
        longest: list[str] = max(before, key=len) if before else []
        rows.append([*longest, id])
    kept: list[str] = max(rows, key=len) if rows else []
    staying = set(kept)
    found: dict[str, tuple[float, ...]] = {}
    place = min(at.values(), default=0) - 1.0
    for id in drawn:
        place = float(at[id]) if id in staying else place + 1 / (len(drawn) + 1)
        if id not in staying:
            found[channel_id(id, "order")] = (round(place - at[id], 4),)
    return found


GatherCommand = GatherViews
