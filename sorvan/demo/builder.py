"""The demo production as it is built, by the same commands that a user's hand sends."""

from __future__ import annotations

from collections.abc import Mapping

from sorvan.core.art.colours import colours_in
from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.pieces import SetPivot
from sorvan.core.change.production import AddPuppet
from sorvan.core.change.rig import LinkJoint
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.interchange.archive import KeptFiles
from sorvan.interchange.imported import bring_in
from sorvan.interchange.svg.read import read_svg

Pivots = Mapping[str, tuple[float, float]]


class Builder:
    """Documents that grow command by command, with the art that they name."""

    def __init__(self, production: Production) -> None:
        self.documents = Documents({production.id: production})
        self.kept: KeptFiles = {}
        self.colours: dict[str, dict[str, list[str]]] = {}

    def do(self, command: AnyCommand) -> None:
        """Apply a command."""
        self.documents = command.apply(self.documents)

    def bring(self, id: str, name: str, art: bytes, pivots: Pivots, links: Mapping[str, str]) -> dict[str, str]:
        """A puppet from a drawing, its pieces turned about these places and hung on one another. Gives the
        pieces' ids by their names, which are the same whenever the demo is built."""
        self.do(AddPuppet(id=id, name=name))
        named = self.more(id, art)
        for piece, (x, y) in pivots.items():
            self.do(SetPivot(puppet=id, piece=named[piece], x=x, y=y))
        for piece, parent in links.items():
            self.do(LinkJoint(puppet=id, joint=named[piece], parent=named[parent]))
        return named

    def more(self, id: str, art: bytes) -> dict[str, str]:
        """More pieces of a puppet from a drawing. Gives the ids of all its pieces by their names."""
        found = read_svg(art, f"{id}.svg")
        bringing = bring_in(self.documents.production, id, [found])
        self.do(bringing.changed(pieces=tuple(
            p.changed(id=f"{id[0]}-{p.name.replace(' ', '-')}", drawing=p.drawing.changed(id="d"))
            for p in bringing.pieces
        )))  # fmt: skip
        self.kept |= found.assets
        self.colours.setdefault(id, {}).update({p.name: colours_in(p.art) for p in found.pieces})
        return {p.name: p.id for p in self.documents.puppet(id).pieces.values()}
