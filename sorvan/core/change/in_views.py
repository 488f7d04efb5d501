"""Commands on how single joints and pieces are in one view."""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.dials import with_dial
from sorvan.core.change.drawings import numbered
from sorvan.core.change.views import OfView, turnaround, view_at
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number
from sorvan.core.model.channels import AS_AT_REST, channel_id
from sorvan.core.model.puppet import Dial, DialStop, Drawing, Puppet
from sorvan.core.plan.turning import seen_from
from sorvan.core.rig.riding import with_drawing, with_drawings
from sorvan.core.rig.skeleton import children, joint, piece, rest_worlds


class PlaceInView(OfView):
    """Say where a joint lies in a view (stage units, in the mirror too), what hangs on it staying where it is: so it turns
    about another place there; only what is given. Drawings that are seen in this view alone stay too; others go along with their joint."""

    do: Literal["place-in-view"] = "place-in-view"
    joint: Id
    x: Number | None = None
    y: Number | None = None

    def on(self, puppet: Puppet) -> Puppet:
        dial = turnaround(puppet, self.dial)
        held, view = joint(puppet, self.joint), view_at(dial, self.at)
        if self.at == 0:
            raise Refusal(
                "The first view is how the puppet is rigged.", where=dial.name, remedy="Move the joint itself."
            )
        worlds = rest_worlds(seen_from(puppet, self.at))
        world = worlds[held.id]
        x = world.e if self.x is None else 2 * puppet.origin[0] - self.x if view.flips else self.x
        away = (x - world.e, 0.0 if self.y is None else self.y - world.f)
        above = worlds[held.parent] if held.parent and not held.world else None
        values = dict(dial.view(view).values)
        _move(values, held.id, above.inverse().arrow(away) if above else away)
        inward = world.inverse()
        for below in children(puppet.joints, held.id):
            if not puppet.joints[below].world:
                x, y = inward.arrow(away)
                _move(values, below, (-x, -y))
        for p in puppet.pieces.values():
            own = _own_drawing(dial, view, p.id)
            shown = next((d for d in p.drawings if own is not None and d.number == own), None)
            if p.joint == held.id and shown is not None and shown.id != p.shown().id:
                x, y = (world @ p.fit.affine()).inverse().arrow(away)
                moved = (shown.pivot[0] + x, shown.pivot[1] + y)
                puppet = with_drawing(puppet, p, shown.changed(pivot=moved))
        own_values = {c: v for c, v in values.items() if view.of is None or dial.view(view).values.get(c) != v}
        kept = view.changed(values={**view.values, **own_values})
        return with_dial(puppet, dial.changed(stops=tuple(kept if s is view else s for s in dial.stops)))

    def said(self, puppet: Puppet) -> str:
        return f"Place “{joint(puppet, self.joint).name}” in the view {self.named(puppet)}"


def _move(values: dict[str, tuple[float, ...]], id: str, by: tuple[float, float]) -> None:
    x, y = values.get(channel_id(id, "move"), (0.0, 0.0))
    values[channel_id(id, "move")] = (round(x + by[0], 4), round(y + by[1], 4))


def _own_drawing(dial: Dial, view: DialStop, piece: str) -> float | None:
    """The number of the drawing that a piece shows in this view and in none beside it, but those made of it."""
    number = dial.view(view).values.get(channel_id(piece, "show"), (AS_AT_REST,))[0]
    others = [s for s in dial.stops if s is not view and s.of != view.at]
    elsewhere = [dial.view(s).values.get(channel_id(piece, "show"), (AS_AT_REST,))[0] for s in others]
    return None if number == AS_AT_REST or number in elsewhere else number


class DrawInView(OfView):
    """Give a piece a drawing that is seen in this view, beside those that it has."""

    do: Literal["draw-in-view"] = "draw-in-view"
    piece: Id
    drawing: Drawing

    def on(self, puppet: Puppet) -> Puppet:
        dial = turnaround(puppet, self.dial)
        view, held = view_at(dial, self.at), piece(puppet, self.piece)
        puppet = with_drawings(puppet, held, numbered(held, (self.drawing,)))
        number = next(d.number for d in puppet.pieces[held.id].drawings if d.id == self.drawing.id)
        kept = view.changed(values={**view.values, channel_id(held.id, "show"): (float(number),)})
        return with_dial(puppet, dial.changed(stops=tuple(kept if s is view else s for s in dial.stops)))

    def said(self, puppet: Puppet) -> str:
        return f"Draw “{piece(puppet, self.piece).name}” anew in the view {self.named(puppet)}"


InViewCommand = PlaceInView | DrawInView
