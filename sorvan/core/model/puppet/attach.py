"""How a piece bends: over joints with smooth weights, or as a sheet that handles pull about."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import Checked, Id, Number, Value


class Dab(Value):
    """A touch of the weight brush, in drawing units: more (or less) of one joint around a place."""

    joint: Id
    x: Number
    y: Number
    radius: Annotated[float, Field(gt=0, le=1e5)]
    amount: Annotated[float, Field(ge=-1, le=1)]


class Bend(Checked):
    """A piece that bends over several joints with smooth weights.

    `roundness` is how much of its thickness a bend keeps (0 to 1). `reach` limits, by joint, how
    far from its bone a joint pulls (drawing units). `dabs` is what was painted.
    """

    kind: Literal["bend"] = "bend"
    joints: Annotated[tuple[Id, ...], Field(min_length=2, max_length=32)]
    roundness: Annotated[float, Field(ge=0, le=1)] = 1.0
    reach: dict[Id, Annotated[float, Field(gt=0, le=1e5)]] = {}
    dabs: Annotated[tuple[Dab, ...], Field(max_length=2000)] = ()

    @property
    def nodes(self) -> tuple[str, ...]:
        """What bends the piece: its joints."""
        return self.joints

    def check(self) -> None:
        _once(self.joints)
        if not {*self.reach, *(d.joint for d in self.dabs)} <= set(self.joints):
            raise ValueError("a reach or a touch of the brush belongs to a joint that the piece does not bend over")

    def renamed(self, names: Mapping[str, str]) -> Bend:
        """The same over joints that go by other ids."""
        return self.changed(
            joints=tuple(names.get(j, j) for j in self.joints),
            reach={names.get(j, j): r for j, r in self.reach.items()},
            dabs=tuple(d.changed(joint=names.get(d.joint, d.joint)) for d in self.dabs),
        )

    def without(self, gone: Collection[str]) -> Bend | None:
        """What is left when these joints go: nothing, if fewer than two would be."""
        left = tuple(j for j in self.joints if j not in gone)
        if len(left) < 2:
            return None
        dabs = tuple(d for d in self.dabs if d.joint not in gone)
        return self.changed(joints=left, dabs=dabs, reach={j: r for j, r in self.reach.items() if j not in gone})


class BendSheet(Checked):
    """A piece laid on a triangle mesh that handles pull about. `triangles` is how many are wanted,
    `margin` how far the mesh stands out beyond the picture (drawing units). Handles of which `turning` tells turn the
    patch around them too, so far (drawing units), as they are turned."""

    kind: Literal["sheet"] = "sheet"
    handles: Annotated[tuple[Id, ...], Field(min_length=1, max_length=64)]
    triangles: Annotated[int, Field(ge=20, le=4000)] = 300
    margin: Annotated[float, Field(ge=0.5, le=200)] = 4.0
    turning: dict[Id, Annotated[float, Field(gt=0, le=1e5)]] = {}

    @property
    def nodes(self) -> tuple[str, ...]:
        """What bends the piece: its handles."""
        return self.handles

    def check(self) -> None:
        _once(self.handles)
        if not self.turning.keys() <= set(self.handles):
            raise ValueError("what turns a patch of a sheet is one of its handles")

    @property
    def patches(self) -> tuple[float, ...]:
        """How far around each handle a patch turns with it (drawing units); nought where none does."""
        return tuple(self.turning.get(h, 0.0) for h in self.handles)

    def renamed(self, names: Mapping[str, str]) -> BendSheet:
        """The same by handles that go by other ids."""
        return self.changed(
            handles=tuple(names.get(h, h) for h in self.handles),
            **({"turning": {names.get(h, h): r for h, r in self.turning.items()}} if self.turning else {}),
        )

    def without(self, gone: Collection[str]) -> BendSheet | None:
        """What is left when these handles go: nothing, if none would be."""
        left = tuple(h for h in self.handles if h not in gone)
        turning = {h: r for h, r in self.turning.items() if h in left}
        return self.changed(handles=left, **({"turning": turning} if self.turning else {})) if left else None


def _once(nodes: tuple[str, ...]) -> None:
    if len(set(nodes)) != len(nodes):
        raise ValueError("a joint is named twice")


Attach = Annotated[Bend | BendSheet, Field(discriminator="kind")]
