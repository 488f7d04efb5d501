"""Gaits as tables: when each foot touches down and how long it stands; and presets of their shapes.

Sources: M. Hildebrand, Symmetrical gaits of horses, Science 150 (1965) 701, for phase and duty of four
legs; R. McN. Alexander, Estimates of speeds of dinosaurs, Nature 261 (1976) 129, for stride by speed.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sorvan.core.model.recipe import Gait, GaitName, PresetName
from sorvan.core.rig.anatomy import Leg


@dataclass(frozen=True)
class Foot:
    """When a foot touches down (share of the cycle) and how long it stands on the ground (share)."""

    phase: float
    duty: float


TWO: Mapping[GaitName, tuple[tuple[float, float], tuple[float, float]]] = {
    "walk": ((0.0, 0.62), (0.5, 0.62)),
    "sneak": ((0.0, 0.72), (0.5, 0.72)),
    "run": ((0.0, 0.35), (0.5, 0.35)),
    "limp": ((0.0, 0.65), (0.44, 0.50)),
    "skip": ((0.0, 0.35), (0.14, 0.35)),
    "trot": ((0.0, 0.45), (0.5, 0.45)),
    "gallop": ((0.0, 0.28), (0.12, 0.28)),
}
"""Phase and duty of the left and the right foot."""

FOUR: Mapping[GaitName, tuple[float, Mapping[str, float]]] = {
    "walk": (0.65, {"hind left": 0.0, "front left": 0.25, "hind right": 0.5, "front right": 0.75}),
    "sneak": (0.75, {"hind left": 0.0, "front left": 0.25, "hind right": 0.5, "front right": 0.75}),
    "limp": (0.65, {"hind left": 0.0, "front left": 0.25, "hind right": 0.44, "front right": 0.75}),
    "trot": (0.45, {"hind left": 0.0, "front right": 0.0, "hind right": 0.5, "front left": 0.5}),
    "run": (0.40, {"hind left": 0.0, "front right": 0.0, "hind right": 0.5, "front left": 0.5}),
    "skip": (0.38, {"hind right": 0.0, "hind left": 0.3, "front right": 0.3, "front left": 0.65}),
    "gallop": (0.28, {"hind left": 0.0, "hind right": 0.10, "front left": 0.50, "front right": 0.60}),
}
"""Duty, and phase by leg. A skip on four legs is a canter."""


def table(legs: Sequence[Leg], gait: GaitName, facing: int) -> list[Foot]:
    """The gait's table for these legs, one row a leg."""
    if len(legs) == 1:
        return [Foot(0.0, TWO[gait][0][1])]
    if len(legs) == 2:
        rows = TWO[gait]
        first = 0 if legs[0].side != "right" or legs[1].side == "right" else 1
        return [Foot(*rows[first]), Foot(*rows[1 - first])]
    ranks = _by_pairs(legs, facing)
    if len(legs) == 4:
        duty, phases = FOUR[gait]
        return [Foot(phases[f"{'hind' if rank else 'front'} {side}"], duty) for rank, side in ranks]
    # Six legs and other numbers: neighbours alternate, as in a tripod gait.
    duty = TWO[gait][0][1] if gait != "walk" else 0.55
    return [Foot(0.5 * ((rank + (side == "right")) % 2), duty) for rank, side in ranks]


def _by_pairs(legs: Sequence[Leg], facing: int) -> list[tuple[int, str]]:
    """For each leg the number of its pair from the front, and its side in that pair."""
    way = facing or 1
    order = sorted(range(len(legs)), key=lambda i: -way * legs[i].hip.real)
    found: dict[int, tuple[int, str]] = {}
    sides: dict[str, list[int]] = {"left": [], "right": [], "centre": []}
    for i in order:
        sides[legs[i].side].append(i)
    if len(sides["left"]) == len(sides["right"]) and not sides["centre"]:
        for side in ("left", "right"):
            for rank, i in enumerate(sides[side]):
                found[i] = rank, side
    else:
        for n, i in enumerate(order):
            found[i] = n // 2, "left" if n % 2 == 0 else "right"
    return [found[i] for i in range(len(legs))]


PRESETS: Mapping[PresetName, Mapping[str, Any]] = {
    "walk": {},
    "stroll": {"frames": 32, "bounce": 3, "arms": 16, "lift": 5, "lag": 2},
    "brisk": {"frames": 20, "lean": 5, "arms": 32, "elbow": 30, "bounce": 5},
    "tired": {"gait": "sneak", "frames": 40, "lift": 2.5, "bounce": 3, "lean": 12, "arms": 9, "elbow": 8, "roll": 45, "lag": 3, "weight": 45},
    "proud": {"frames": 26, "lean": -5, "knee": 14, "lift": 9, "arms": 30, "bounce": 5, "weight": -20},
    "heavy": {"frames": 30, "bounce": 7, "weight": 80, "twist": 9, "lift": 4, "arms": 18},
    "sneak": {"gait": "sneak", "frames": 36, "lift": 14, "knee": 18, "bounce": 6, "lean": 14, "arms": 12, "elbow": 70, "roll": 30, "lag": 2},
    "limp": {"gait": "limp", "frames": 28, "bounce": 6, "arms": 15, "lean": 4},
    "run": {"gait": "run", "frames": 16, "bounce": 9, "lift": 12, "knee": 18, "lean": 10, "arms": 42, "elbow": 85, "twist": 7},
    "sprint": {"gait": "run", "frames": 10, "bounce": 7, "lift": 16, "knee": 26, "lean": 15, "arms": 55, "elbow": 95, "twist": 8},
    "skip": {"gait": "skip", "frames": 20, "bounce": 10, "lift": 12, "knee": 16, "arms": 35, "weight": -40},
    "trot": {"gait": "trot", "frames": 14, "bounce": 6, "lift": 12, "knee": 8},
    "gallop": {"gait": "gallop", "frames": 12, "bounce": 9, "lift": 16, "knee": 10, "lean": 0},
}  # fmt: skip
"""Presets of our own, by name: what each sets differently from a plain walk."""


def by_preset(recipe: Gait, preset: PresetName) -> Gait:
    """The recipe with everything that shapes a gait as the preset has it; its step and travel stay."""
    kept = {"id", "name", "left_out", "step", "travel", "facing", "seen"}
    base = {k: getattr(recipe, k) for k in kept}
    return Gait(**(base | {"name": preset.capitalize()} | dict(PRESETS[preset])))


STANDARD_HEIGHT = 1.6
"""Metres that a puppet is taken to be tall where nothing says otherwise."""
GRAVITY = 9.81


def natural_frames(leg: float, step: float, height: float, per_second: float, running: bool) -> int:
    """The even number of frames of a natural cycle, for a leg and a step in stage units.

    The leg's length in metres comes of the puppet's height. From Alexander's relative stride
    s/L = 2.4 Fr^0.34 with Fr = v²/(gL), the speed v that goes with the stride s follows, and the
    cycle takes s/v seconds. A walk stays below Fr = 0.5, where walking turns to running; a step so
    short that it says little is taken at the pendulum's own pace, T = 2π√(2L/3g) for a swinging rod.
    """
    scale = STANDARD_HEIGHT / max(height, 1e-6)
    length, stride = max(leg, 1e-6) * scale, 2 * max(step, 0.0) * scale
    rod = 2 * math.pi * math.sqrt(2 * length / (3 * GRAVITY))
    if stride < 0.3 * length:
        seconds = rod
    else:
        froude = (stride / length / 2.4) ** (1 / 0.34)
        froude = max(froude, 0.5) if running else min(froude, 0.5)
        seconds = stride / math.sqrt(froude * GRAVITY * length)
    return max(8, min(48, 2 * round(seconds * per_second / 2)))
