"""Commands on what a cast member does when: spans of motions, and their feet."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sorvan.core.change.casting import called, member_of
from sorvan.core.change.command import free, several
from sorvan.core.change.given import Given
from sorvan.core.change.production import new_id
from sorvan.core.change.shots import ShotCommand
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Member, Shot, Span
from sorvan.core.model.times import LONGEST, Frame
from sorvan.core.rig.anatomy import has_legs
from sorvan.core.shot.spans import begun_at, motion_times
from sorvan.core.staging.fitting import Fit, fitted
from sorvan.core.staging.span_matching import best_first

USUAL_BLEND = 6
"""Frames over which a motion comes in after another."""


def span_of(member: Member, id: str) -> Span:
    """A span of a member. Raises `Refusal` when it is gone."""
    if id not in member.spans:
        raise missing(f"span of “{called(member)}”", id)
    return member.spans[id]


class MemberCommand(ShotCommand):
    """A command that changes one member of a shot's cast."""

    cast: Id

    def named(self, shot: Shot) -> str:
        """What the member is called."""
        return f"“{called(shot.cast[self.cast])}”" if self.cast in shot.cast else self.cast


class SpanGiven(Given, of=Span):
    """What of a span is given."""


class SetSpan(MemberCommand):
    """Let a cast member do a motion for a span of the shot, or change what is given of a span that it has.

    With `match` its feet go on from those of the span before it: it begins at the time of its cycle at which they
    are most alike.
    """

    do: Literal["set-span"] = "set-span"
    span: SpanGiven
    match: bool = False

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        span = self.span.among(member.spans, Span, f"span of “{called(member)}”")
        if documents.motion(span.motion).puppet != member.puppet:
            raise Refusal(
                f"“{documents.motion(span.motion).name}” is no motion of “{called(member)}”.", where=shot.name
            )
        if self.match:
            span = matched_span(documents, member, span) or span
        return shot.with_cast(member.changed(spans={**member.spans, span.id: span}))

    def said(self, shot: Shot) -> str:
        start = self.span.among(member_of(shot, self.cast).spans, Span, "span").start
        return f"Set what {self.named(shot)} does from frame {start + 1}"


class AddSpan(MemberCommand):
    """Let a member do a motion from a frame on, as long as there is room: its first from the beginning, another until the
    next. A cycle goes round; what is none plays once. What comes after something else comes in from it, and its feet
    go on from those."""

    do: Literal["add-span"] = "add-span"
    id: Id
    motion: Id
    frame: Frame

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member, motion = member_of(shot, self.cast), documents.motion(self.motion)
        free(member.spans, self.id)
        others = [s for s in member.spans.values() if s.row == 0]
        start = min(self.frame, shot.length - 1) if others else 0
        room = min([shot.length, *(s.start for s in others if s.start > start)]) - start
        frames = room if motion.cycle else min(room, motion.length)
        blend = min(USUAL_BLEND, frames - 1) if others else 0
        play: Literal["loop", "once"] = "loop" if motion.cycle else "once"
        span = Span(id=self.id, motion=self.motion, start=start, frames=frames, play=play, blend=blend)
        return SetSpan(shot=self.shot, cast=self.cast, span=SpanGiven.whole(span), match=blend > 0).on(shot, documents)

    def label(self, documents: Documents) -> str:
        return f"Let {self.named(documents.shot(self.shot))} do “{documents.motion(self.motion).name}”"

    def said(self, shot: Shot) -> str:
        raise TypeError("what is done has a name of its own")


class RepeatSpan(MemberCommand):
    """Let a member do once more what it does in a span, right after it."""

    do: Literal["repeat-span"] = "repeat-span"
    span: Id
    id: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        held = span_of(member, self.span)
        free(member.spans, self.id)
        return shot.with_cast(member.changed(spans={**member.spans, self.id: held.changed(id=self.id, start=held.end)}))

    def said(self, shot: Shot) -> str:
        return f"Repeat what {self.named(shot)} does"


class NudgeSpan(MemberCommand):
    """Move where a span begins, where it ends, or all of it, by so many frames. One that begins or ends at another frame
    does in those that stay what it did; one that is moved does the same at another time. None becomes shorter than a
    frame, and none begins before the shot."""

    do: Literal["nudge-span"] = "nudge-span"
    span: Id
    end: Literal["start", "end", "both"]
    by: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        span = span_of(member, self.span)
        if self.end == "both":
            after = span.changed(start=max(0, span.start + self.by))
        elif self.end == "end":
            after = span.changed(frames=max(1, span.frames + self.by))
        else:
            by = max(-span.start, min(self.by, span.frames - 1))
            after = begun_at(span, span.start + by).changed(frames=span.frames - by)
        return shot.with_cast(member.changed(spans={**member.spans, span.id: after}))

    def said(self, shot: Shot) -> str:
        return f"{'Move' if self.end == 'both' else 'Trim'} what {self.named(shot)} does"


class MatchFeet(MemberCommand):
    """Let the feet of a span go on from those of the span before it: it begins at the time of its cycle at which they are
    most alike, half way through its coming in. Raises `Refusal` where there is nothing to go by."""

    do: Literal["match-feet"] = "match-feet"
    span: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        span = span_of(member, self.span)
        motion = documents.motion(span.motion)
        legs = has_legs(documents.puppet(member.puppet))
        if not legs or not motion.cycle:
            raise Refusal(
                f"{self.named(shot)} {f'does no cycle in “{motion.name}”' if legs else 'has no legs'}: there is no step to choose.",
                where=shot.name,
                remedy="Set “Begins at” by hand.",
            )
        after = matched_span(documents, member, span)
        if after is None:
            raise Refusal(
                f"Nothing comes before it for its feet to go on from: {self.named(shot)} does nothing else then.",
                where=shot.name,
                remedy="Put a motion in front of it, on row 0, or choose a later span.",
            )
        return shot.with_cast(member.changed(spans={**member.spans, span.id: after}))

    def label(self, documents: Documents) -> str:
        shot = documents.shot(self.shot)
        after = span_of(member_of(self.on(shot, documents), self.cast), self.span)
        motion = documents.motion(after.motion)
        return f"Match the feet of {self.named(shot)}: “{motion.name}” begins at its frame {after.first + 1:.4g}"

    def said(self, shot: Shot) -> str:
        raise TypeError("what is done has a name of its own")


def matched_span(documents: Documents, member: Member, span: Span) -> Span | None:
    """A span that begins where its feet go on from those of the one before it, half way through its coming in. None where
    there is nothing to go by."""
    row = sorted((s for s in member.spans.values() if s.row == 0), key=lambda s: (s.start, s.id))
    before_it = [s for s in row if s.start <= span.start and s.id != span.id]
    if span.row or not before_it:
        return None
    motion, before = documents.motion(span.motion), before_it[-1]
    middle, earlier = span.start + span.blend / 2, documents.motion(before.motion)
    # What ends where this begins goes on until this has come in, also between its last frame and the next.
    last = middle if span.start <= before.end else None
    at = motion_times(before, earlier, np.array([middle]), last)
    found = best_first(documents.puppet(member.puppet), earlier, float(at[0]), motion)
    if found is None:
        return None
    gone = span.blend / 2 * span.speed / 100
    return span.changed(skip=0.0, first=round((found + (gone if span.reverse else -gone)) % motion.length, 3))


class RemoveSpans(MemberCommand):
    """Let a cast member not do these spans."""

    do: Literal["remove-spans"] = "remove-spans"
    spans: Annotated[tuple[Id, ...], Field(min_length=1)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        for id in self.spans:
            span_of(member, id)
        return shot.with_cast(member.changed(spans={i: s for i, s in member.spans.items() if i not in self.spans}))

    def said(self, shot: Shot) -> str:
        return f"Remove {several(len(self.spans), 'span')} of {self.named(shot)}"


class SplitSpan(MemberCommand):
    """Cut a span in two before a frame; together they do what it did."""

    do: Literal["split-span"] = "split-span"
    span: Id
    at: Frame
    id: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        span = span_of(member, self.span)
        if not span.start < self.at < span.end:
            raise Refusal(f"Frame {self.at + 1} is not inside the span.", where=shot.name, remedy="Choose one that is.")
        free(member.spans, self.id)
        over = span.done + self.at - span.start
        comes = {"blend": span.blend, "done": over} if over < span.blend else {"blend": 0, "done": 0}
        two = begun_at(span, self.at).changed(id=self.id, frames=span.end - self.at, **comes)
        left = span.end + span.left - self.at
        goes = {"out": span.out, "left": left} if left < span.out else {"out": 0, "left": 0}
        one = span.changed(frames=self.at - span.start, **goes)
        return shot.with_cast(member.changed(spans={**member.spans, one.id: one, two.id: two}))

    def said(self, shot: Shot) -> str:
        return f"Cut what {self.named(shot)} does at frame {self.at + 1}"


class DetachMotion(MemberCommand):
    """Give a span a copy of its motion of its own, so that what is changed in it shows here alone."""

    do: Literal["detach-motion"] = "detach-motion"
    span: Id
    id: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        span = span_of(member, self.span)
        return shot.with_cast(member.changed(spans={**member.spans, span.id: span.changed(motion=self.id)}))

    def result(self, documents: Documents) -> Documents:
        shot = documents.shot(self.shot)
        held = documents.motion(span_of(member_of(shot, self.cast), self.span).motion)
        own = held.changed(id=new_id(documents, self.id), name=f"{held.name[:90]} in {shot.name}"[:120])
        return documents.with_(own, self.on(shot, documents))

    def said(self, shot: Shot) -> str:
        return f"Detach a motion of {self.named(shot)}"


class FitSteps(MemberCommand):
    """Let a walking span reach the end of the member's way, or go a `distance` (stage units), in whole steps: in so
    many `steps`, to which the stride gives way, or in as many as are nearest to its stride. Where the stride has to
    be another, the span gets a motion of its own, `id`."""

    do: Literal["fit-steps"] = "fit-steps"
    span: Id
    id: Id
    steps: Annotated[int, Field(ge=1, le=400)] | None = None
    distance: Annotated[float, Field(gt=0, le=1e6)] | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        fit = self._fit(documents, member)
        return shot.with_cast(member.changed(spans={**member.spans, self.span: fit.span}))

    def result(self, documents: Documents) -> Documents:
        shot = documents.shot(self.shot)
        motion = self._fit(documents, member_of(shot, self.cast)).motion
        after = documents if motion is None else documents.with_(motion)
        if motion is not None:
            new_id(documents, self.id)
        return after.with_(self.on(shot, documents))

    def _fit(self, documents: Documents, member: Member) -> Fit:
        return fitted(documents, member, span_of(member, self.span), self.steps, self.distance, self.id)

    def said(self, shot: Shot) -> str:
        return f"Fit the steps of {self.named(shot)}"


SpanCommand = SetSpan | AddSpan | MatchFeet | RepeatSpan | NudgeSpan | RemoveSpans | SplitSpan | DetachMotion | FitSteps
