"""What lies between two puppets that make the same movement: their sizes, the ways they face, and how their limbs hang
at rest."""

from __future__ import annotations

import cmath
import math
from collections.abc import Collection
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.channels import AS_AT_REST, KINDS, ChannelKind
from sorvan.core.model.puppet import ROOT, Puppet, Role
from sorvan.core.reuse.links import Links, faces_across, frame_of
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.roles import ARM, LEG, STANDING, roles_of
from sorvan.core.rig.skeleton import ancestors, children, rest_worlds

PLACES = 4
"""Decimals that carried values have."""
LIMBS: tuple[Role, ...] = (*ARM, *LEG, "wing")
"""What is led to point where it points in the other puppet, however it hangs at rest."""
NEXT: dict[Role, tuple[Role, ...]] = {
    "upper arm": ("lower arm", "hand"), "lower arm": ("hand",), "thigh": ("shin", "foot"), "shin": ("foot",),
    "wing": ("wing",),
}  # fmt: skip
"""What a bone of a limb leads to."""


@dataclass(frozen=True, eq=False)
class Proportions:
    """A source and a target, both as they stand at rest in the view that is moved in, and what of them is linked."""

    source: Puppet
    target: Puppet
    links: Links

    def owner(self, kind: str, id: str) -> str | None:
        """What answers in the target to the owner of a channel of this kind."""
        return self.links.owner(kind, id)

    @cached_property
    def legged(self) -> bool:
        """Whether both have legs to be measured by."""
        return has_legs(self.source) and has_legs(self.target)

    @cached_property
    def size(self) -> float:
        """How many times as large the target is: by its legs; without, by its height."""
        if self.legged:
            return anatomy(self.target).leg / max(anatomy(self.source).leg, 1e-6)
        return frame_of(self.target)[1].imag / frame_of(self.source)[1].imag

    @cached_property
    def across(self) -> bool:
        """Whether they face opposite ways, so that one moves as the mirror image of the other."""
        return faces_across(self.source, self.target)

    @property
    def way(self) -> float:
        """What becomes of widths: as they are, or across."""
        return -self.size if self.across else self.size

    @cached_property
    def stands(self) -> tuple[complex, complex]:
        """Where each of them stands: under its hips on the ground; without legs, where it is put."""
        if not self.legged:
            return complex(*self.source.origin), complex(*self.target.origin)
        found = []
        for puppet in (self.source, self.target):
            body = anatomy(puppet)
            hips = [leg.hip.real for leg in body.legs]
            found.append(complex(sum(hips) / len(hips), body.ground))
        return found[0], found[1]

    def over(self, place: NDArray[np.complex128], hips: tuple[float, float] | None = None) -> NDArray[np.complex128]:
        """Where what is at places of the source's stage is for the target, measured from where each stands; what a leg
        does from under its own `hips` (how far to the right they are in both)."""
        own, its = self.stands
        x, u = hips if hips is not None else (own.real, its.real)
        found: NDArray[np.complex128] = (
            u + self.way * (place.real - x) + 1j * (its.imag + self.size * (place.imag - own.imag))
        )
        return found

    def place(self, x: float, y: float, hips: tuple[float, float] | None = None) -> tuple[float, float]:
        """The same for one place."""
        found = complex(self.over(np.array([complex(x, y)]), hips)[0])
        return found.real, found.imag

    def arrow(self, one: str, other: str) -> tuple[float, float, float, float]:
        """The matrix (a b; c d) that takes a move of the source's joint `one`, in what that hangs on, to one of the
        target's joint `other`."""
        inner, outer = _carrier(self.source, one), _carrier(self.target, other).inverse()

        def taken(p: tuple[float, float]) -> tuple[float, float]:
            x, y = inner.arrow(p)
            return outer.arrow((self.way * x, self.size * y))

        (a, c), (b, d) = taken((1.0, 0.0)), taken((0.0, 1.0))
        return a, b, c, d

    def value(self, kind: ChannelKind, one: str, other: str, value: tuple[float, ...]) -> tuple[float, ...] | None:
        """What the target's channel of this kind holds where the source's holds a value; None for a drawing that is not
        there."""
        match KINDS[kind].carried:
            case "turned":
                turn = self.sign(one, other) * value[0]
                return value if turn == value[0] else (turn,)
            case "placed":
                a, b, c, d = self.arrow(one, other)
                x, y = value
                if max(abs(a - 1), abs(b), abs(c), abs(d - 1)) < 1e-9:
                    return value
                return (round(a * x + c * y, PLACES) + 0.0, round(b * x + d * y, PLACES) + 0.0)
            case "drawn" if value[0] != AS_AT_REST:
                number = self.links.drawings.get(one, {}).get(round(value[0]))
                return None if number is None else (float(number),)
            case "ranged":
                return (self.dial(one, value[0]),)
        return value

    def dial(self, one: str, value: float) -> float:
        """Where the target's dial stands when the source's stands at a value: as far along its range."""
        own, its = self.source.dials[one], self.target.dials[self.links.dials[one]]
        if (own.low, own.high) == (its.low, its.high):
            return value
        return its.low + (value - own.low) / (own.high - own.low) * (its.high - its.low)

    def sign(self, one: str, other: str) -> float:
        """Whether a turn of one joint is the same turn of the other (1), or one the other way round (-1)."""
        return self.turning(other) * (1.0 if _carrier(self.source, one).determinant > 0 else -1.0)

    def turning(self, other: str) -> float:
        """The same for what is seen to turn clockwise on the source's stage, and a joint of the target."""
        return (-1.0 if self.across else 1.0) * (1.0 if _carrier(self.target, other).determinant > 0 else -1.0)

    def offsets(self, turned: Collection[str]) -> dict[str, float]:
        """By how much the target's joint is turned besides (degrees), by the source's, so that the limbs of which joints
        are `turned` point where those of the source do."""
        done: dict[str | None, float] = {None: 0.0}
        found: dict[str, float] = {}
        roles = roles_of(self.source)
        for one in sorted(self.links.joints, key=lambda j: len(ancestors(self.source.joints, j))):
            if self.source.joints[one].handle:
                continue
            above = next((j for j in ancestors(self.source.joints, one) if j in done), None)
            before = done[above]
            role = roles.get(one)
            done[one] = before
            if one not in turned or role not in LIMBS:
                continue
            led = above is None or roles.get(above) not in LIMBS or above in turned
            if role in STANDING:
                done[one] = 0.0
            elif led and (lean := self._lean(one)) is not None:
                done[one] = lean
            by = done[one] - before
            if by:
                its = _carrier(self.target, self.links.joints[one])
                found[one] = by if its.determinant > 0 else -by
        return found

    def _lean(self, one: str) -> float | None:
        """From where the target's bone points at rest to where the source's does (degrees clockwise on the stage)."""
        ways = []
        own = self._bone(one)
        if own is None:
            return None
        for puppet, (a, b) in ((self.source, own), (self.target, tuple(self.links.joints[j] for j in own))):
            worlds = rest_worlds(puppet)
            ways.append(complex(*worlds[b].at) - complex(*worlds[a].at))
        first = -ways[0].conjugate() if self.across else ways[0]
        if min(abs(w) for w in ways) < 1e-6:
            return None
        return round(math.degrees(cmath.phase(first / ways[1])), 6)

    def _bone(self, one: str) -> tuple[str, str] | None:
        """A joint and the next of its limb that is linked too."""
        roles = roles_of(self.source)
        waiting = children(self.source.joints, one)
        while waiting:
            at = waiting.pop(0)
            if roles.get(at) in NEXT.get(roles[one], ()) and at in self.links.joints:
                return one, at
            waiting += children(self.source.joints, at)
        return None


def _carrier(puppet: Puppet, joint: str) -> Affine:
    """What takes the space that a joint is turned and moved in to the stage."""
    above = None if joint == ROOT else puppet.joints[joint].parent
    return rest_worlds(puppet)[above] if above is not None else IDENTITY
