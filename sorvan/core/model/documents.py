"""All documents of a production together."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field, TypeAdapter

from sorvan.core.errors import missing
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet

Document = Annotated[Production | Puppet | Motion, Field(discriminator="kind")]
DOCUMENT: TypeAdapter[Production | Puppet | Motion] = TypeAdapter(Document)


@dataclass(frozen=True)
class Documents:
    """An immutable snapshot: one production, its puppets and its motions, by id."""

    by_id: dict[str, Production | Puppet | Motion]

    @property
    def production(self) -> Production:
        """The one production document."""
        return next(d for d in self.by_id.values() if isinstance(d, Production))

    def puppets(self) -> Iterator[Puppet]:
        """Every puppet, in the order they were made."""
        return (d for d in self.by_id.values() if isinstance(d, Puppet))

    def motions(self, puppet: str | None = None) -> Iterator[Motion]:
        """Every motion, or those of one puppet."""
        return (d for d in self.by_id.values() if isinstance(d, Motion) and puppet in (None, d.puppet))

    def puppet(self, id: str) -> Puppet:
        """The puppet with this id. Raises `Refusal` when it is gone."""
        found = self.by_id.get(id)
        if not isinstance(found, Puppet):
            raise missing("puppet", id)
        return found

    def motion(self, id: str) -> Motion:
        """The motion with this id. Raises `Refusal` when it is gone."""
        found = self.by_id.get(id)
        if not isinstance(found, Motion):
            raise missing("motion", id)
        return found

    def backdrop(self) -> Puppet | None:
        """The set that stands behind every motion, if one is chosen and still there."""
        chosen = self.production.backdrop
        found = self.by_id.get(chosen) if chosen else None
        return found if isinstance(found, Puppet) else None

    def with_(self, *documents: Production | Puppet | Motion) -> Documents:
        """A snapshot in which these stand in place of what had their ids."""
        return Documents({**self.by_id, **{d.id: d for d in documents}})

    def without(self, *ids: str) -> Documents:
        """A snapshot that lacks these."""
        return Documents({k: v for k, v in self.by_id.items() if k not in ids})

    def art_assets(self) -> frozenset[str]:
        """The assets that the pieces' drawings name directly."""
        return frozenset(d.art for p in self.puppets() for piece in p.pieces.values() for d in piece.drawings)

    def picture_assets(self) -> frozenset[str]:
        """The pictures that are named directly: those laid under the work."""
        return frozenset(id for p in self.puppets() if p.reference for id in p.reference.pictures)
