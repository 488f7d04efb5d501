"""What is to be rendered, and what is drawn and heard of it."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Annotated

from pydantic import Field

from sorvan.core.art.source import Arts
from sorvan.core.errors import Refusal
from sorvan.core.film.film import Film, ShotInFilm, film, heard_in_film
from sorvan.core.film.heard import heard
from sorvan.core.film.reel import Pace, Reel, alone, plan_of
from sorvan.core.model.base import Checked
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Rate
from sorvan.core.model.shot import Pass
from sorvan.core.plan.scene import InMotion, Staged
from sorvan.core.plan.show import Show
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.mixing import Cue
from sorvan.core.voice.warp import Samples
from sorvan.picture.film import FilmSettings, frames_in, size_for
from sorvan.picture.formats import FORMATS, Format
from sorvan.picture.sound import heard_in

PART_FRAMES = 48
PART_PIXELS = PART_FRAMES * 1280 * 720
"""Frames in one part of a render, and the pixels beyond which it has fewer."""


class RenderOrder(Checked):
    """What to render: a motion, a shot or, with neither, the whole film. Frames are those shown to users, from 1,
    both ends included; width in pixels. `blur` is how many pictures each frame is the mean of, while the `shutter`
    is open so many degrees of a full turn. At another `rate` than the production's, pictures are taken at their own
    times, between frames too; it lasts as long as ever. `seen_as` is the pass of every shot, its own if not told."""

    motion: str | None = None
    shot: str | None = None
    format: Format = "mp4"
    first: Annotated[int, Field(ge=1)] | None = None
    last: Annotated[int, Field(ge=1)] | None = None
    width: Annotated[int, Field(ge=16, le=8192)] | None = None
    clear: bool = False
    sound: bool = True
    blur: Annotated[int, Field(ge=1, le=32)] = 1
    shutter: Annotated[float, Field(gt=0, le=360)] = 180.0
    rate: Rate | None = None
    seen_as: Pass | None = None

    def check(self) -> None:
        if self.motion is not None and self.shot is not None:
            raise ValueError("either a motion or a shot is rendered, not both at once")

    @property
    def alone(self) -> bool:
        """Whether only what is heard is rendered."""
        return FORMATS[self.format].form == "sound"

    def name(self, documents: Documents) -> str:
        """What the film is called. Raises `Refusal` if what is to be rendered is gone."""
        if self.motion is not None:
            return documents.motion(self.motion).name
        return documents.production.name if self.shot is None else documents.shot(self.shot).name

    def settings(self, documents: Documents) -> FilmSettings:
        """The settings for this order. Raises `Refusal` if it can't be made."""
        production = documents.production
        pace, (first, stop) = self._pace(documents), self.range_of(documents)
        width, height = size_for(production.width, production.height, self.width, self.format)
        start, end = pace.pictures(first), pace.pictures(stop)
        # No picture is taken within so short a range: the one before it shows there.
        start = min(start, end - 1)
        return FilmSettings(
            self.format, start, end, width, height, self.rate or production.rate, self._clear, self.blur
        )

    def _pace(self, documents: Documents) -> Pace:
        own = per_second(documents.production.rate)
        step = own / per_second(self.rate) if self.rate is not None else Fraction(1)
        return Pace(step, self.blur, self.shutter)

    @property
    def _clear(self) -> bool:
        return self.clear and FORMATS[self.format].clear

    def range_of(self, documents: Documents) -> tuple[int, int]:
        """The frames of the production that are rendered: the first, and the one after the last."""
        if self.motion is not None:
            return frames_in(documents.motion(self.motion).length, self.first, self.last)
        if self.shot is None:
            return frames_in(film(documents).frames, self.first, self.last)
        shot = documents.shot(self.shot)
        first, stop = shot.played
        return frames_in(shot.length, self.first or first + 1, self.last or stop)

    def show(self, documents: Documents, arts: Arts) -> Show:
        """What is drawn. Raises `Refusal` if it can't be."""
        pace = self._pace(documents)
        if self.motion is not None and pace.plain:
            return Staged.full(documents, InMotion(motion=self.motion, backdrop=not self._clear), arts).plan()
        if self.motion is not None:
            return plan_of(documents, alone(documents, documents.motion(self.motion), self._clear), arts, None, pace)
        if self.shot is None:
            return Reel.of(documents, film(documents), arts, self.seen_as, pace, self._clear)
        shot = documents.shot(self.shot)
        if pace.step == 1:
            return plan_of(documents, shot, arts, self.seen_as, pace, self._clear)
        alone_ = Film((ShotInFilm(shot, 0, 0, shot.length),))
        return Reel.of(documents, alone_, arts, self.seen_as, pace, self._clear)

    def cues(self, documents: Documents) -> list[Cue]:
        """The lines that are heard."""
        if self.motion is not None:
            return [Cue.of(placed) for placed in documents.motion(self.motion).sounds.values()]
        if self.shot is not None:
            return heard(documents, documents.shot(self.shot))
        return heard_in_film(documents, film(documents))

    def heard(self, documents: Documents, asset: Callable[[str], bytes]) -> Samples | None:
        """What is heard; None for pictures alone, and where nothing is. Raises `Refusal` if only that is wanted."""
        if not FORMATS[self.format].heard or not (self.sound or self.alone):
            return None
        settings = self.settings(documents)
        found = heard_in(
            documents, self.cues(documents), asset, settings.start, settings.stop, per_second(settings.rate)
        )
        if found is None and self.alone:
            raise Refusal(
                f"Nothing is heard in “{self.name(documents)}”.",
                remedy="Place a line or an effect on it, or render a picture.",
            )
        return found

    def needed(self, documents: Documents) -> Documents:
        """The documents that are drawn and heard."""
        if self.motion is not None:
            motion = documents.motion(self.motion)
            wanted = {documents.production.id, motion.puppet, motion.id, documents.production.backdrop}
            wanted |= {p.voice for p in motion.sounds.values()}
        else:
            shots = [documents.shot(self.shot)] if self.shot is not None else list(documents.shots())
            wanted = {documents.production.id, *(id for shot in shots for id in shot.uses())}
            spoken = [documents.motion(id) for id in wanted if id in {m.id for m in documents.motions()}]
            wanted |= {p.voice for motion in spoken for p in motion.sounds.values()}
        found = Documents({id: d for id, d in documents.by_id.items() if id in wanted})
        kept = tuple(id for id in documents.production.shots if id in wanted)
        return found.with_(found.production.changed(shots=kept))


def stretches(settings: FilmSettings) -> list[tuple[int, int]]:
    """The range cut into parts, each `start` up to `stop`: drawn apart, by whichever worker is free."""
    long = max(4, min(PART_FRAMES, PART_PIXELS // (settings.width * settings.height * settings.samples)))
    starts = range(settings.start, settings.stop, long)
    return [(at, min(at + long, settings.stop)) for at in starts]
