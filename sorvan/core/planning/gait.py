"""The gait planner: from a gait's table and a puppet's measures to labelled poses with ordinary keys.

Feet are led along their ways, the body is carried as high as the legs allow, and each leg is turned so that
its foot is where it should be, in every frame. What comes of it is written down as keys at the poses, with
the eases between them that hold every frame.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from sorvan.core.geometry import Complexes, Floats, compose_blocks, place_in, placed_block
from sorvan.core.kept import kept
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import ChannelId, channel_id, owner_of
from sorvan.core.model.ease import Even
from sorvan.core.model.motion import Ground, Motion, Pose
from sorvan.core.model.puppet import ROOT, Placement, Puppet
from sorvan.core.model.recipe import Gait
from sorvan.core.motion.fit import keys_on_ring
from sorvan.core.motion.recipes import Written
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.planning.gaits import Foot, natural_frames, table
from sorvan.core.planning.stepping import FLAT_TO, Stepping, warped
from sorvan.core.planning.upper_body import BodyValues, UpperBody, limits_of
from sorvan.core.rig.anatomy import Anatomy, Leg, anatomy
from sorvan.core.rig.skeleton import rest_worlds
from sorvan.core.timing.channels import evaluate

KEPT = 4
"""Plans that are kept with a puppet."""
UNUSED = 0.988
"""The part of a leg's length that it is stretched to at most, so that the knee never snaps straight."""
STEPS = {"walk": 0.72, "run": 1.05, "sneak": 0.55, "limp": 0.55, "skip": 0.8, "trot": 0.75, "gallop": 1.1}
"""A natural step by gait, in legs (relative stride at the usual Froude numbers; Alexander 1976)."""
LOWEST = 0.105
"""When in a walk the body is lowest, as a share of the cycle from contact."""
STOOP = 0.07
"""The part of the leg by which the body may be carried lower for a natural step."""
STRIKE, OFF = math.radians(15), math.radians(45)
"""How far the toe is up at heel strike and the heel at toe-off, with all of the roll."""
ROLLING, EARLIEST = 3.5, 0.25
"""Frames that a heel takes at least to rise, and the part of a stance before which it does not, however short it is."""
LEG_TOLERANCE, BODY_TOLERANCE, TURN_TOLERANCE = 0.01, 0.02, 0.25
"""How near keys and eases must come to what was planned: legs in degrees, the body in units, the rest in degrees."""
SHORTER = (1.0, 0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.2, 0.1)
"""The parts of the step that are tried when the legs can't make the whole of it."""

ON = channel_id(ROOT, "move")
"""The channel that carries the whole puppet on."""

SHIFTS = (0.0, -0.08, -0.16, -0.24, -0.32, -0.4, -0.5)
"""Where the middle of a stance is tried, in halves of the stance before the hip."""


def written(puppet: Puppet, recipe: Gait, per_second: float) -> Written:
    """The cycle's keys, poses and ground. Raises `Refusal` if the puppet has no legs."""
    # What it said and was told to leave out does not change what it plans.
    return _planned(puppet, recipe.changed(left_out=(), said=()), per_second)


# While one parameter is tried after another, the plan that is there is asked for each time too.
@kept(KEPT)
def _planned(puppet: Puppet, recipe: Gait, per_second: float) -> Written:
    made = anatomy(puppet)
    facing = {"left": -1, "right": 1, "auto": made.facing}[recipe.facing]
    said: list[str] = []
    if facing == 0:
        said.append("It is seen from the front: it steps on the spot, feet rising in turn, and does not travel.")
    wanted = recipe.step if recipe.step is not None else _natural_step(puppet, made, recipe, facing)
    plan, part = _tried(puppet, made, recipe, facing, wanted)
    if part < 1:
        step = f"{wanted * part:.0f} instead of {wanted:.0f} units"
        said.append(f"The legs can't make so long a step without leaving their limits: it is {step} long.")
    if plan.lowered > 0.12 * made.leg:
        said.append(f"To reach so far the body is carried {plan.lowered:.0f} units lower than it stands.")
    natural = natural_frames(made.leg, wanted * part, _height(puppet, made), per_second, recipe.gait == "run")
    if abs(natural - recipe.frames) > 2:
        slow = "heavy and slow" if recipe.frames > natural else "light and hurried"
        said.append(f"{natural} frames would be natural for such a step; {recipe.frames} look {slow}.")
    if not made.arms:
        said.append("No arms were found, so none swing.")
    said.append(plan.measured())
    return plan.written(tuple(said))


def _natural_step(puppet: Puppet, made: Anatomy, recipe: Gait, facing: int) -> float:
    """The longest step up to the gait's usual one that these legs make without the body stooping for it."""
    usual = STEPS[recipe.gait] * made.leg
    for part in np.linspace(1, 0.4, 13):
        if _Plan(puppet, made, recipe, facing, usual * float(part)).lowered <= STOOP * made.leg:
            break
    return usual * float(part)


def _height(puppet: Puppet, made: Anatomy) -> float:
    top = min(w.f for w in rest_worlds(puppet).values())
    return max(1.15 * (made.ground - top), made.leg)


def _tried(puppet: Puppet, made: Anatomy, recipe: Gait, facing: int, wanted: float) -> tuple[_Plan, float]:
    """The plan with the longest step that the legs can make, and what part of the wanted step that is."""
    for part in SHORTER:
        plan = _Plan(puppet, made, recipe, facing, wanted * part)
        if plan.fits:
            return plan, part
    return plan, SHORTER[-1]


@dataclass(frozen=True)
class _Solved:
    """A leg turned so that its foot is where it should be."""

    values: BodyValues
    missed: float
    over_limit: float


class _Plan:
    """One attempt at a cycle, worked out at every frame."""

    def __init__(self, puppet: Puppet, made: Anatomy, recipe: Gait, facing: int, step: float) -> None:
        self.puppet, self.made, self.recipe = puppet, made, recipe
        self.way = facing or 1
        self.front = facing == 0
        self.count = recipe.frames
        self.time = np.arange(self.count) / self.count
        self.stride = 0.0 if self.front else 2 * step
        self.feet = table(made.legs, recipe.gait, self.way)
        self.steppings = [
            self._stepping(leg, foot, i) for i, (leg, foot) in enumerate(zip(made.legs, self.feet, strict=True))
        ]
        self._stand_under()

    @cached_property
    def upper(self) -> UpperBody:
        """What goes on above the legs."""
        bob = self._bounce()
        return UpperBody(self.puppet, self.recipe, self.made, self.way, self.front, self.count, bob, self._swing)

    @cached_property
    def body(self) -> dict[str, dict[int, Key]]:
        """Keys of all but the legs."""
        return self._body_keys()

    @cached_property
    def solved(self) -> list[_Solved]:
        """All legs turned to their feet."""
        return self._solved()

    @property
    def fits(self) -> bool:
        """Whether the legs can do it."""
        length = self.made.leg
        able = all(s.missed < 0.002 * length and s.over_limit < 0.5 for s in self.solved)
        return able and self.lowered < 0.3 * length

    def _stepping(self, leg: Leg, foot: Foot, number: int) -> Stepping:
        recipe, made = self.recipe, self.made
        side = 1 + recipe.uneven / 100 * (1 if number % 2 else -1)
        heavy = recipe.weight / 100
        roll = recipe.roll / 100
        sole = leg.sole
        seen = [self._forward(p - leg.ankle) for p in (sole.heel, sole.ball, sole.toe)]
        # The ground is one line: a foot that rests a little above it comes down to it.
        drop = 1j * (made.ground - max(sole.heel.imag, sole.toe.imag))
        running = recipe.gait in ("run", "skip", "gallop")
        lift = (recipe.lift + recipe.knee * 0.6) / 100 * made.leg * side * (1 - 0.35 * heavy)
        flat = leg.foot is None or self.front
        return Stepping(
            foot,
            seen[0] + drop,
            seen[1] + drop,
            seen[2] + drop,
            leg.toe is not None,
            self.stride,
            0.0 if flat else STRIKE * roll * (0.4 if running else 1.0),
            0.0 if flat else OFF * roll,
            max(lift, 0.0),
            flat_to=min(max(1 - ROLLING / (foot.duty * self.count), EARLIEST), FLAT_TO),
        )

    def _stand_under(self) -> None:
        """Put the stance where the legs reach it with the body carried highest: a foot that rolls over its
        toe reaches farther back than forward."""
        half = max(f.duty for f in self.feet) * self.stride / 2
        plain = self.steppings
        # A stance farther back only lies farther back: it is worked out once.
        ways = [s.at(self.time) for s in plain]
        best = np.inf
        for part in SHIFTS if half else (0.0,):
            self.steppings = [replace(s, shift=part * half) for s in plain]
            self.ways = [(ankle + part * half, angle, toe, stands) for ankle, angle, toe, stands in ways]
            drop, lowered = self._carried()
            if lowered < best - 1e-9:
                best, kept = lowered, (self.steppings, self.ways, drop, lowered)
        self.steppings, self.ways, self.drop, self.lowered = kept

    def _forward(self, way: complex) -> complex:
        return complex(self.way * way.real, way.imag)

    def _targets(self, i: int) -> tuple[Complexes, Floats, Floats]:
        """Where a leg's ankle should be on the stage at each frame, and the angles of its foot and toe."""
        leg, (place, angle, toe, _) = self.made.legs[i], self.ways[i]
        ankle: Complexes = leg.ankle + self.way * place.real + 1j * place.imag
        return ankle, self.way * angle, self.way * toe

    def _third_bone(self, i: int, ankle: Complexes) -> Complexes:
        """A hind leg's last bone at each frame: leaning as the leg does, drawn up while it swings."""
        leg = self.made.legs[i]
        rest = leg.places[-1] - leg.places[2]
        swing = np.angle((ankle - leg.hip) / (leg.ankle - leg.hip))
        stands = self.ways[i][3]
        since = np.mod(self.time - self.feet[i].phase, 1.0)
        u = np.clip((since - self.feet[i].duty) / (1 - self.feet[i].duty), 0, 1)
        drawn = np.where(stands, 0.0, math.radians(30) * np.sin(np.pi * u) ** 2)
        found: Complexes = rest * np.exp(1j * (0.4 * swing + self.way * drawn))
        return found

    def _carried(self) -> tuple[Floats, float]:
        """How far the body is below where it stands at rest, at each frame, and at its middle height.

        It bounces about a height at which no leg is stretched beyond what it can do.
        """
        made, recipe = self.made, self.recipe
        heavy = recipe.weight / 100
        rise = recipe.bounce / 100 * made.leg / 2 * (1 + 0.4 * heavy)
        shape = self._bounce()
        need = np.full(self.count, -np.inf)
        for i, leg in enumerate(made.legs):
            if len(leg.bones) == 1:
                continue
            ankle = self._targets(i)[0]
            end = ankle - self._third_bone(i, ankle) if len(leg.bones) > 2 else ankle
            reach = UNUSED * sum(leg.lengths[:2])
            across = np.clip(np.abs(end.real - leg.hip.real) / reach, 0, 1)
            need = np.maximum(need, end.imag - reach * np.sqrt(1 - across**2) - leg.hip.imag)
        base = max(float((need - rise * shape).max()), 0.0) if np.isfinite(need).any() else 0.0
        base += max(heavy, 0.0) * 0.02 * made.leg
        return base + rise * shape, base

    def _bounce(self) -> Floats:
        """From 1 where the body is lowest to -1 where it is highest."""
        if self.springs:
            return np.cos(2 * np.pi * (self.time - self.low))
        step = warped(self.feet)(self.time)
        rounds = 1 if self.recipe.gait == "gallop" and len(self.made.legs) > 2 else 2
        return np.cos(2 * np.pi * rounds * (step - self.low))

    @property
    def springs(self) -> bool:
        """Whether both feet come down one right after the other, and the body rises once in a cycle."""
        return self.recipe.gait in ("skip", "gallop") and len(self.feet) == 2

    @property
    def low(self) -> float:
        """When in a step the body is lowest (share of the cycle): in a run half way through the stance; in a
        walk soon after contact, so that it is higher when the legs pass than when they touch."""
        duty = max(f.duty for f in self.feet)
        if self.springs:
            return (max(f.phase for f in self.feet) + duty) / 2
        return duty / 2 if duty < 0.5 else LOWEST

    def _swing(self, i: int) -> Floats:
        """From 1 with a leg farthest forward to -1 farthest back."""
        foot = self.feet[i]
        return np.cos(2 * np.pi * (self.time - foot.phase + (0.02 if foot.duty > 0.5 else 0.0)))

    # The body

    def _body_keys(self) -> dict[str, dict[int, Key]]:
        """Keys of all but the legs."""
        found: dict[str, dict[int, Key]] = {}
        marks = [f for f, _ in self._labels()]
        down = np.stack([np.zeros(self.count), self.drop])
        found[channel_id(self.made.body, "move")] = keys_on_ring(
            self._into_parent(self.made.body, down), marks, BODY_TOLERANCE
        )
        for id, turn in self.upper.turns().items():
            if np.abs(turn).max() > 1e-6:
                found[channel_id(id, "turn")] = keys_on_ring(turn[None], marks, TURN_TOLERANCE, 3)
        for id, along in self.upper.twist().items():
            if np.abs(along).max() > 1e-6:
                moved = self._into_parent(id, np.stack([along, np.zeros(self.count)]))
                found[channel_id(id, "move")] = keys_on_ring(moved, marks, BODY_TOLERANCE)
        return found

    def _into_parent(self, joint: str, way: Floats) -> Floats:
        """A movement on the stage as the joint's `move` channel holds it."""
        parent = self.puppet.joints[joint].parent if joint != ROOT else None
        if parent is None:
            return way
        inward = rest_worlds(self.puppet)[parent].inverse()
        return np.stack([inward.a * way[0] + inward.c * way[1], inward.b * way[0] + inward.d * way[1]])

    # The legs

    def _solved(self) -> list[_Solved]:
        """All legs turned to their feet, the body moving by its keys."""
        bare = Motion(id="gait", name="gait", puppet=self.puppet.id, length=self.count, cycle=True)
        channels = [_channel(id, keys) for id, keys in self.body.items()]
        evaluation = Evaluation.full(self.puppet, bare.with_channels(*channels))
        row = {id: i for i, id in enumerate(evaluation.skeleton.ids)}
        found: list[_Solved] = []
        for i, leg in enumerate(self.made.legs):
            parent = self.puppet.joints[leg.bones[0]].parent
            above = evaluation.worlds[row[parent] if parent else 0]
            moved = evaluation.keyed.get(channel_id(leg.bones[0], "move"), np.zeros((2, self.count)))
            found.append(self._leg(i, leg, above, moved))
        return found

    def _leg(self, i: int, leg: Leg, above: Floats, moved: Floats) -> _Solved:
        """Turn the bones, foot and toe of a leg that hangs on `above` `(6, frames)`."""
        ankle, angle, toe = self._targets(i)
        rest = rest_worlds(self.puppet)
        values: BodyValues = {}
        hip = self._place(leg.bones[0], above, moved)
        missed = over = 0.0
        if len(leg.bones) == 1:
            # A leg without a knee is drawn up behind the body instead of bending.
            way = (ankle - hip) / np.maximum(np.abs(ankle - hip), 1e-9)
            bones, shift = [way * leg.lengths[0]], ankle - way * leg.lengths[0] - hip
            moved = moved + _inward(above, shift)
            values[channel_id(leg.bones[0], "move")] = moved
        else:
            third = self._third_bone(i, ankle) if len(leg.bones) > 2 else np.zeros_like(ankle)
            upper, lower = leg.lengths[:2]
            thigh, shin, missed = _two_bones(ankle - third - hip, upper, lower, leg.bend)
            bones = [thigh, shin, third][: len(leg.bones)]
        world = above
        for n, joint in enumerate(leg.bones):
            aim = leg.places[n + 1] - leg.places[n]
            world, over = self._turn(joint, world, aim, bones[n], moved if n == 0 else None, values, over)
        if leg.foot is not None:
            axis = complex(rest[leg.foot].a, rest[leg.foot].b)
            world, over = self._turn(leg.foot, world, axis, axis * np.exp(1j * angle), None, values, over)
        if leg.toe is not None:
            axis = complex(rest[leg.toe].a, rest[leg.toe].b)
            self._turn(leg.toe, world, axis, axis * np.exp(1j * (angle + toe)), None, values, over)
        return _Solved(values, missed, over)

    def _place(self, joint: str, above: Floats, moved: Floats) -> Complexes:
        held = self._rest(joint)
        return place_in(above, held.x + moved[0], held.y + moved[1])

    def _rest(self, joint: str) -> Placement:
        return self.puppet.joints[joint].rest

    def _turn(
        self,
        joint: str,
        above: Floats,
        rest_way: complex,
        way: Complexes,
        moved: Floats | None,
        values: BodyValues,
        over: float,
    ) -> tuple[Floats, float]:
        """Turn a joint so that what points `rest_way` on the stage at rest points along `way`.

        Writes its values; gives its transform to the stage `(6, frames)`, and the most by which any
        joint so far would have to leave its limits (degrees).
        """
        rest, placed = rest_worlds(self.puppet), self._rest(joint)
        parent = self.puppet.joints[joint].parent
        at_rest = _inward(_column(rest[parent] if parent else None), np.array([rest_way]))
        wanted = _inward(above, way)
        turn = np.unwrap(np.arctan2(wanted[1], wanted[0]) - np.arctan2(at_rest[1], at_rest[0]))
        turn = np.rad2deg(turn - 2 * np.pi * np.round(turn.mean() / (2 * np.pi)))
        low, high = limits_of(self.puppet, joint)
        over = max(over, float((low - turn).max()), float((turn - high).max()))
        turn = np.clip(turn, low, high)
        values[channel_id(joint, "turn")] = turn[None]
        shift = moved if moved is not None else np.zeros((2, self.count))
        local, world = np.empty((1, 6, self.count)), np.empty((1, 6, self.count))
        placed_block(
            (placed.x + shift[0])[None], (placed.y + shift[1])[None], (placed.angle + turn)[None],
            np.array([[placed.skew]]), np.full((1, self.count), placed.sx), np.full((1, self.count), placed.sy), local,
        )  # fmt: skip
        compose_blocks(above[None], local, world)
        return world[0], over

    def measured(self) -> str:
        """What of the plan can be measured, as a sentence: how smoothly joints turn, how well feet stand."""
        legs = {
            id.removesuffix(".turn"): v[0] for s in self.solved for id, v in s.values.items() if id.endswith(".turn")
        }
        turns = legs | self.upper.turns()
        jumps = {id: float(np.abs(np.roll(v, -1) - 2 * v + np.roll(v, 1)).max()) for id, v in turns.items()}
        worst = max(jumps, key=lambda id: jumps[id])
        missed = max((s.missed for s in self.solved), default=0.0)
        return (
            f"Measured: “{self.puppet.joints[worst].name}” changes its speed the most, by {jumps[worst]:.1f}° from frame"
            f" to frame; feet miss their places by at most {missed:.3f} units."
        )

    # What is written

    def _labels(self) -> list[tuple[int, str]]:
        """The frames of the poses and what they are called, one pose a frame."""
        first = self.feet[0]
        if self.springs:
            off = max(f.phase + f.duty for f in self.feet)
            times = {"contact": 0.0, "down": self.low, "up": off, "flight": (1 + off) / 2}
            return sorted((round(t * self.count) % self.count, label) for label, t in times.items())
        steps = sorted({round(f.phase, 6) for f in self.feet})
        steps = steps if len(steps) == 2 else [first.phase, first.phase + 0.5]
        found: dict[int, str] = {}
        duty = max(f.duty for f in self.feet)
        shares = (
            {"contact": 0.0, "down": 2 * self.low, "passing": 0.5, "up": 2 * self.low + 0.5}
            if duty > 0.5
            else {"contact": 0.0, "down": duty, "up": 2 * duty - 0.04, "flight": duty + 0.5}
        )
        # Where two fall on one frame the one that comes first here names it: the contact before the flight.
        for label, share in shares.items():
            for n, touch in enumerate(steps):
                span = (steps[(n + 1) % 2] - touch) % 1.0 or 0.5
                found.setdefault(round((touch + share * span) * self.count) % self.count, label)
        return sorted(found.items())

    def written(self, said: tuple[str, ...]) -> Written:
        """Keys at the poses and wherever values turn between them, the poses, and the ground."""
        recipe = self.recipe
        labels = self._labels()
        marks = [f for f, _ in labels]
        keys = dict(self.body)
        # What a turn at the hip misses by, the foot at the other end of the leg does the more.
        at_end = math.degrees(BODY_TOLERANCE / self.made.leg) if self.made.leg else LEG_TOLERANCE
        for id, values in ((id, v) for s in self.solved for id, v in s.values.items()):
            tolerance = min(LEG_TOLERANCE, at_end) if id.endswith("turn") else BODY_TOLERANCE
            keys[id] = keys_on_ring(values, marks, tolerance)
        keys |= self._let_go()
        travel = self.way * self.stride
        outside: dict[str, str] = {}
        if recipe.travel == "forward" and travel:
            keys[ON] = self._travelling(keys.get(ON, {}), travel)
            outside[ON] = "repeat-and-add"
        runs = 0.0 if recipe.travel == "forward" else -travel / self.count
        return Written(
            keys,
            poses={f: Pose(label=label) for f, label in labels},
            delays=self._delays(),
            outside=outside,
            length=self.count,
            cycle=True,
            ground=Ground(level=round(self.made.ground, 4), runs=round(runs, 6)),
            said=said,
        )

    def _let_go(self) -> dict[str, dict[int, Key]]:
        """Limbs that would reach for their handles follow their turned joints instead."""
        turned = {owner_of(id) for id in (*self.body, *(v for s in self.solved for v in s.values))}
        chains = [c for c in self.puppet.chains.values() if turned.intersection(c.joints)]
        return {channel_id(c.id, "reach"): {0: Key(value=(0.0,))} for c in chains}

    def _travelling(self, keys: dict[int, Key], travel: float) -> dict[int, Key]:
        """Keys of the whole puppet's place that carry it on by so much in each round."""
        if not keys:
            ends = ((0, 0.0), (self.count, travel))
            return {f: Key(value=(round(x, 4), 0.0), ease=Even()) for f, x in ends}
        bare = Channel(joint=ROOT, kind="move", keys=keys)
        values = np.concatenate([evaluate(bare, self.count, True), np.array(keys[0].value)[:, None]], axis=1)
        x = values[0] + travel * np.arange(self.count + 1) / self.count
        return {f: Key(value=(round(float(x[f]), 4), round(float(values[1, f]), 4))) for f in range(self.count + 1)}

    def _delays(self) -> dict[str, float]:
        """What comes late: the head behind the body, forearms and hands behind the shoulders."""
        lag = self.recipe.lag
        found: dict[str, float] = {}
        if lag and self.made.head:
            found[channel_id(self.made.head, "turn")] = lag
        for arm in self.made.arms:
            if lag and len(arm.joints) > 1:
                found[channel_id(arm.joints[1], "turn")] = round(0.5 * lag, 2)
        return {id: d for id, d in found.items() if id in self.body}


def _channel(id: str, keys: dict[int, Key]) -> Channel:
    joint, kind = ChannelId.of(id)
    return Channel(joint=joint, kind=kind, keys=keys)  # type: ignore[arg-type]


def _column(world: object) -> Floats:
    found = np.array([1.0, 0, 0, 1, 0, 0] if world is None else list(world))  # type: ignore[call-overload]
    return found[:, None]


def _inward(above: Floats, way: Complexes) -> Floats:
    """Arrows on the stage as seen in spaces `(6, frames)`: `(2, frames)`."""
    a, b, c, d = above[:4]
    det = a * d - b * c
    x, y = way.real, way.imag
    found: Floats = np.stack([(d * x - c * y) / det, (a * y - b * x) / det])
    return found


def _two_bones(end: Complexes, upper: float, lower: float, bend: float) -> tuple[Complexes, Complexes, float]:
    """Two bones that bring their end so far from the hip, bent clockwise if `bend` is positive; and by how
    much they miss at worst (units). By the law of cosines."""
    far = np.clip(np.abs(end), abs(upper - lower) + 1e-6, upper + lower)
    missed = float(np.abs(np.abs(end) - far).max())
    ratio = (upper * upper + far * far - lower * lower) / (2 * upper * far)
    off = np.arccos(np.clip(ratio, -1, 1))
    way = end / np.maximum(np.abs(end), 1e-9)
    thigh = upper * way * np.exp(-1j * bend * off)
    return thigh, far * way - thigh, missed
