"""The whole film as one window follows it: what shows in each frame, and its shots, those at the playhead first."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import chain

import numpy as np

from sorvan.core.art.colours import rgba
from sorvan.core.errors import Refusal
from sorvan.core.film.film import Film, InFilm, ShotInFilm, film, heard_in_film
from sorvan.core.model.documents import Documents
from sorvan.core.shot.scene import InShot
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import FromPage, Gone, Playhead, ToPage
from sorvan.service.letters.shots import FilmLess, FilmLetter, FilmPart
from sorvan.service.rooms.worked_out_once import Once
from sorvan.service.windows.shot_view import ShotView, heard_views

HELD = 7200
"""Frames from the playhead on whose shots a page and its service hold: five minutes at 24 a second."""


@dataclass
class FilmView:
    """The film that a window watches. Every method returns the letters to send."""

    documents: Documents
    target: InFilm
    seq: int
    studio: Studio
    frame: int = 0
    film: Film = field(default_factory=lambda: Film(()))
    views: dict[str, ShotView] = field(default_factory=dict)
    """The shots that are held, by their ids."""
    told: FilmLetter | None = None
    once: Once = field(default_factory=Once)

    def start(self) -> list[ToPage]:
        """Send what the film is. Raises `Refusal` if it has no shot."""
        self.film = film(self.documents)
        self.views = {}
        self.told = self._letter()
        return [self.told, *self.more()]

    pause = 0.0
    """Seconds without a letter after which more is sent."""

    @property
    def busy(self) -> bool:
        """Whether there is more to send."""
        return any(p.shot.id not in self.views or self.views[p.shot.id].busy for p in self._wanted())

    def more(self) -> list[ToPage]:
        """The next part of the shot that plays soonest of those that have not all come."""
        for part in self._wanted():
            id = part.shot.id
            if id not in self.views:
                target = InShot(shot=id, seen_as=self.target.seen_as)
                at = part.first + max(self.frame - part.start, 0) if self.frame < part.stop else part.first
                self.views[id] = ShotView(self.documents, target, self.seq, self.studio, at, once=self.once)
                return self.views[id].start()
            if self.views[id].busy:
                return self.views[id].more()
        return []

    def arts(self) -> frozenset[str]:
        """The art that the shots draw that are held."""
        return frozenset[str]().union(*(view.arts() for view in self.views.values()))

    def follow(self, documents: Documents, seq: int) -> list[ToPage]:
        """Take up changed documents: send only what they touch."""
        self.documents, self.seq = documents, seq
        try:
            self.film = film(documents)
        except Refusal:
            self.film, self.views, self.told = Film(()), {}, None
            return [Gone(seq=seq)]
        letters = self._less()
        before, self.told = self.told, self._letter()
        if before is None or before.changed(seq=seq) != self.told:
            letters.insert(0, self.told)
        for view in self.views.values():
            letters += view.follow(documents, seq)
        return letters

    def attend(self, letter: FromPage) -> list[ToPage]:
        """Answer a letter. Raises `Refusal`: of the film only the playhead is told."""
        if not isinstance(letter, Playhead):
            raise Refusal("That is done on a motion.", remedy="Open the motion on the Motion bench.", kind="missing")
        self.frame = letter.frame
        return self._less()

    def _wanted(self) -> list[ShotInFilm]:
        """The parts that are held: from the playhead on, and as many of those before as there is room for."""
        found: list[ShotInFilm] = []
        for part in self.film.onward(self.frame):
            if found and sum(p.shot.length for p in found) + part.shot.length > HELD:
                break
            found.append(part)
        return found

    def _less(self) -> list[ToPage]:
        """Let go of what lies too far away."""
        wanted = {p.shot.id for p in self._wanted()}
        gone = tuple(id for id in self.views if id not in wanted)
        for id in gone:
            del self.views[id]
        return [FilmLess(shots=gone)] if gone else []

    def _letter(self) -> FilmLetter:
        whole = self.film
        row = {p.shot.id: n for n, p in enumerate(whole.parts)}
        shown = np.full((whole.frames, 2), -1, dtype="<i2")
        there, veil = np.ones(whole.frames, dtype="<f4"), np.zeros((whole.frames, 4), dtype="<f4")
        for n, part in enumerate(whole.parts):
            shown[part.start : part.stop, 0] = n
        # Only while shots dissolve or fade is there more to say of a frame.
        for part in whole.parts:
            for frame in range(part.start, part.start + part.over):
                for n, (one, opacity) in enumerate(whole.shown(frame)):
                    shown[frame, n], there[frame] = row[one.shot.id], opacity
            fading = (range(part.start, part.start + part.fade_in), range(part.stop - part.fade_out, part.stop))
            for frame in chain(*fading):
                colour, amount = whole.veil(frame)
                red, green, blue, own = rgba(colour)
                veil[frame] = red / 255, green / 255, blue / 255, round(own * amount) / 255
        return FilmLetter(
            seq=self.seq,
            target=self.target,
            frames=whole.frames,
            parts=tuple(_told(part) for part in whole.parts),
            shown=shown.tobytes(),
            there=there.tobytes(),
            veil=veil.tobytes(),
            heard=heard_views(self.documents, heard_in_film(self.documents, whole)),
        )


def _told(part: ShotInFilm) -> FilmPart:
    return FilmPart(
        shot=part.shot.id,
        start=part.start,
        first=part.first,
        frames=part.frames,
        over=part.over,
        fade_in=part.fade_in,
        fade_out=part.fade_out,
    )
