"""Commands on how pieces look: masks, colours, swatches, groups, and the picture to work from."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, PuppetCommand, several
from sorvan.core.change.given import Given, over
from sorvan.core.change.pieces import Pieces
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Name
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Swatch
from sorvan.core.model.puppet import Correction, Mask, Puppet, Reference
from sorvan.core.rig.skeleton import piece

Which = Annotated[str, Field(pattern=r"^(fill|stroke):#[0-9a-f]{8}$")]


class SetMasks(PuppetCommand):
    """Show pieces only inside of others, or only outside of them; what is null masks them no more, and others than those
    told of stay as they are."""

    do: Literal["set-masks"] = "set-masks"
    pieces: Pieces
    masks: Annotated[dict[Id, Literal["inside", "outside"] | None], Field(min_length=1, max_length=16)]

    def on(self, puppet: Puppet) -> Puppet:
        for masking, how in self.masks.items():
            if how is not None:
                piece(puppet, masking)
        pieces = dict(puppet.pieces)
        for id in self.pieces:
            held = piece(puppet, id)
            masks = over(self.masks, {m.piece: "inside" if m.inside else "outside" for m in held.masks})
            pieces[id] = held.changed(masks=tuple(Mask(piece=p, inside=how == "inside") for p, how in masks.items()))
        changed = puppet.changed(pieces=pieces)
        for id in self.pieces:
            _no_circle(changed, id)
        return changed

    def said(self, puppet: Puppet) -> str:
        what = several(len(self.pieces), "piece", piece(puppet, self.pieces[0]).name)
        return f"{'Mask' if any(self.masks.values()) else 'Unmask'} {what}"


def _no_circle(puppet: Puppet, id: str) -> None:
    waiting, seen = [id], set()
    while waiting:
        for mask in puppet.pieces[waiting.pop()].masks:
            if mask.piece == id:
                raise Refusal(
                    f"“{puppet.pieces[id].name}” would mask itself, by way of what masks it.",
                    where=puppet.pieces[id].name,
                    remedy="Choose a piece that it does not mask.",
                    kind="loop",
                )
            if mask.piece not in seen:
                seen.add(mask.piece)
                waiting.append(mask.piece)


class CorrectionGiven(Given, of=Correction):
    """What of a correction of colours is given."""


class SetLook(PuppetCommand):
    """Fade pieces or correct their colours; only the fields given are changed."""

    do: Literal["set-look"] = "set-look"
    pieces: Pieces
    opacity: Annotated[float, Field(ge=0, le=1)] | None = None
    colour: CorrectionGiven | None = None

    def on(self, puppet: Puppet) -> Puppet:
        given = {f: v for f in ("opacity", "colour") if (v := getattr(self, f)) is not None}
        pieces = dict(puppet.pieces)
        for id in self.pieces:
            held = piece(puppet, id)
            pieces[id] = held.changed(**{f: over(v, getattr(held, f)) for f, v in given.items()})
        return puppet.changed(pieces=pieces)

    def said(self, puppet: Puppet) -> str:
        what = several(len(self.pieces), "piece", piece(puppet, self.pieces[0]).name)
        return f"{'Fade' if self.opacity is not None else 'Correct the colours of'} {what}"


class LinkSwatch(Command):
    """Link a colour of pieces' art to a swatch, or, with none, let it be itself again."""

    do: Literal["link-swatch"] = "link-swatch"
    puppet: Id
    pieces: Pieces
    which: Which
    swatch: Id | None = None

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        if self.swatch is not None and self.swatch not in documents.production.swatches:
            raise missing("swatch", self.swatch)
        pieces = dict(puppet.pieces)
        for id in self.pieces:
            links = {k: v for k, v in piece(puppet, id).swatches.items() if k != self.which}
            if self.swatch is not None:
                links[self.which] = self.swatch
            pieces[id] = pieces[id].changed(swatches=links)
        return documents.with_(puppet.changed(pieces=pieces))

    def label(self, documents: Documents) -> str:
        what = several(len(self.pieces), "piece", piece(documents.puppet(self.puppet), self.pieces[0]).name)
        if self.swatch is None:
            return f"Unlink a colour of {what}"
        return f"Link a colour of {what} to “{documents.production.swatches[self.swatch].name}”"


class SwatchGiven(Given, of=Swatch):
    """What of a swatch is given."""


class SetSwatch(Command):
    """Add a swatch to the production's palette, or change what is given of the one with its id."""

    do: Literal["set-swatch"] = "set-swatch"
    swatch: SwatchGiven

    def result(self, documents: Documents) -> Documents:
        production = documents.production
        swatch = self._swatch(documents)
        return documents.with_(production.changed(swatches={**production.swatches, swatch.id: swatch}))

    def _swatch(self, documents: Documents) -> Swatch:
        return self.swatch.among(documents.production.swatches, Swatch, "swatch")

    def label(self, documents: Documents) -> str:
        known = self.swatch.told_id in documents.production.swatches
        return f"{'Change' if known else 'Add'} swatch “{self._swatch(documents).name}”"


class RemoveSwatch(Command):
    """Take a swatch out of the palette; colours linked to it are themselves again."""

    do: Literal["remove-swatch"] = "remove-swatch"
    swatch: Id

    def result(self, documents: Documents) -> Documents:
        production = documents.production
        if self.swatch not in production.swatches:
            raise missing("swatch", self.swatch)
        swatches = {id: s for id, s in production.swatches.items() if id != self.swatch}
        result = documents.with_(production.changed(swatches=swatches))
        for puppet in documents.puppets():
            pieces = dict(puppet.pieces)
            for p in puppet.pieces.values():
                if self.swatch in p.swatches.values():
                    links = {k: v for k, v in p.swatches.items() if v != self.swatch}
                    pieces[p.id] = p.changed(swatches=links)
            if pieces != puppet.pieces:
                result = result.with_(puppet.changed(pieces=pieces))
        return result

    def label(self, documents: Documents) -> str:
        found = documents.production.swatches.get(self.swatch)
        return f"Remove swatch “{found.name if found else self.swatch}”"


class SetGroup(PuppetCommand):
    """Rename, hide or lock a group with all that is in it; only the fields given are changed."""

    do: Literal["set-group"] = "set-group"
    group: Id
    name: Name | None = None
    hidden: bool | None = None
    locked: bool | None = None

    def on(self, puppet: Puppet) -> Puppet:
        if self.group not in puppet.groups:
            raise missing("group", self.group)
        given = {f: v for f in ("name", "hidden", "locked") if (v := getattr(self, f)) is not None}
        changed = puppet.groups[self.group].changed(**given)
        return puppet.changed(groups={**puppet.groups, self.group: changed})

    def said(self, puppet: Puppet) -> str:
        found = puppet.groups.get(self.group)
        name = found.name if found else self.group
        if self.hidden is not None:
            return f"{'Hide' if self.hidden else 'Show'} group “{name}”"
        if self.locked is not None:
            return f"{'Lock' if self.locked else 'Unlock'} group “{name}”"
        return f"Rename group “{name}”"


class ReferenceGiven(Given, of=Reference):
    """What of a reference is given."""


class SetReference(PuppetCommand):
    """Lay pictures under the work, change what is given of how they lie, or, with none, take them away."""

    do: Literal["set-reference"] = "set-reference"
    reference: ReferenceGiven | None

    def on(self, puppet: Puppet) -> Puppet:
        return puppet.changed(reference=self._laid(puppet))

    def _laid(self, puppet: Puppet) -> Reference | None:
        if self.reference is None:
            return None
        before = puppet.reference
        return self.reference.over(before) if before else self.reference.anew(Reference, "reference")

    def said(self, puppet: Puppet) -> str:
        before, after = puppet.reference, self._laid(puppet)
        if after is None:
            return "Take the reference away"
        return "Change the reference" if before and before.pictures == after.pictures else "Lay a reference"


LookCommand = SetMasks | SetLook | LinkSwatch | SetSwatch | RemoveSwatch | SetGroup | SetReference
