"""A drawing as a tree of filled and stroked outlines and pictures.

This is what both painters draw. All numbers are in the drawing's own units, y down; colours
are sRGB with straight alpha, written `#rrggbbaa`.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal, get_args

from pydantic import Field

from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.base import AssetId, Checked, Colour, Value

Box = tuple[float, float, float, float]

POINTS_PER_VERB = {"M": 1, "L": 1, "Q": 2, "C": 3, "Z": 0}


class Outline(Checked):
    """Contours: one verb a segment (`M L Q C Z`), and the points they use, flat as x, y, x, y…"""

    verbs: Annotated[str, Field(pattern=r"^(M[LQC]*Z?)*$", max_length=2_000_000)]
    points: tuple[float, ...]

    def check(self) -> None:
        verbs = self.verbs
        needed = 2 * (len(verbs) - verbs.count("Z") + verbs.count("Q") + 2 * verbs.count("C"))
        if len(self.points) != needed:
            raise ValueError(f"the verbs need {needed} numbers, {len(self.points)} were given")

    @property
    def straight(self) -> bool:
        """Whether it has no curves, and no point that nothing is drawn to."""
        return "Q" not in self.verbs and "C" not in self.verbs and "MM" not in self.verbs and self.verbs[-1:] != "M"

    def segments(self) -> Iterator[tuple[str, slice]]:
        """Each segment's verb and which of the points, counted as pairs, are its own."""
        at = 0
        for verb in self.verbs:
            own = slice(at, at + POINTS_PER_VERB[verb])
            yield verb, own
            at = own.stop


class Stop(Value):
    """One colour of a gradient; `at` runs from 0 to 1."""

    at: Annotated[float, Field(ge=0, le=1)]
    colour: Colour


class Flat(Value):
    """One colour all over."""

    kind: Literal["flat"] = "flat"
    colour: Colour


class Linear(Value):
    """Colours along a line; `matrix` takes gradient units to drawing units."""

    kind: Literal["linear"] = "linear"
    start: tuple[float, float]
    end: tuple[float, float]
    stops: Annotated[tuple[Stop, ...], Field(min_length=1)]
    spread: Literal["pad", "reflect", "repeat"] = "pad"
    matrix: Affine = IDENTITY


class Radial(Value):
    """Colours from a focus out to a circle."""

    kind: Literal["radial"] = "radial"
    focus: tuple[float, float]
    focus_radius: Annotated[float, Field(ge=0)] = 0
    centre: tuple[float, float]
    radius: Annotated[float, Field(ge=0)]
    stops: Annotated[tuple[Stop, ...], Field(min_length=1)]
    spread: Literal["pad", "reflect", "repeat"] = "pad"
    matrix: Affine = IDENTITY


Paint = Annotated[Flat | Linear | Radial, Field(discriminator="kind")]


def covers(paint: Paint) -> bool:
    """Whether nothing shows through a paint."""
    return all(
        c.endswith("ff") for c in ([paint.colour] if isinstance(paint, Flat) else [s.colour for s in paint.stops])
    )


Rule = Literal["nonzero", "evenodd"]


class Stroke(Value):
    """A line along an outline."""

    paint: Paint
    width: Annotated[float, Field(gt=0)]
    cap: Literal["butt", "round", "square"] = "butt"
    join: Literal["miter", "round", "bevel"] = "miter"
    miter: Annotated[float, Field(ge=1)] = 4
    dash: tuple[float, ...] = ()
    dash_offset: float = 0


class Shade(Value):
    """Where a gradient lies while its shape bends: x, y of each vertex at rest, drawing units, three vertices a triangle.
    Each goes along with the points of the outline, behind which it is met."""

    points: tuple[float, ...]
    triangles: tuple[int, ...]


class Shape(Value):
    """An outline with a fill under a stroke, either of which may be missing; `name` is what it was called where it
    was drawn. A fill with a `shade` bends with its shape."""

    kind: Literal["shape"] = "shape"
    name: Annotated[str, Field(max_length=120, exclude_if=lambda name: not name)] = ""
    outline: Outline
    rule: Rule = "nonzero"
    fill: Paint | None = None
    stroke: Stroke | None = None
    shade: Annotated[Shade | None, Field(exclude_if=lambda shade: shade is None)] = None


class Picture(Value):
    """A raster picture in the rectangle x, y, width, height."""

    kind: Literal["picture"] = "picture"
    asset: AssetId
    box: Box


class Mesh(Value):
    """A raster picture laid on triangles: x, y of each vertex, three vertices a triangle.

    `box` is where the whole picture would lie at rest; a vertex shows the pixel it lies on then.
    """

    kind: Literal["mesh"] = "mesh"
    asset: AssetId
    box: Box
    points: tuple[float, ...]
    triangles: tuple[int, ...]


class Clip(Value):
    """Only what lies inside this outline is shown."""

    outline: Outline
    rule: Rule = "nonzero"


Blend = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity", "plus-lighter",
]  # fmt: skip
"""How colours are laid on those under them (Compositing and Blending 1, §5.1.1, and 2 for `plus-lighter`)."""
BLENDS: frozenset[str] = frozenset(get_args(Blend))


class Layer(Value):
    """Nodes drawn together, clipped, faded and blended with what is under them as one; `isolated` ones blend among
    themselves only."""

    kind: Literal["layer"] = "layer"
    matrix: Affine = IDENTITY
    opacity: Annotated[float, Field(ge=0, le=1)] = 1
    clips: tuple[Clip, ...] = ()
    blend: Annotated[Blend, Field(exclude_if=lambda blend: blend == "normal")] = "normal"
    isolated: Annotated[bool, Field(exclude_if=lambda isolated: not isolated)] = False
    nodes: tuple[Node, ...] = ()

    @property
    def counts(self) -> bool:
        """Whether it does more than move what is in it."""
        return bool(self.clips) or self.opacity < 1 or self.blend != "normal" or self.isolated


Node = Annotated[Shape | Picture | Mesh | Layer, Field(discriminator="kind")]


class Art(Value):
    """A whole drawing. `bounds` (left, top, right, bottom) holds everything that shows."""

    bounds: Box
    nodes: tuple[Node, ...]

    def pictures(self) -> frozenset[str]:
        """The assets of the pictures this drawing uses."""
        found: set[str] = set()
        waiting: list[Node] = list(self.nodes)
        while waiting:
            node = waiting.pop()
            if isinstance(node, (Picture, Mesh)):
                found.add(node.asset)
            elif isinstance(node, Layer):
                waiting.extend(node.nodes)
        return frozenset(found)


Layer.model_rebuild()


def blend_of(art: Art) -> Blend:
    """How a drawing as a whole is laid on what is under it."""
    only = art.nodes[0] if len(art.nodes) == 1 else None
    return only.blend if isinstance(only, Layer) else "normal"
