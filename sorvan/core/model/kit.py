"""A kit: a puppet that can be taken along, with its motions and what they need."""

from __future__ import annotations

from typing import Literal

from sorvan.core.model.base import Checked
from sorvan.core.model.documents import AnyDocument, Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production, Rate, StageSide, Swatch
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.voice import Voice


class Kit(Checked):
    """A puppet with its motions at a frame `rate`, the voice lines that they are placed on, and its swatches. `stage` is the
    width and height of the stage that it was made for (units), if that is known."""

    kind: Literal["kit"] = "kit"
    puppet: Puppet
    motions: tuple[Motion, ...] = ()
    voices: tuple[Voice, ...] = ()
    swatches: tuple[Swatch, ...] = ()
    rate: Rate = Rate()
    stage: tuple[StageSide, StageSide] | None = None

    @classmethod
    def of(cls, documents: Documents, puppet: str) -> Kit:
        """The kit of one puppet. Raises `Refusal` when it is gone."""
        held, production = documents.puppet(puppet), documents.production
        motions = tuple(documents.motions(puppet))
        lines = {id: line for motion in motions for id, line in documents.lines_on(motion).items()}
        used = {s for p in held.pieces.values() for s in p.swatches.values()}
        return cls(
            puppet=held,
            motions=motions,
            voices=tuple(lines.values()),
            swatches=tuple(s for id, s in production.swatches.items() if id in used),
            rate=production.rate,
            stage=(production.width, production.height),
        )

    def check(self) -> None:
        if any(m.puppet != self.puppet.id for m in self.motions):
            raise ValueError("a motion in it is another puppet's")
        self.documents()

    def documents(self) -> Documents:
        """It as a small production by itself."""
        production = Production(id="kit", name="kit", rate=self.rate, swatches={s.id: s for s in self.swatches})
        own: tuple[AnyDocument, ...] = (self.puppet, *self.motions, *self.voices)
        found = Documents({production.id: production}).with_(*own)
        if len(found.by_id) != len(own) + 1:
            raise ValueError("two documents in it have the same id")
        found.hold_together(Documents({}))
        return found

    def only(self, motions: list[str] | None) -> Kit:
        """The kit with some of its motions, and what those need; all of them for None."""
        if motions is None:
            return self
        kept = tuple(m for m in self.motions if m.id in motions)
        heard = {p.voice for m in kept for p in m.sounds.values()}
        return self.changed(motions=kept, voices=tuple(v for v in self.voices if v.id in heard))
