"""Commands on the drawings that a piece can show."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.pieces import AddPieces, RemovePieces
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.art import Box
from sorvan.core.model.base import AssetId, Id, Name, Number, Value
from sorvan.core.model.channels import channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Drawing, Piece, Puppet
from sorvan.core.model.retouch import Retouch
from sorvan.core.model.shot import Member
from sorvan.core.rig.names import words
from sorvan.core.rig.riding import sharers, with_drawing, with_drawings
from sorvan.core.rig.sides import free_name
from sorvan.core.rig.skeleton import box_of, piece, piece_worlds


def drawing(held: Piece, id: str) -> Drawing:
    """The piece's drawing with this id. Raises `Refusal` when it is gone."""
    found = next((d for d in held.drawings if d.id == id), None)
    if found is None:
        raise missing("drawing", id)
    return found


def numbered(held: Piece, new: tuple[Drawing, ...]) -> tuple[Drawing, ...]:
    """The piece's drawings and new ones behind them, each with a number and a name of its own."""
    found = list(held.drawings)
    for d in new:
        if any(d.id == f.id for f in found):
            raise Refusal("That drawing is there already.", where=d.name, kind="conflict")
        number = max((f.number for f in found), default=-1) + 1
        found.append(d.changed(number=number, name=free_name(d.name, [f.name for f in found])))
    return tuple(found)


class AddDrawings(PuppetCommand):
    """Give a piece more drawings that it can show."""

    do: Literal["add-drawings"] = "add-drawings"
    piece: Id
    drawings: Annotated[tuple[Drawing, ...], Field(min_length=1, max_length=500)]

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        return with_drawings(puppet, held, numbered(held, self.drawings))

    def said(self, puppet: Puppet) -> str:
        name = piece(puppet, self.piece).name
        return f"Add {several(len(self.drawings), 'drawing', self.drawings[0].name)} to “{name}”"


class GatherDrawings(Command):
    """Make other pieces' drawings replacements of one piece; each stays where it stood. Only pictures that were cut to
    what is in them, and so have no place of their own, are laid on it middle to middle where they lay apart.

    Drawings that are numbered by name come in the order of their numbers, and keep them where nothing is keyed yet.
    """

    do: Literal["gather-drawings"] = "gather-drawings"
    puppet: Id
    piece: Id
    others: Annotated[tuple[Id, ...], Field(min_length=1, max_length=500)]
    stay: bool = False
    """Whether all stay where they stood, pictures without places too."""

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        held = piece(puppet, self.piece)
        if self.piece in self.others:
            raise Refusal("A piece can't be gathered into itself.", remedy="Choose the other pieces.")
        worlds = piece_worlds(puppet)
        at = worlds[held.id].place(held.shown().pivot)
        found: list[Drawing] = []
        for id in self.others:
            other = piece(puppet, id)
            pivot = worlds[id].inverse().place(at)
            moved = (pivot[0] - other.shown().pivot[0], pivot[1] - other.shown().pivot[1])
            apart = not _overlap(box_of(held, worlds[held.id]), box_of(other, worlds[id]))
            if apart and not self.stay and _cut_out(held) and _cut_out(other):
                moved = _onto(held, other)
            for d in other.drawings:
                shifted = (d.pivot[0] + moved[0], d.pivot[1] + moved[1])
                name = other.name if len(other.drawings) == 1 else d.name
                found.append(d.changed(id=f"{id}-{d.number}"[-40:], name=name, pivot=shifted))
        shown = held.shown().id
        if len(held.drawings) == 1:
            # It goes by what the piece is called now, as the others do.
            held = held.changed(drawings=(held.drawings[0].changed(name=held.name),))
        drawings = numbered(held, tuple(found))
        if len(held.drawings) == 1 and (by := _by_number(drawings)):
            keyed = _chosen(documents, puppet, held.id)
            drawings = tuple(by[n].changed(number=by[n].number if keyed else n) for n in sorted(by))
        puppet = with_drawings(puppet, held, drawings)
        if drawings[0].id != shown:
            # What showed goes on showing, also where another is the first now.
            puppet = puppet.with_pieces(puppet.pieces[held.id].changed(shows=shown))
        return RemovePieces(puppet=self.puppet, pieces=self.others).apply(documents.with_(puppet))

    def label(self, documents: Documents) -> str:
        name = piece(documents.puppet(self.puppet), self.piece).name
        return f"Gather {several(len(self.others), 'piece')} as drawings of “{name}”"


def _overlap(one: Box, two: Box) -> bool:
    return one[0] <= two[2] and two[0] <= one[2] and one[1] <= two[3] and two[1] <= one[3]


def _cut_out(held: Piece) -> bool:
    """Whether what a piece shows begins where its picture does: it was cut to what is in it."""
    left, top, _, _ = held.shown().bounds
    return abs(left) < CUT and abs(top) < CUT


CUT = 0.5
"""Units that are left about what is in a picture that was cut to it."""


def _onto(held: Piece, other: Piece) -> tuple[float, float]:
    """By how much another piece's pivots are moved to lay the middle of what it shows on the middle of this one's."""
    (l, t, r, b), (hl, ht, hr, hb) = other.shown().bounds, held.shown().bounds
    middle = ((hl + hr) / 2 - held.shown().pivot[0], (ht + hb) / 2 - held.shown().pivot[1])
    return (l + r) / 2 - middle[0] - other.shown().pivot[0], (t + b) / 2 - middle[1] - other.shown().pivot[1]


def _chosen(documents: Documents, puppet: Puppet, piece: str) -> bool:
    """Whether anything says by number which drawing a piece shows."""
    channel = channel_id(piece, "show")
    members = (c for s in documents.all_shots() for c in s.cast.values() if isinstance(c, Member))
    return (
        any(channel in m.channels for m in documents.motions(puppet.id))
        or any(channel in stop.values for dial in puppet.dials.values() for stop in dial.stops)
        or any(channel in c.over for c in members if c.puppet == puppet.id)
    )


def _by_number(drawings: tuple[Drawing, ...]) -> dict[int, Drawing]:
    """Drawings by the one number that each has in its name; none unless all have one of their own."""
    found: dict[int, Drawing] = {}
    for d in drawings:
        numbers = [int(w) for w in words(d.name) if w.isdecimal()]
        if len(numbers) == 1 and numbers[0] <= LARGEST_NUMBER:
            found[numbers[0]] = d
    return found if len(found) == len(drawings) else {}


LARGEST_NUMBER = 9999
"""The largest number that a drawing may have."""
LINES = ("upright", "guide")
"""The guide lines of a drawing: that tells how far to the right, and that tells how far down."""


class SetDrawing(PuppetCommand):
    """Rename a drawing, set its guide lines (across, and upright), or shift it against the others (drawing units)."""

    do: Literal["set-drawing"] = "set-drawing"
    piece: Id
    drawing: Id
    name: Name | None = None
    guide: Number | None = None
    upright: Number | None = None
    dx: Number = 0.0
    dy: Number = 0.0

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        found = drawing(held, self.drawing)
        given: dict[str, object] = {"pivot": (found.pivot[0] - self.dx, found.pivot[1] - self.dy)}
        if self.name is not None:
            given["name"] = free_name(self.name, [d.name for d in held.drawings if d.id != found.id])
        given |= {line: getattr(self, line) for line in LINES if line in self.model_fields_set}
        return with_drawing(puppet, held, found.changed(**given))

    def said(self, puppet: Puppet) -> str:
        name = drawing(piece(puppet, self.piece), self.drawing).name
        if self.name is not None:
            return f"Rename drawing “{name}”"
        return f"{'Set the guides of' if self.model_fields_set & {*LINES} else 'Line up'} drawing “{name}”"


class NudgeGuide(PuppetCommand):
    """Move a guide line of a drawing (drawing units). One that was not there begins across at a third of the drawing, where
    lips are, or upright in its middle."""

    do: Literal["nudge-guide"] = "nudge-guide"
    piece: Id
    drawing: Id
    line: Literal["guide", "upright"]
    by: Number = 0.0

    def on(self, puppet: Puppet) -> Puppet:
        found = drawing(piece(puppet, self.piece), self.drawing)
        left, top, right, bottom = found.bounds
        first = round((2 * top + bottom) / 3 if self.line == "guide" else (left + right) / 2, 2)
        before = getattr(found, self.line)
        at = (first if before is None else before) + self.by
        of = {"puppet": puppet.id, "piece": self.piece, "drawing": found.id}
        return SetDrawing.model_validate(of | {self.line: at}).on(puppet)

    def said(self, puppet: Puppet) -> str:
        return f"Set the guides of drawing “{drawing(piece(puppet, self.piece), self.drawing).name}”"


class OrderDrawings(PuppetCommand):
    """Put a piece's drawings in another order; keys go on choosing the ones they chose."""

    do: Literal["order-drawings"] = "order-drawings"
    piece: Id
    order: Annotated[tuple[Id, ...], Field(min_length=1, max_length=1000)]

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        if sorted(self.order) != sorted(d.id for d in held.drawings):
            raise Refusal(
                "The drawings are no longer the same.", remedy="Look again, then order them.", kind="conflict"
            )
        shown = held.shown().id
        ordered = with_drawings(puppet, held, tuple(drawing(held, id) for id in self.order))
        pieces = dict(ordered.pieces)
        for id in sharers(puppet, held):
            if pieces[id].shows is None:
                pieces[id] = pieces[id].changed(shows=shown)
        return ordered.changed(pieces=pieces)

    def said(self, puppet: Puppet) -> str:
        return f"Reorder the drawings of “{piece(puppet, self.piece).name}”"


class ShowDrawing(PuppetCommand):
    """Choose the drawing that a piece shows at rest."""

    do: Literal["show-drawing"] = "show-drawing"
    piece: Id
    drawing: Id

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        changed = held.changed(shows=drawing(held, self.drawing).id)
        return puppet.changed(pieces={**puppet.pieces, held.id: changed})

    def said(self, puppet: Puppet) -> str:
        held = piece(puppet, self.piece)
        return f"Show “{drawing(held, self.drawing).name}” on “{held.name}”"


class RemoveDrawings(PuppetCommand):
    """Take drawings away from a piece; one must be left."""

    do: Literal["remove-drawings"] = "remove-drawings"
    piece: Id
    drawings: Annotated[tuple[Id, ...], Field(min_length=1)]

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        going = {drawing(held, id).id for id in self.drawings}
        left = tuple(d for d in held.drawings if d.id not in going)
        if not left:
            raise Refusal("A piece keeps at least one drawing.", where=held.name, remedy="Remove the piece instead.")
        return with_drawings(puppet, held, left)

    def said(self, puppet: Puppet) -> str:
        held = piece(puppet, self.piece)
        return f"Remove {several(len(self.drawings), 'drawing', drawing(held, self.drawings[0]).name)}"


EDGES = ("left", "top", "right", "bottom")
"""The edges of a drawing, in the order of its bounds."""


class RegisterDrawings(PuppetCommand):
    """Line a piece's drawings up with one of them: by their guide lines, each way in which both have one, by their
    middles, or by one edge, which leaves the other way as it is."""

    do: Literal["register-drawings"] = "register-drawings"
    piece: Id
    to: Id
    by: Literal["guide", "middle", "left", "top", "right", "bottom"]

    def on(self, puppet: Puppet) -> Puppet:
        held = piece(puppet, self.piece)
        kept = drawing(held, self.to)
        if self.by == "guide" and all(getattr(kept, line) is None for line in LINES):
            raise Refusal(
                f"“{kept.name}” has no guide line.", where=held.name, remedy="Drag its guide line into place first."
            )
        drawings = tuple(d if d.id == kept.id else self._lined(d, kept) for d in held.drawings)
        return with_drawings(puppet, held, drawings)

    def _lined(self, d: Drawing, kept: Drawing) -> Drawing:
        if self.by == "guide":
            pivot = list(d.pivot)
            for i, line in enumerate(LINES):
                own, its = getattr(d, line), getattr(kept, line)
                if own is not None and its is not None:
                    pivot[i] = own + kept.pivot[i] - its
            return d.changed(pivot=(pivot[0], pivot[1]))
        if self.by != "middle":
            edge = EDGES.index(self.by)
            pivot = list(d.pivot)
            pivot[edge % 2] = d.bounds[edge] + kept.pivot[edge % 2] - kept.bounds[edge]
            return d.changed(pivot=(pivot[0], pivot[1]))
        away = [kept.pivot[i] - (kept.bounds[i] + kept.bounds[i + 2]) / 2 for i in (0, 1)]
        middle = [(d.bounds[i] + d.bounds[i + 2]) / 2 + away[i] for i in (0, 1)]
        return d.changed(pivot=(middle[0], middle[1]))

    def said(self, puppet: Puppet) -> str:
        name = piece(puppet, self.piece).name
        what = {"guide": "guide lines", "middle": "middles"}.get(self.by, f"{self.by} edges")
        return f"Line up the drawings of “{name}” by their {what}"


class ShareDrawings(PuppetCommand):
    """Let pieces share one set of drawings (that of the first), or give one a copy of its own."""

    do: Literal["share-drawings"] = "share-drawings"
    pieces: Annotated[tuple[Id, ...], Field(min_length=1, max_length=50)]
    share: bool

    def on(self, puppet: Puppet) -> Puppet:
        first = piece(puppet, self.pieces[0])
        pieces = dict(puppet.pieces)
        for id in self.pieces:
            given: dict[str, object] = {"shared": (first.shared or first.id) if self.share else None}
            if self.share:
                # How its own became one another says nothing of these.
                given |= {"drawings": first.drawings, "shows": first.shows, "morphs": first.morphs}
            pieces[id] = piece(puppet, id).changed(**given)
        return puppet.changed(pieces=pieces)

    def said(self, puppet: Puppet) -> str:
        name = piece(puppet, self.pieces[0]).name
        return f"{'Share the drawings of' if self.share else 'Give own drawings to'} “{name}”"


class Renewed(Value):
    """New art for a drawing, touched up again as the old one was."""

    piece: Id
    drawing: Id
    art: AssetId
    bounds: Box
    retouch: Retouch | None = None


class RenewArt(Command):
    """Take a new version of the art: drawings change in place, and what is new comes in.

    Pivots, joints, links and keys stay as they are.
    """

    do: Literal["renew-art"] = "renew-art"
    puppet: Id
    renewed: Annotated[tuple[Renewed, ...], Field(max_length=5000)]
    added: AddPieces | None = None
    source: str = ""

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        for new in self.renewed:
            held = piece(puppet, new.piece)
            changed = drawing(held, new.drawing).with_art(new.art, new.bounds, retouch=new.retouch)
            puppet = with_drawing(puppet, held, changed)
        result = documents.with_(puppet)
        return self.added.apply(result) if self.added else result

    def label(self, documents: Documents) -> str:
        return f"Take the new version of {self.source or 'the art'}"


DrawingCommand = (
    AddDrawings
    | GatherDrawings
    | SetDrawing
    | NudgeGuide
    | OrderDrawings
    | ShowDrawing
    | RemoveDrawings
    | RegisterDrawings
    | ShareDrawings
    | RenewArt
)
