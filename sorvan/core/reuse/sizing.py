"""A puppet with its motions for a stage of another size: everything stands as large, and in the same place, as seen on it."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from sorvan.core.model.base import Pair
from sorvan.core.model.channel import Channel, Key, Tangents
from sorvan.core.model.channels import channel_id
from sorvan.core.model.kit import Kit
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Dial, Puppet
from sorvan.core.recipes.registry import kind_of

LEAST = 1e-3
"""By how much a size differs at least from the one there is."""


def in_words(size: float) -> str:
    """How something comes that is so many times as large as it was."""
    return f"{size:.3g} times as large" if size > 1 else f"at {size:.0%} of the size"


@dataclass(frozen=True)
class Resizing:
    """Stages laid over one another: lengths become `size` times as long, and what lies at the upper left corner lies
    `right` and `down` from it (units)."""

    size: float
    right: float
    down: float

    @classmethod
    def between(cls, own: tuple[int, int], its: tuple[int, int]) -> Resizing | None:
        """What takes one stage into another, as large as it fits and in its middle; None where it fits as it is."""
        size = min(its[0] / own[0], its[1] / own[1])
        if abs(size - 1) < LEAST:
            return None
        return cls(size, (its[0] - size * own[0]) / 2, (its[1] - size * own[1]) / 2)

    def place(self, x: float, y: float) -> Pair:
        """Where a place of the stage comes to lie."""
        return (self.size * x + self.right, self.size * y + self.down)

    def arrow(self, v: tuple[float, ...]) -> tuple[float, ...]:
        """What a move on the stage becomes."""
        return tuple(self.size * part for part in v)

    def kit(self, kit: Kit) -> Kit:
        """The puppet and its motions on the other stage. What hangs on something is moved by that, in its space."""
        moved = {channel_id(j.id, "move") for j in kit.puppet.joints.values() if j.parent is None}
        moved.add(channel_id(ROOT, "move"))
        motions = tuple(self._motion(m, moved) for m in kit.motions)
        return kit.changed(puppet=self._puppet(kit.puppet, moved), motions=motions, stage=None)

    def _puppet(self, puppet: Puppet, moved: Collection[str]) -> Puppet:
        joints = dict(puppet.joints)
        for j in puppet.joints.values():
            if j.parent is None:
                x, y = self.place(j.rest.x, j.rest.y)
                rest = j.rest.changed(x=x, y=y, sx=j.rest.sx * self.size, sy=j.rest.sy * self.size)
                joints[j.id] = j.changed(rest=rest)
        laid = puppet.reference
        if laid is not None:
            x, y = self.place(laid.x, laid.y)
            laid = laid.changed(x=x, y=y, scale=min(laid.scale * self.size, 100.0))
        return puppet.changed(
            origin=self.place(*puppet.origin),
            axis=None if puppet.axis is None else self.place(puppet.axis, 0)[0],
            joints=joints,
            dials={id: self._dial(d, moved) for id, d in puppet.dials.items()},
            book={id: e.changed(keys=self._keyed(e.keys, moved)) for id, e in puppet.book.items()},
            reference=laid,
        )

    def _dial(self, dial: Dial, moved: Collection[str]) -> Dial:
        stops = (
            s.changed(values={c: self.arrow(v) if c in moved else v for c, v in s.values.items()}) for s in dial.stops
        )
        return dial.changed(stops=tuple(stops))

    def _keyed(self, keys: Mapping[str, dict[int, Key]], moved: Collection[str]) -> dict[str, dict[int, Key]]:
        return {c: self._keys(own) if c in moved else own for c, own in keys.items()}

    def _keys(self, keys: Mapping[int, Key]) -> dict[int, Key]:
        return {f: k.changed(value=self.arrow(k.value), tangents=self._tangents(k.tangents)) for f, k in keys.items()}

    def _tangents(self, found: Tangents | None) -> Tangents | None:
        if found is None:
            return None
        before, after = (None if way is None else self.arrow(way) for way in (found.before, found.after))
        return Tangents(before=before, after=after)  # type: ignore[arg-type]

    def _motion(self, motion: Motion, moved: Collection[str]) -> Motion:
        def channel(c: Channel) -> Channel:
            return c.changed(keys=self._keys(c.keys)) if c.id in moved else c

        ground = motion.ground
        level = None if ground.level is None else self.size * ground.level + self.down
        return motion.changed(
            channels={id: channel(c) for id, c in motion.channels.items()},
            ground=ground.changed(level=level, runs=ground.runs * self.size),
            plants={id: p.changed(place=self.place(*p.place)) for id, p in motion.plants.items()},
            recipes={id: kind_of(r).scaled(r, self) for id, r in motion.recipes.items()},
        )
