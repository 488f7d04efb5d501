"""What the program makes of a motion, as sent to the page: where feet stand and slide, and likely mistakes."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from sorvan.core.checks.feet import SLIDES
from sorvan.core.checks.finding import Finding
from sorvan.core.checks.keying import beside_poses
from sorvan.core.checks.morphs import tangles
from sorvan.core.checks.motion import findings
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.service.letters.messages import FootView, MotionReport
from sorvan.service.windows.rig_report import finding_view

TOO_LONG = Finding("too-long", "This motion is too long to be looked through for sliding feet and likely mistakes.")


@dataclass
class Reporter:
    """Tells of a motion what has changed since it last did."""

    feet: dict[str, FootView] = field(default_factory=dict)
    found: list[Finding] | None = None
    beside: dict[int, int] | None = None
    tangles: dict[str, bytes] = field(default_factory=dict)
    told: tuple[Puppet, Motion, bool] | None = None
    """What it last told of."""

    def on(self, evaluation: Evaluation, documents: Documents) -> MotionReport | None:
        """The letter on an evaluated motion, or None if nothing is new. Only feet that changed are in it."""
        motion = evaluation.motion
        puppet, blocking = evaluation.puppet, evaluation.blocking
        if motion is None:
            return None
        told, self.told = self.told, (puppet, motion, blocking)
        if told and told[0] is puppet and told[1] is motion and told[2] == blocking:
            return None
        seen = MotionSeen(evaluation, motion)
        if evaluation.stretched:
            return self._too_long(seen)
        feet = {
            foot.joint: FootView(
                slide=np.ascontiguousarray(seen.slide(foot), dtype="<f4").tobytes(),
                stands=np.ascontiguousarray(foot.stands(seen.ground), dtype="u1").tobytes(),
            )
            for foot in seen.feet
        }
        found = findings(seen, documents)
        changed = {id: f for id, f in feet.items() if self.feet.get(id) != f}
        beside = beside_poses(motion)
        news: dict[str, Any] = {}
        if found != self.found:
            news["findings"] = tuple(finding_view(f) for f in found)
        if beside != self.beside:
            news["beside"] = beside
        bad = {id: np.ascontiguousarray(worst, dtype="<f4").tobytes() for id, worst in tangles(seen).items()}
        if bad != self.tangles:
            news["tangles"] = bad
        self.feet, self.found, self.beside, self.tangles = feet, found, beside, bad
        if not news and not changed:
            return None
        return MotionReport(motion=motion.id, ground=seen.ground, slides=SLIDES, feet=changed).changed(**news)

    def _too_long(self, seen: MotionSeen) -> MotionReport | None:
        """Of what is too long to be held only that it is not looked through is told."""
        beside, known = beside_poses(seen.motion), self.beside
        told = self.found is not None
        self.feet, self.found, self.beside = {}, [TOO_LONG], beside
        if told and beside == known:
            return None
        report = MotionReport(motion=seen.motion.id, ground=seen.ground, slides=SLIDES, feet={})
        return report.changed(findings=(finding_view(TOO_LONG),), beside=beside)
