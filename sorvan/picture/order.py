"""What is to be rendered, and the plan and settings that follow from it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from pydantic import Field

from sorvan.core.art.source import Arts
from sorvan.core.model.base import Value
from sorvan.core.model.documents import Documents
from sorvan.core.plan.plan import Plan
from sorvan.core.plan.scene import InMotion, Staged
from sorvan.core.voice.mixing import Samples
from sorvan.picture.film import Format, Settings, frames_in, size_for
from sorvan.picture.sound import heard_on

PART_FRAMES = 48
PART_PIXELS = PART_FRAMES * 1280 * 720
"""Frames in one part of a render, and the pixels beyond which it has fewer."""


class RenderOrder(Value):
    """What to render: frames as shown to users, from 1, both ends included; width in pixels."""

    motion: str
    format: Format = "mp4"
    first: Annotated[int, Field(ge=1)] | None = None
    last: Annotated[int, Field(ge=1)] | None = None
    width: Annotated[int, Field(ge=16, le=8192)] | None = None
    clear: bool = False
    sound: bool = True

    def settings(self, documents: Documents) -> Settings:
        """The settings for this order. Raises `Refusal` if it can't be made."""
        motion, production = documents.motion(self.motion), documents.production
        start, stop = frames_in(motion.length, self.first, self.last)
        width, height = size_for(production.width, production.height, self.width, self.format)
        clear = self.clear and self.format == "png"
        return Settings(self.format, start, stop, width, height, production.rate, clear)

    def plan(self, documents: Documents, arts: Arts) -> Plan:
        """What is drawn. Raises `Refusal` if it can't be."""
        clear = self.clear and self.format == "png"
        return Staged.full(documents, InMotion(motion=self.motion, backdrop=not clear), arts).plan()

    def heard(self, documents: Documents, asset: Callable[[str], bytes]) -> Samples | None:
        """What is heard; None for pictures alone, and where nothing is."""
        if not self.sound or self.format != "mp4":
            return None
        settings = self.settings(documents)
        return heard_on(documents, documents.motion(self.motion), asset, settings.start, settings.stop)

    def needed(self, documents: Documents) -> Documents:
        """The documents that are drawn."""
        motion = documents.motion(self.motion)
        wanted = {documents.production.id, motion.puppet, motion.id, documents.production.backdrop}
        wanted |= {p.voice for p in motion.sounds.values()}
        return Documents({id: d for id, d in documents.by_id.items() if id in wanted})


def stretches(settings: Settings) -> list[tuple[int, int]]:
    """The range cut into parts, each `start` up to `stop`: drawn apart, by whichever worker is free."""
    long = max(4, min(PART_FRAMES, PART_PIXELS // (settings.width * settings.height)))
    starts = range(settings.start, settings.stop, long)
    return [(at, min(at + long, settings.stop)) for at in starts]
