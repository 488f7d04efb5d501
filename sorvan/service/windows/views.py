"""What one window looks at: a puppet at rest or a motion, evaluated, and a hand upon it."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from typing import Any

from sorvan.core.change.pieces import places_of
from sorvan.core.change.shapes import drawn_arts
from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import NEUTRAL, kind_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import ROOT, Bend
from sorvan.core.motion.hand import TriedValues, typed
from sorvan.core.motion.limb import Grasp, take
from sorvan.core.motion.ways import way_keys
from sorvan.core.plan.bending import weights_of
from sorvan.core.plan.evaluate import Evaluation, Touched
from sorvan.core.plan.scene import AtRest, InMotion, Staged
from sorvan.core.rig.roles import limbs_of
from sorvan.core.rig.skeleton import piece
from sorvan.picture.studio import ART_MEDIA, Studio
from sorvan.service.letters.drawn import Posed
from sorvan.service.letters.messages import (
    Behind,
    CardsLetter,
    Drag,
    FromPage,
    Gone,
    Grab,
    Grabbed,
    LookAtMesh,
    LookAtWay,
    PlanLetter,
    PlanPart,
    Playhead,
    PoseLetter,
    Spacing,
    ToPage,
    TriedLetter,
    TryCommand,
    TryPose,
    WayKeyView,
    WayLetter,
)
from sorvan.service.letters.morphs import LookAtMorph
from sorvan.service.rooms.worked_out_once import Once
from sorvan.service.windows.drawn import drawn, items_of, part_of, parts, posed, spaced
from sorvan.service.windows.morphs import morph_letter
from sorvan.service.windows.motion_report import Reporter
from sorvan.service.windows.rig_report import mesh_letters, rig_letter

IN_COMMON = ("spaced", "ring", "still", "reporter", "group")
"""What windows that look at the same come to alike, beside what is staged."""
SPACED_AT_ONCE = 8
"""Channels of what is very long whose spacing is sent at once."""


@dataclass
class WatchedScene:
    """The scene a window follows, evaluated. Every method returns the letters to send."""

    documents: Documents
    target: AtRest | InMotion
    seq: int
    studio: Studio
    staged: Staged | None = None
    once: Once = field(default_factory=Once)
    """What it has in common with other windows is worked out once for all of them."""
    standing: tuple[Any, ...] = ()
    group: object = None
    """What it has come to in common with others, and those who began together with it."""
    spaced: dict[str, Channel] = field(default_factory=dict)
    ring: tuple[int, bool] = (0, False)
    way: str | None = None
    still: Evaluation | None = None
    reporter: Reporter = field(default_factory=Reporter)
    held: Grasp | None = None
    hand: Grab | None = None
    rig_due: bool = False
    """Whether what the program makes of the rig is still to be told."""
    frame: int = 0
    waiting: list[tuple[int, int]] = field(default_factory=list)
    """Of what is very long the parts that are still to be sent: from, and up to before."""
    unspaced: list[str] = field(default_factory=list)
    """And the channels whose spacing is."""

    @property
    def pause(self) -> float:
        """Seconds without a letter after which what follows when there is time is sent: the rig is looked through once
        a hand rests, and not after each of its nudges."""
        return 0.15 if self.rig_due else 0.0

    def start(self) -> list[ToPage]:
        """Evaluate everything and send it whole; what the rig is like with it, or when there is time. Raises
        `Refusal` if what is watched is gone."""
        letters = self._begun(self._stage(None)[0])
        return [*letters, *(self.more() if self.rig_due else []), *self._way(self._lead())]

    def _stage(self, before: Staged | None) -> tuple[Staged, tuple[Touched, ...] | None]:
        """What is watched as it is now, and, if it came of what was `before`, what of each actor is new. It is worked
        out once for all windows, by whoever comes first. Raises `Refusal` if it is gone."""
        documents, target, studio = self.documents, self.target, self.studio
        return self.once.brought_up(
            ("staged", target),
            (documents, studio),
            before,
            lambda staged: staged.after(documents, target),
            lambda: Staged.full(documents, target, studio),
        )

    def _begun(self, staged: Staged) -> list[ToPage]:
        """Everything there is to say of what is staged."""
        self.staged, lead = staged, staged.lead
        # What the program makes of the rig is for those who look at the puppet at rest.
        self.rig_due = lead.motion is None
        if not lead.stretched:
            return self._in_common(("begun", self.target), (staged,), lambda view: view._all())
        self.waiting, self.unspaced = list(parts(lead.frames, self.frame, part_of(lead))), []
        return self._all()

    def _in_common(
        self, what: Hashable, of: tuple[Any, ...], work: Callable[[WatchedScene], list[ToPage]]
    ) -> list[ToPage]:
        """Do something that other windows that have come to the same do as well, or take over what it led one of them
        to."""

        def done() -> tuple[tuple[Any, ...], list[ToPage]]:
            other = replace(self, reporter=replace(self.reporter))
            letters = work(other)
            return tuple(getattr(other, name) for name in IN_COMMON), letters

        self.standing, letters = self.once.get(what, of, done)
        for name, value in zip(IN_COMMON, self.standing, strict=True):
            setattr(self, name, value)
        self.reporter = replace(self.reporter)
        return letters

    def _all(self) -> list[ToPage]:
        assert self.staged is not None
        self.spaced, self.reporter, self.still, self.group = {}, Reporter(), None, object()
        lead = self.staged.lead
        return [
            self._plan(self.staged, self.waiting.pop(0) if self.waiting else None),
            *self._spacing(lead),
            *self._report(lead),
            *self._cards(lead),
        ]

    @property
    def busy(self) -> bool:
        """Whether there is more to send."""
        return self.rig_due or bool(self.waiting) or bool(self.unspaced)

    def more(self) -> list[ToPage]:
        """What follows when there is time: what the program makes of the rig, and what is very long part by part."""
        if self.rig_due:
            self.rig_due = False
            lead = self._lead()
            return [self.once.get(("rig", self.target), (lead,), lambda: rig_letter(lead))]
        found: list[ToPage] = []
        lead = self._lead()
        if self.waiting:
            start, stop = self.waiting.pop(0)
            found.append(PlanPart(seq=self.seq, start=start, stop=stop, **posed(lead, slice(start, stop))))
        if self.unspaced and lead.motion is not None:
            some, self.unspaced = self.unspaced[:SPACED_AT_ONCE], self.unspaced[SPACED_AT_ONCE:]
            channels = lead.motion.channels
            found.append(self._spacing_of(lead, {id: channels[id] for id in some if id in channels}, ()))
        return found

    def _playhead(self, frame: int) -> list[ToPage]:
        """Let the parts about a frame come first, if it has not come yet."""
        self.frame = frame
        self.waiting.sort(key=lambda part: (part[1] <= frame, part[0]))
        return []

    def attend(self, letter: FromPage) -> list[ToPage]:
        """Answer a letter of the page. Raises `Refusal` if what it asks can't be."""
        match letter:
            case Grab():
                return self.grab(letter)
            case Drag():
                return self.drag(letter)
            case TryPose():
                return self.try_pose(letter)
            case TryCommand():
                return self.try_command(letter)
            case LookAtMesh():
                return self.look_at_mesh(letter)
            case LookAtWay():
                return self.look_at_way(letter)
            case Playhead():
                return self._playhead(letter.frame)
            case LookAtMorph():
                return [morph_letter(self._lead(), letter)]
        return []

    def arts(self) -> frozenset[str]:
        """The art that the plan sent last draws."""
        items = (item for e in self.staged.evaluations for item in e.items) if self.staged else ()
        return frozenset(art for item in items for art in item.arts)

    def follow(self, documents: Documents, seq: int) -> list[ToPage]:
        """Take up changed documents: send only the frames and spacing that they touch."""
        before, self.documents, self.seq = self.staged, documents, seq
        try:
            if before is None:
                return self.start()
            staged, touched = self._stage(before)
        except Refusal:
            self.staged = self.held = self.hand = None
            return [Gone(seq=seq)]
        lead = staged.lead
        others = lead.places.becoming or before.lead.places.becoming
        anew = lead.frames != before.lead.frames or (bool(others) and not lead.looks_like(before.lead))
        if touched is None or (lead.stretched and anew):
            letters = self._begun(staged)
        else:
            self.staged = staged
            whole = anew or any(t.stop > t.start for t in touched[:-1])
            letters = self._come_on(lead, None if whole else slice(touched[-1].start, touched[-1].stop))
        drawn_anew = any(isinstance(letter, PlanLetter | PlanPart) for letter in letters)
        return [*letters, *(self._way(lead) if drawn_anew else [])]

    def _come_on(self, lead: Evaluation, span: slice | None) -> list[ToPage]:
        """What is new of what is staged: frames of a `span`, or all of it, and what is said beside."""
        if not lead.stretched:
            return self._in_common(self.group, (self.standing, lead), lambda view: view._news(lead, span))
        if span is not None and span.stop > span.start:
            new = [p for p in parts(lead.frames, self.frame, part_of(lead)) if p[0] < span.stop and p[1] > span.start]
            self.waiting = [*new, *(p for p in self.waiting if p not in new)]
            return [*self.more(), *self._news(lead, slice(0, 0))]
        return self._news(lead, span)

    def _news(self, lead: Evaluation, span: slice | None) -> list[ToPage]:
        assert self.staged is not None
        letters: list[ToPage] = []
        if span is None:
            letters.append(self._plan(self.staged))
        elif span.stop > span.start:
            letters.append(PlanPart(seq=self.seq, start=span.start, stop=span.stop, **posed(lead, span)))
        return [*letters, *self._spacing(lead), *self._report(lead), *self._cards(lead)]

    def _plan(self, staged: Staged, sent: tuple[int, int] | None = None) -> PlanLetter:
        lead = staged.lead
        fields = posed(lead, slice(*sent) if sent else slice(None)) | self._around(lead)
        if sent:
            fields["sent"] = sent
        if len(staged.evaluations) > 1:
            still = staged.evaluations[0]
            fields["behind"] = Behind(items=items_of(still), **drawn(still))
        rest = lead if lead.motion is None else self._at_rest(lead)
        return PlanLetter(
            seq=self.seq,
            target=self.target,
            puppet=lead.puppet.id,
            frames=lead.frames,
            rest=Posed(**posed(rest)),
            limbs=limbs_of(lead.puppet),
            **fields,
        )

    def _around(self, evaluation: Evaluation, known: Evaluation | None = None) -> dict[str, Any]:
        """What a plan says besides numbers: items, joints and, at rest, where the pivots are.

        Items and joints that are as in what is `known` already are left out.
        """
        fields: dict[str, Any] = {}
        if known is None or not evaluation.looks_like(known):
            fields["items"] = items_of(evaluation)
        if known is None or evaluation.skeleton.ids != known.skeleton.ids:
            fields["joints"] = evaluation.skeleton.ids
        if evaluation.motion is None:
            fields["places"] = places_of(evaluation.puppet)
        return fields

    def _at_rest(self, lead: Evaluation) -> Evaluation:
        return Evaluation.full(lead.puppet, None, False, lead.production, self.studio)

    def _spacing(self, lead: Evaluation) -> list[ToPage]:
        """Where the in-betweens of changed channels really fall, and their values at every frame."""
        motion = lead.motion
        if motion is None:
            return []
        key = (motion.length, motion.cycle)
        known, self.spaced = self.spaced, dict(motion.channels)
        same_ring, self.ring = self.ring == key, key
        wanted = {id: c for id, c in motion.channels.items() if not same_ring or known.get(id) is not c}
        gone = tuple(id for id in known if id not in motion.channels)
        if not wanted and not gone:
            return []
        if lead.stretched:
            self.unspaced = [*(id for id in self.unspaced if id not in wanted), *wanted]
            wanted = {}
        return [self._spacing_of(lead, wanted, gone)] if wanted or gone else []

    def _spacing_of(self, lead: Evaluation, wanted: dict[str, Channel], gone: tuple[str, ...]) -> Spacing:
        found = {id: spaced(c, lead.keyed[id][: len(NEUTRAL[c.kind])], *self.ring) for id, c in wanted.items()}
        return Spacing(channels=found, gone=gone)

    def _report(self, lead: Evaluation) -> list[ToPage]:
        """What is new of feet and likely mistakes."""
        found = self.reporter.on(lead, self.documents)
        return [] if found is None else [found]

    def look_at_way(self, wanted: LookAtWay) -> list[ToPage]:
        """The keys on a joint's path, from now on also when they change."""
        self.way = wanted.joint
        return self._way(self._lead())

    def _cards(self, lead: Evaluation) -> list[ToPage]:
        """The poses as they are keyed, where what some channels do comes late."""
        motion = lead.motion
        late = [c for c in motion.channels.values() if c.delay] if motion else []
        before = self.still
        if motion is None or not late:
            self.still = None
            return [CardsLetter(frames=(), matrices=b"")] if before is not None else []
        prompt = motion.with_channels(*(c.changed(delay=0.0) for c in late))
        if before is not None and before.motion == prompt and before.puppet is lead.puppet:
            return []
        self.still = (
            Evaluation.full(lead.puppet, prompt, False, lead.production, self.studio)
            if before is None
            else before.after(lead.puppet, prompt, lead.production)[0]
        )
        frames = [f for f in motion.poses if f < motion.length]
        return [CardsLetter(frames=tuple(frames), **drawn(self.still.at_frames(frames)))]

    def _way(self, lead: Evaluation) -> list[ToPage]:
        if self.way is None or lead.motion is None or (self.way != ROOT and self.way not in lead.puppet.joints):
            return []
        keys = tuple(
            WayKeyView(frame=k.frame, at=k.at, before=k.before, after=k.after) for k in way_keys(lead, self.way)
        )
        return [WayLetter(joint=self.way, keys=keys)]

    def grab(self, hand: Grab) -> list[ToPage]:
        """Close the hand; whatever it held before, it holds no more. Raises `Refusal` if the joint is gone."""
        self.hand = self.held = None
        pose = self._pose(hand.frame, hand.tried)
        held = take(pose, hand.pull, hand.joint, hand.piece, hand.at, snap=hand.snap, begins=hand.begins)
        self.held, self.hand = held, hand
        return [] if held.joint == hand.joint else [Grabbed(joint=held.joint)]

    def drag(self, drag: Drag) -> list[ToPage]:
        """Move the hand and answer with the pose it makes. Raises `Refusal` if it holds nothing."""
        if self.held is None or self.hand is None:
            raise Refusal("The hand holds nothing.", remedy="Take hold of it again.", kind="missing")
        tried = {**self.hand.tried, **self.held.at(drag.at, drag.whole_steps)}
        return self.try_pose(TryPose(n=drag.n, frame=self.hand.frame, tried=tried))

    def try_pose(self, wanted: TryPose) -> list[ToPage]:
        """One frame with these values tried. Raises `Refusal` if a value is not one of its channel's kind."""
        if wanted.at_rest:
            for channel, numbers in wanted.tried.items():
                typed(kind_of(channel), numbers)
            pose = self._at_rest(self._lead()).pose(0, wanted.tried)
        else:
            pose = self._pose(wanted.frame, wanted.tried)
        # The page knows the items and joints from its plan; under a hand only the numbers count.
        return [PoseLetter(n=wanted.n, frame=wanted.frame, tried=wanted.tried, **posed(pose))]

    def try_command(self, wanted: TryCommand) -> list[ToPage]:
        """The watched puppet at rest, or a frame of the watched motion, as the command would leave it. Raises `Refusal` if it can't be."""
        after = wanted.command.apply(self.documents)
        changed = {id: d for id, d in after.by_id.items() if d is not self.documents.by_id.get(id)}
        for data in drawn_arts(Documents(changed)).values():
            self.studio.put(ART_MEDIA, data)
        lead = self._lead()
        if lead.motion is not None and getattr(wanted.command, "motion", None) == lead.motion.id:
            moved, _ = lead.after(lead.puppet, after.motion(lead.motion.id))
            if wanted.whole:
                if moved.stretched:
                    remedy = "Do it, and undo it if it is not right."
                    raise Refusal("This is too long to be tried as a whole.", remedy=remedy)
                return [TriedLetter(n=wanted.n, frames=moved.frames, **posed(moved))]
            at = min(wanted.frame, moved.frames - 1)
            return [PoseLetter(n=wanted.n, frame=wanted.frame, tried={}, **posed(moved.pose(at, {})))]
        pose = Staged.full(after, AtRest(puppet=lead.puppet.id), self.studio).lead
        around = self._around(pose, lead)
        limits = {
            id: (j.limits.low, j.limits.high)
            for id, j in pose.puppet.joints.items()
            if j.limits is not None and j is not lead.puppet.joints.get(id) and id in lead.puppet.joints
        }
        if limits:
            around["limits"] = limits
        return [PoseLetter(n=wanted.n, frame=0, tried={}, **posed(pose), **around)]

    def _lead(self) -> Evaluation:
        if self.staged is None:
            self.start()
        assert self.staged is not None
        return self.staged.lead

    def _pose(self, frame: int, tried: TriedValues | dict[str, tuple[float, ...]]) -> Evaluation:
        for channel, numbers in tried.items():
            typed(kind_of(channel), numbers)
        lead = self._lead()
        return lead.pose(max(0, min(frame, lead.frames - 1)), tried)

    def look_at_mesh(self, wanted: LookAtMesh) -> list[ToPage]:
        """The mesh of a bending piece, with one joint's weights."""
        lead = self._lead()
        held = piece(lead.puppet, wanted.piece)
        weights = weights_of(lead.puppet, held, held.shown(), self.studio) if isinstance(held.attach, Bend) else None
        return [*mesh_letters(lead, held, weights, wanted.joint)]
