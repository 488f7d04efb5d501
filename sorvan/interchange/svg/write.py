"""Frames as SVG (W3C SVG 2): one as a picture, several as an animation. Vectors stay vectors.

What only pixels can say, a picture laid on a bending sheet, is drawn to a picture. Animations step from frame to
frame (CSS Animations, step-end); which piece is in front stays as in their first frame.
"""

from __future__ import annotations

import base64
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from sorvan.core.art.colours import rgba
from sorvan.core.geometry import Floats
from sorvan.core.model.art import Art, Flat, Layer, Linear, Mesh, Node, Outline, Paint, Picture, Radial, Shape
from sorvan.core.morph.looks import settled
from sorvan.core.plan.plan import Cel, CelCopies, Plan
from sorvan.core.plan.show import Show
from sorvan.picture.paint import Painter
from sorvan.picture.rasters import Rasteriser
from sorvan.picture.studio import Studio

Six = Sequence[float] | Floats
Rasterise = Callable[[Cel, int, int], tuple[bytes, tuple[float, float, float, float]]]
"""Draws an item in one of its cel's own frames, as PNG, and says where it lies in drawing units."""


@dataclass
class Sources:
    """Where art and pictures come from, and who draws what only pixels can say."""

    art: Callable[[str], Art]
    asset: Callable[[str], bytes]
    rasterise: Rasterise

    @classmethod
    def of(cls, studio: Studio) -> Sources:
        """Those of a studio, drawn by a painter of their own."""
        return cls(studio.art, studio.asset, Rasteriser(Painter(studio.asset)))


def frame_svg(show: Show, frame: int, sources: Sources, title: str) -> bytes:
    """One frame as SVG, with its paper."""
    writer = _Writer(sources)
    sheets = show.sheets(frame)
    body = []
    for sheet in sheets:
        own = writer.sheet(sheet.plan, [sheet.frame], None)
        body.append(own if sheet.opacity >= 1 else f'<g opacity="{_n(sheet.opacity)}">{own}</g>')
    colour, amount = show.veil(frame)
    plan = sheets[-1].plan
    if amount > 0:
        body.append(f'<rect width="{plan.width}" height="{plan.height}" {_fill(colour, amount)}/>')
    return writer.document(plan, "".join(body), title)


def animated_svg(plan: Plan, start: int, stop: int, rate: Fraction, sources: Sources, title: str) -> bytes:
    """Frames `start` up to `stop` of a plan as an endless animation."""
    writer = _Writer(sources)
    clock = _Clock(stop - start, float((stop - start) / rate))
    return writer.document(plan, writer.sheet(plan, list(range(start, stop)), clock), title)


@dataclass
class _Clock:
    """How an animation runs: how many frames it has, and how many seconds it lasts."""

    frames: int
    seconds: float

    def keys(self, values: Sequence[str]) -> list[tuple[float, str]]:
        """The values that are new, each with the part of the whole (percent) at which it comes."""
        return [(100 * n / self.frames, v) for n, v in enumerate(values) if n == 0 or v != values[n - 1]]


def _n(value: float) -> str:
    return f"{float(value):.4f}".rstrip("0").rstrip(".") or "0"


def _matrix(m: Six) -> str:
    return f"matrix({','.join(_n(v) for v in m)})"


def _after(a: Floats, b: Six) -> Floats:
    """Six numbers, first `b`, then `a`."""
    return np.array(
        [
            a[0] * b[0] + a[2] * b[1],
            a[1] * b[0] + a[3] * b[1],
            a[0] * b[2] + a[2] * b[3],
            a[1] * b[2] + a[3] * b[3],
            a[0] * b[4] + a[2] * b[5] + a[4],
            a[1] * b[4] + a[3] * b[5] + a[5],
        ]
    )


def _alpha(colour: str) -> float:
    return rgba(colour)[3] / 255


def _fill(colour: str, part: float = 1.0, what: str = "fill") -> str:
    alpha = _alpha(colour) * part
    return f'{what}="{colour[:7]}"' + (f' {what}-opacity="{_n(alpha)}"' if alpha < 1 else "")


def path_data(outline: Outline, points: Floats | None = None) -> str:
    """An outline as SVG path data; with other points `(n, 2)` in place of its own, if given."""
    flat = outline.points if points is None else points.ravel().tolist()
    return "".join(
        verb + " ".join(_n(v) for v in flat[2 * own.start : 2 * own.stop]) for verb, own in outline.segments()
    )


class _Taken:
    """The points of a bent drawing in some frames, handed out in the order in which its nodes are met."""

    def __init__(self, frames: Sequence[Floats]) -> None:
        self.frames, self.at = frames, 0

    def take(self, count: int) -> list[Floats]:
        self.at += count
        return [f[self.at - count : self.at] for f in self.frames]


@dataclass
class _Writer:
    sources: Sources
    defs: list[str] = field(default_factory=list)
    rules: list[str] = field(default_factory=list)
    known: dict[str, str] = field(default_factory=dict)
    count: int = 0

    def document(self, plan: Plan, body: str, title: str) -> bytes:
        style = f"<style>{''.join(self.rules)}</style>" if self.rules else ""
        head = (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {plan.width} {plan.height}" '
            f'width="{plan.width}" height="{plan.height}">'
        )
        return f"{head}<title>{escape(title)}</title>{style}<defs>{''.join(self.defs)}</defs>{body}</svg>".encode()

    def _id(self, letter: str) -> str:
        self.count += 1
        return f"{letter}{self.count}"

    def _define(self, text: str, letter: str) -> str:
        """The id of a definition: `{id}` in its text is put in its place. The same one is written once."""
        if text not in self.known:
            self.known[text] = self._id(letter)
            self.defs.append(text.replace("{id}", self.known[text]))
        return self.known[text]

    def _moving(self, values: Sequence[str], name: str, clock: _Clock | None) -> str:
        """A property that has these values in the frames: as an attribute if it stays, else as a class."""
        if clock is None or len(set(values)) == 1:
            return f" {name}={quoteattr(values[0])}"
        keys = "".join(f"{_n(at)}%{{{name}:{value}}}" for at, value in clock.keys(values))
        own = self._id("k")
        self.rules.append(f"@keyframes {own}{{{keys}}}.{own}{{animation:{own} {_n(clock.seconds)}s step-end infinite}}")
        return f' class="{own}"'

    def sheet(self, plan: Plan, frames: Sequence[int], clock: _Clock | None) -> str:
        """The paper and everybody on it."""
        clip = self._define(
            f'<clipPath id="{{id}}"><rect width="{plan.width}" height="{plan.height}"/></clipPath>', "c"
        )
        paper = f'<rect width="{plan.width}" height="{plan.height}" {_fill(plan.paper)}/>'
        cels = "".join(self.cel(cel, frames, clock) for cel in plan.cels)
        return f'<g clip-path="url(#{clip})">{paper}{cels}</g>'

    def cel(self, cel: Cel, frames: Sequence[int], clock: _Clock | None) -> str:
        """What one actor shows."""
        own = [cel.at(f) for f in frames]
        still = np.array([1.0, 0, 0, 1, 0, 0])
        stages = [still if cel.stage is None else cel.stage[:, f] for f in frames]
        if cel.copies is None:
            body = self.items(cel, own, stages, clock)
        else:
            body = "".join(self.copy(cel, cel.copies, n, own, stages, clock) for n in range(len(cel.copies.ahead)))
        if cel.fade is not None:
            fades = [_n(cel.fade[f]) for f in frames]
            body = f"<g{self._moving(fades, 'opacity', clock)}>{body}</g>"
        return body

    def copy(
        self, cel: Cel, copies: CelCopies, n: int, own: Sequence[int], stages: Sequence[Floats], clock: _Clock | None
    ) -> str:
        """One copy of an element."""
        at = [(f + int(copies.ahead[n])) % cel.own for f in own]
        there = [_after(stage, copies.places[n]) for stage in stages]
        body = self.items(cel, at, there, clock)
        seen = [_n(float(copies.opacity[n]) * float(copies.fade[f])) for f in at]
        red, green, blue, amount = (float(v) for v in copies.tints[n])
        tint = ""
        if amount > 0:
            rows = [f"{_n(1 - amount) if i == k else 0}" for i in range(3) for k in range(3)]
            lines = [
                f"{' '.join(rows[3 * i : 3 * i + 3])} 0 {_n(amount * c)}" for i, c in enumerate((red, green, blue))
            ]
            values = " ".join([*lines, "0 0 0 1 0"])
            own_filter = self._define(
                '<filter id="{id}" x="-20%" y="-20%" width="140%" height="140%" color-interpolation-filters="sRGB">'
                f'<feColorMatrix type="matrix" values="{values}"/></filter>',
                "f",
            )
            tint = f' filter="url(#{own_filter})"'
        return f"<g{self._moving(seen, 'opacity', clock)}{tint}>{body}</g>"

    def items(self, cel: Cel, own: Sequence[int], stages: Sequence[Floats], clock: _Clock | None) -> str:
        """The items of a cel, from back to front as in the first frame."""
        order = range(len(cel.items)) if cel.order is None else cel.order[:, own[0]].tolist()
        return "".join(self.item(cel, i, own, stages, clock, masked=True) for i in order if not cel.items[i].hidden)

    def item(
        self,
        cel: Cel,
        index: int,
        own: Sequence[int],
        stages: Sequence[Floats],
        clock: _Clock | None,
        masked: bool,
    ) -> str:
        """One item with its masks."""
        item = cel.items[index]
        matrices = [_matrix(_after(s, cel.matrices[index, :, f])) for s, f in zip(stages, own, strict=True)]
        body = []
        for drawing in dict.fromkeys(int(d) for d in cel.shown[index, list(own)]):
            seen = ["visible" if int(cel.shown[index, f]) == drawing else "hidden" for f in own]
            drawn = self.drawing(cel, index, drawing, own, clock)
            visible = "" if set(seen) == {"visible"} else self._moving(seen, "visibility", clock)
            body.append(f"<g{visible}>{drawn}</g>" if visible else drawn)
        found = f"<g{self._moving(matrices, 'transform', clock)}>{''.join(body)}</g>"
        for mask, inside in item.masks:
            own_mask = self._mask(self.item(cel, mask, own, stages, clock, masked=True), inside)
            found = f'<g mask="url(#{own_mask})">{found}</g>'
        if masked:
            part = [1.0] * len(own) if cel.opacity is None else [float(cel.opacity[index, f]) for f in own]
            opacity = [_n(item.opacity * p) for p in part]
            if set(opacity) != {"1"}:
                found = f"<g{self._moving(opacity, 'opacity', clock)}>{found}</g>"
        return found

    def _mask(self, body: str, inside: bool) -> str:
        own = self._id("m")
        if inside:
            self.defs.append(
                f'<mask id="{own}" maskUnits="userSpaceOnUse" x="-100000" y="-100000" width="200000" height="200000" '
                f'style="mask-type:alpha">{body}</mask>'
            )
            return own
        black = self._define(
            '<filter id="{id}" filterUnits="userSpaceOnUse" x="-10000" y="-10000" width="20000" height="20000" '
            'color-interpolation-filters="sRGB"><feColorMatrix type="matrix" '
            'values="0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 1 0"/></filter>',
            "f",
        )
        self.defs.append(
            f'<mask id="{own}" maskUnits="userSpaceOnUse" x="-100000" y="-100000" width="200000" height="200000" '
            'style="mask-type:luminance"><rect x="-100000" y="-100000" width="200000" height="200000" fill="#fff"/>'
            f'<g filter="url(#{black})">{body}</g></mask>'
        )
        return own

    def drawing(self, cel: Cel, index: int, drawing: int, own: Sequence[int], clock: _Clock | None) -> str:
        """A drawing of an item, bent if it bends."""
        art = self.sources.art(cel.items[index].arts[drawing])
        if (index, drawing) in cel.going:
            return self._going(cel, index, drawing, own, clock)
        points = cel.points.get((index, drawing))
        if points is not None and _has_mesh(art.nodes):
            # One picture a frame: the finest that pixels can do.
            made = []
            frames = list(dict.fromkeys(own))
            for frame in frames:
                png, (x, y, w, h) = self.sources.rasterise(cel, index, frame)
                seen = ["visible" if f == frame else "hidden" for f in own]
                visible = "" if len(frames) == 1 else self._moving(seen, "visibility", clock)
                made.append(f"<g{visible}>{_image(png, x, y, w, h)}</g>")
            return "".join(made)
        if points is None:
            return self.nodes(art.nodes, None, None)
        taken = _Taken([points[:, :, f].astype(np.float32).astype(np.float64) for f in own])
        return self.nodes(art.nodes, taken, clock)

    def _going(self, cel: Cel, index: int, drawing: int, own: Sequence[int], clock: _Clock | None) -> str:
        """A drawing that is becoming another: a drawing of its own for each frame in which it shows."""
        art = self.sources.art(cel.items[index].arts[drawing])
        made = []
        for frame in dict.fromkeys(f for f in own if int(cel.shown[index, f]) == drawing):
            moved = cel.moved(index, drawing, frame)
            if moved is None or moved[1] is None:
                continue
            drawn = self.nodes(settled(art, moved[0], moved[1]).nodes, None, None)
            seen = ["visible" if f == frame else "hidden" for f in own]
            visible = "" if set(seen) == {"visible"} else self._moving(seen, "visibility", clock)
            made.append(f"<g{visible}>{drawn}</g>" if visible else drawn)
        return "".join(made)

    def nodes(self, nodes: Sequence[Node], points: _Taken | None, clock: _Clock | None) -> str:
        return "".join(self.node(n, points, clock) for n in nodes)

    def node(self, node: Node, points: _Taken | None, clock: _Clock | None) -> str:
        match node:
            case Shape():
                return self.shape(node, points, clock)
            case Picture():
                return _image(self.sources.asset(node.asset), *node.box)
            case Layer():
                return self.layer(node, points, clock)
        return ""

    def layer(self, layer: Layer, points: _Taken | None, clock: _Clock | None) -> str:
        clips = []
        for clip in layer.clips:
            moved = None if points is None else points.take(len(clip.outline.points) // 2)
            data = path_data(clip.outline, None if moved is None else moved[0])
            clips.append(
                self._define(f'<clipPath id="{{id}}"><path d="{data}" clip-rule="{clip.rule}"/></clipPath>', "c")
            )
        body = self.nodes(layer.nodes, points, clock)
        apart = [f"mix-blend-mode:{layer.blend}"] if layer.blend != "normal" else []
        apart += ["isolation:isolate"] if layer.isolated else []
        if layer.opacity < 1 or apart:
            style = f' style="{";".join(apart)}"' if apart else ""
            body = f'<g opacity="{_n(layer.opacity)}"{style}>{body}</g>'
        for clip_id in clips:
            body = f'<g clip-path="url(#{clip_id})">{body}</g>'
        return f'<g transform="{_matrix(layer.matrix)}">{body}</g>'

    def shape(self, shape: Shape, points: _Taken | None, clock: _Clock | None) -> str:
        moved = None if points is None else points.take(len(shape.outline.points) // 2)
        if points is not None and shape.shade is not None:
            # SVG's gradients don't bend.
            points.take(len(shape.shade.points) // 2)
        frames = [path_data(shape.outline, None if moved is None else m) for m in (moved or [None])]  # type: ignore[list-item]
        looks = [f'fill-rule="{shape.rule}"'] if shape.rule != "nonzero" else []
        looks.append(self.paint(shape.fill, "fill") if shape.fill is not None else 'fill="none"')
        if shape.stroke is not None:
            pen = shape.stroke
            looks += [
                self.paint(pen.paint, "stroke"),
                f'stroke-width="{_n(pen.width)}" stroke-linecap="{pen.cap}" stroke-linejoin="{pen.join}"',
                f'stroke-miterlimit="{_n(pen.miter)}"',
            ]
            if pen.dash:
                looks.append(
                    f'stroke-dasharray="{" ".join(_n(d) for d in pen.dash)}" stroke-dashoffset="{_n(pen.dash_offset)}"'
                )
        attributes = " ".join(looks)
        if clock is None or len(set(frames)) == 1:
            return f'<path d="{frames[0]}" {attributes}/>'
        steps = clock.keys(frames)
        times = ";".join(_n(at / 100) for at, _ in steps)
        values = ";".join(d for _, d in steps)
        return (
            f'<path d="{frames[0]}" {attributes}><animate attributeName="d" dur="{_n(clock.seconds)}s" '
            f'repeatCount="indefinite" calcMode="discrete" keyTimes="{times}" values="{values}"/></path>'
        )

    def paint(self, paint: Paint, what: str) -> str:
        if isinstance(paint, Flat):
            return _fill(paint.colour, 1.0, what)
        stops = "".join(
            f'<stop offset="{_n(s.at)}" stop-color="{s.colour[:7]}" stop-opacity="{_n(_alpha(s.colour))}"/>'
            for s in paint.stops
        )
        common = (
            f'gradientUnits="userSpaceOnUse" spreadMethod="{paint.spread}" gradientTransform="{_matrix(paint.matrix)}"'
        )
        if isinstance(paint, Linear):
            (x1, y1), (x2, y2) = paint.start, paint.end
            text = (
                f'<linearGradient id="{{id}}" {common} x1="{_n(x1)}" y1="{_n(y1)}" x2="{_n(x2)}" y2="{_n(y2)}">'
                f"{stops}</linearGradient>"
            )
        else:
            assert isinstance(paint, Radial)
            text = (
                f'<radialGradient id="{{id}}" {common} cx="{_n(paint.centre[0])}" cy="{_n(paint.centre[1])}" '
                f'r="{_n(paint.radius)}" fx="{_n(paint.focus[0])}" fy="{_n(paint.focus[1])}" fr="{_n(paint.focus_radius)}">'
                f"{stops}</radialGradient>"
            )
        return f'{what}="url(#{self._define(text, "g")})"'


def _has_mesh(nodes: Sequence[Node]) -> bool:
    return any(isinstance(n, Mesh) or (isinstance(n, Layer) and _has_mesh(n.nodes)) for n in nodes)


def _image(data: bytes, x: float, y: float, w: float, h: float) -> str:
    media = "image/png" if data.startswith(b"\x89PNG") else "image/webp" if data[:4] == b"RIFF" else "image/jpeg"
    href = f"data:{media};base64,{base64.b64encode(data).decode()}"
    return f'<image x="{_n(x)}" y="{_n(y)}" width="{_n(w)}" height="{_n(h)}" preserveAspectRatio="none" href="{href}"/>'
