"""Limbs that reach: how smoothly they follow a smooth path, and how much of what they can reach they reach."""

from __future__ import annotations

import numpy as np

from bench.scenes import report
from sorvan.core.geometry import Floats
from sorvan.core.model.puppet import Chain, Joint, Limits, Placement, Puppet
from sorvan.core.rig import reach
from sorvan.core.rig.skeleton import Skeleton

LOW, HIGH = -20.0, 100.0
"""Degrees that every joint between two bones may turn from rest."""


class Limb:
    """A limb of ever shorter bones, bent evenly at rest, with limits."""

    def __init__(self, bones: int, bend: float) -> None:
        self.lengths = 60 * 0.85 ** np.arange(bones)
        self.bend = bend
        joints = {"h": Joint(id="h", name="h", handle=True)}
        for i in range(bones + 1):
            rest = Placement(x=self.lengths[i - 1] if i else 0, angle=float(np.degrees(bend)) if 0 < i < bones else 0)
            limits = Limits(low=LOW, high=HIGH) if 0 < i < bones else None
            above = f"j{i - 1}" if i else None
            joints[f"j{i}"] = Joint(id=f"j{i}", name=f"j{i}", parent=above, rest=rest, limits=limits)
        names = tuple(f"j{i}" for i in range(bones + 1))
        chain = Chain(id="c", name="c", joints=names, handle="h", soft=0)
        puppet = Puppet(id="a", name="a", joints=joints, chains={"c": chain})
        (self.plan,) = reach.prepared(puppet, Skeleton.of(joints))
        self.rest = np.array([joints[n].rest.affine() for n in names])[:, :, None]

    def places(self, targets: np.ndarray) -> np.ndarray:
        """Where its joints are for targets (complex, one a frame), `(joints, frames)`."""
        frames = len(targets)
        handle: Floats = np.zeros((6, frames))
        handle[0] = handle[3] = 1
        handle[4], handle[5] = targets.real, targets.imag
        still = np.array([1.0, 0, 0, 1, 0, 0])[:, None]
        turns = np.zeros((len(self.rest), frames))
        locals = np.repeat(self.rest, frames, axis=2)
        _, found = reach.solve(self.plan, locals, None, handle, (still, None), np.ones(frames), turns)
        return found.reached

    def reachable(self, rng: np.random.Generator, count: int) -> np.ndarray:
        """Ends of poses that the limits allow."""
        way, end = rng.uniform(-np.pi, np.pi, count), np.zeros(count, dtype=complex)
        for i, length in enumerate(self.lengths):
            if i:
                way = way + self.bend + np.radians(rng.uniform(LOW, HIGH, count))
            end = end + length * np.exp(1j * way)
        return end


def main() -> None:
    """Ellipses of 40 × 20 units, a unit a frame; and ends of poses that the limits allow."""
    rng = np.random.default_rng(7)
    jump, reached, tried = 0.0, 0, 0
    round_ = np.linspace(0, 2 * np.pi, 98)
    for bones in (2, 3, 4, 5, 6):
        for _ in range(40):
            limb = Limb(bones, rng.uniform(0.1, 0.9))
            middle = rng.uniform(0.3, 0.85) * limb.lengths.sum() * np.exp(1j * rng.uniform(-np.pi, np.pi))
            path = middle + 20 * np.cos(round_) + 10j * np.sin(round_)
            jump = max(jump, float(np.abs(np.diff(limb.places(path), axis=1)).max()))
            targets = limb.reachable(rng, 50)
            reached += int((np.abs(limb.places(targets)[-1] - targets) < 0.5).sum())
            tried += len(targets)
    step = float(np.abs(np.diff(20 * np.cos(round_) + 10j * np.sin(round_))).max())
    report(
        "largest joint jump, limbs of 2 to 6 bones", f"{jump:.1f} units", jump / step, "the handle's own step", "≤ 6"
    )
    report("reachable targets reached", f"{reached} of {tried}", reached / tried, "all of them", "≥ 0.99")


if __name__ == "__main__":
    main()
