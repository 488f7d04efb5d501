"""A shot as one window follows it: evaluated whole, sent in parts, those at the playhead first."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.film.heard import heard
from sorvan.core.geometry import Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Copies, Shot
from sorvan.core.shot.camera import aims
from sorvan.core.shot.scene import Acted, ActedAnew, InShot, ShotScene
from sorvan.core.shot.spans import rounds as rounds_in
from sorvan.core.timing.channels import at as value_at
from sorvan.core.voice.mixing import Cue
from sorvan.picture.studio import Studio
from sorvan.service.letters.drawn import Drawn, Posed
from sorvan.service.letters.messages import Drag, FromPage, Gone, Grab, ToPage, TryPose
from sorvan.service.letters.shots import CelView, CopiesView, HeardView, Rounds, ShotChanged, ShotLetter, ShotPart
from sorvan.service.rooms.worked_out_once import Once
from sorvan.service.windows.drawn import drawn, items_of, parts, posed
from sorvan.service.windows.shot_hand import ShotHand

News = tuple[dict[str, ActedAnew], bool]
"""What is new of each of the cast, and whether the camera is."""
PART = 48
"""Frames that are sent at once."""
HELD = ("reached",)
"""Fields of a pose that only the hand on a motion needs."""


@dataclass
class ShotView:
    """A shot that a window watches. Every method returns the letters to send."""

    documents: Documents
    target: InShot
    seq: int
    studio: Studio
    frame: int = 0
    once: Once = field(default_factory=Once)
    """What it has in common with other windows is worked out once for all of them."""
    scene: ShotScene | None = None
    waiting: list[tuple[int, int]] = field(default_factory=list)
    """Parts that are still to be sent: from, and up to before."""
    heard: tuple[HeardView, ...] = ()
    rounds: Rounds = field(default_factory=dict)
    hand: ShotHand = field(default_factory=ShotHand)

    def start(self) -> list[ToPage]:
        """Evaluate everything, and send what there is and the first part of it. Raises `Refusal` if it is gone."""
        scene, _ = self._scene(None)
        self.scene = scene
        self.waiting = list(parts(scene.frames, self.frame, PART))
        cels = tuple(self._cel(scene, a) for a in scene.acted)
        self.heard = heard_views(self.documents, heard(self.documents, scene.shot))
        self.rounds = rounds_of(self.documents, scene.shot)
        first = ShotLetter(
            seq=self.seq,
            target=self.target,
            frames=scene.frames,
            cels=cels,
            views=views_of(scene),
            aims=_f32(aims(scene.shot.camera, scene.times)),
            heard=self.heard,
            rounds=self.rounds,
        )
        return [first, *self.more()]

    def _scene(self, before: ShotScene | None) -> tuple[ShotScene, News | None]:
        """The shot as it is now, and, if it came of what it was `before`, what is new. It is worked out once for all
        windows, by whoever comes first. Raises `Refusal` if it is gone."""
        documents, target, studio = self.documents, self.target, self.studio

        def after(scene: ShotScene) -> tuple[ShotScene, News] | None:
            found = scene.after(documents, target)
            return (found[0], found[1:]) if found else None

        return self.once.brought_up(
            target, (documents, studio), before, after, lambda: ShotScene.full(documents, target, studio)
        )

    pause = 0.0
    """Seconds without a letter after which more is sent."""

    @property
    def busy(self) -> bool:
        """Whether there is more to send."""
        return bool(self.waiting)

    def more(self) -> list[ToPage]:
        """The next part."""
        if not self.waiting or self.scene is None:
            return []
        start, stop = self.waiting.pop(0)
        cels = {a.cast.id: _posed(a, start, stop) for a in self.scene.acted if not isinstance(a.cast, Copies)}
        return [ShotPart(seq=self.seq, shot=self.target.shot, start=start, stop=stop, cels=cels)]

    def arts(self) -> frozenset[str]:
        """The art that the shot draws."""
        acted = self.scene.acted if self.scene else ()
        return frozenset(art for a in acted for item in a.evaluation.items for art in item.arts)

    def follow(self, documents: Documents, seq: int) -> list[ToPage]:
        """Take up changed documents: send only who, and which frames, they touch."""
        self.documents, self.seq = documents, seq
        try:
            before = self.scene
            scene, found = self._scene(before)
            if before is None or found is None:
                return self.start()
        except Refusal:
            self.scene, self.waiting = None, []
            return [Gone(seq=seq)]
        self.scene, (anew, camera) = scene, found
        letters: list[ToPage] = []
        by_id = {a.cast.id: a for a in self.scene.acted}
        same_share = {a.cast.id: a.cast.share for a in before.acted}
        around = [id for id, new in anew.items() if new.moved or new.whole]
        around += [id for id, a in by_id.items() if id not in around and a.cast.share != same_share[id]]
        around += [id for id, a in by_id.items() if id not in around and _hides(a, before)]
        sounds = heard_views(documents, heard(documents, self.scene.shot))
        rounds = rounds_of(documents, self.scene.shot)
        if around or camera or sounds != self.heard or rounds != self.rounds:
            cels = tuple(self._cel(self.scene, by_id[id]) for id in around)
            news: dict[str, Any] = {}
            if camera:
                news = {"views": views_of(self.scene), "aims": _f32(aims(self.scene.shot.camera, self.scene.times))}
            if sounds != self.heard:
                self.heard = news["heard"] = sounds
            if rounds != self.rounds:
                self.rounds = news["rounds"] = rounds
            letters.append(ShotChanged(seq=seq, shot=self.target.shot, cels=cels).changed(**news))
        for id, new in anew.items():
            acted = by_id[id]
            if isinstance(acted.cast, Copies):
                continue
            start, stop = (0, self.scene.frames) if new.whole else (new.touched.start, new.touched.stop)
            if stop > start:
                letters.append(
                    ShotPart(
                        seq=seq, shot=self.target.shot, start=start, stop=stop, cels={id: _posed(acted, start, stop)}
                    )
                )
        return letters

    def attend(self, letter: FromPage) -> list[ToPage]:
        """Answer a letter. Raises `Refusal` if what it asks can't be."""
        if self.scene is not None:
            match letter:
                case Grab():
                    return self.hand.grab(self.scene, letter)
                case Drag():
                    return self.hand.drag(self.scene, letter)
                case TryPose():
                    return self.hand.try_pose(self.scene, letter)
        raise Refusal("That is done on a motion.", remedy="Open the motion on the Motion bench.", kind="missing")

    def _cel(self, scene: ShotScene, acted: Acted) -> CelView:
        evaluation, cel = acted.evaluation, scene.cel(acted)
        place = acted.carried.place if acted.carried is not None else None
        if place is not None and acted.holds is not None:
            place = place[:, acted.holds]
        if acted.shift is not None:
            one, nought = np.ones(scene.frames), np.zeros(scene.frames)
            place = np.stack([one, nought, nought, one, *acted.shift])
        copies = None
        if cel.copies is not None:
            c = cel.copies
            copies = CopiesView(
                places=_f32(c.places),
                ahead=np.ascontiguousarray(c.ahead, dtype="<i4").tobytes(),
                opacity=_f32(c.opacity),
                tints=_f32(c.tints),
                fade=_f32(c.fade),
            )
        view = CelView(
            cast=acted.cast.id,
            puppet=acted.cast.puppet,
            items=items_of(evaluation),
            joints=evaluation.skeleton.ids,
            own=evaluation.frames,
            share=acted.cast.share,
            hidden=acted.cast.hidden,
        )
        given = {
            "place": None if place is None else _f32(place.T),
            "times": None if cel.times is None else np.ascontiguousarray(cel.times, dtype="<i4").tobytes(),
            "fade": None if cel.fade is None else _f32(cel.fade),
            "keyed": _keyed(scene, acted) or None,
            "copies": copies,
            "loop": Drawn(**_bare(drawn(evaluation))) if copies is not None else None,
        }
        return view.changed(**{name: value for name, value in given.items() if value is not None})


def heard_views(documents: Documents, cues: Iterable[Cue]) -> tuple[HeardView, ...]:
    """What is heard of these cues: those that have a sound and are not mute."""
    found: list[HeardView] = []
    for cue in cues:
        recording = documents.voice(cue.placed.voice).sound if cue.placed.voice in documents.by_id else None
        if recording is None or cue.placed.mute:
            continue
        view = HeardView(
            asset=recording.asset,
            at=cue.at,
            seconds=recording.seconds,
            level=cue.placed.level,
            fade_in=cue.placed.fade_in,
            fade_out=cue.placed.fade_out,
        )
        given = {"begins": cue.begins, "ends": cue.ends}
        found.append(view.changed(**{n: v for n, v in given.items() if math.isfinite(v)}))
    return tuple(found)


def rounds_of(documents: Documents, shot: Shot) -> Rounds:
    """Where the spans of a shot's members begin their motions again."""
    found: Rounds = {}
    for member in shot.members().values():
        for span in member.spans.values():
            again = rounds_in(span, documents.motion(span.motion)) if span.motion in documents.by_id else None
            if again is not None:
                found.setdefault(member.id, {})[span.id] = again
    return found


def _keyed(scene: ShotScene, acted: Acted) -> dict[str, bytes]:
    """The values of the channels of somebody's place."""
    if isinstance(acted.cast, Copies):
        return {}
    return {id: _f32(value_at(c, scene.times, 1, False)) for id, c in acted.cast.place.items()}


def views_of(scene: ShotScene) -> dict[str, bytes]:
    """What takes the stage to the picture, by the share of the camera's movement."""
    return {f"{share:g}": _f32(view.T) for share, view in scene.views.items()}


def _hides(acted: Acted, before: ShotScene) -> bool:
    return any(b.cast.id == acted.cast.id and b.cast.hidden != acted.cast.hidden for b in before.acted)


def _posed(acted: Acted, start: int, stop: int) -> Posed:
    return Posed(**_bare(posed(acted.evaluation, slice(start, stop))))


def _bare(fields: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in fields.items() if name not in HELD}


def _f32(values: Floats) -> bytes:
    return np.ascontiguousarray(values, dtype="<f4").tobytes()
