"""The painter: art and plans on a Skia canvas.

`web/src/stage/painter.ts` draws the same art by the same steps; a test holds the two together.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import skia
from numpy.typing import NDArray

from sorvan.core.art.colours import rgba
from sorvan.core.geometry import Floats
from sorvan.core.model.art import (
    Art,
    Flat,
    Layer,
    Linear,
    Mesh,
    Node,
    Outline,
    Paint,
    Picture,
    Shade,
    Shape,
    Stroke,
    blend_of,
    covers,
)  # fmt: skip
from sorvan.core.morph.looks import HandedOut, painted, size_of
from sorvan.core.plan.plan import Cel, CelCopies, Plan
from sorvan.core.plan.show import Show

Assets = Callable[[str], bytes]
Pixels = NDArray[np.uint8]

_TILES = {"pad": skia.TileMode.kClamp, "reflect": skia.TileMode.kMirror, "repeat": skia.TileMode.kRepeat}
_CAPS = {"butt": skia.Paint.kButt_Cap, "round": skia.Paint.kRound_Cap, "square": skia.Paint.kSquare_Cap}
_JOINS = {"miter": skia.Paint.kMiter_Join, "round": skia.Paint.kRound_Join, "bevel": skia.Paint.kBevel_Join}
_MODES = {
    "normal": skia.BlendMode.kSrcOver, "multiply": skia.BlendMode.kMultiply, "screen": skia.BlendMode.kScreen,
    "overlay": skia.BlendMode.kOverlay, "darken": skia.BlendMode.kDarken, "lighten": skia.BlendMode.kLighten,
    "color-dodge": skia.BlendMode.kColorDodge, "color-burn": skia.BlendMode.kColorBurn,
    "hard-light": skia.BlendMode.kHardLight, "soft-light": skia.BlendMode.kSoftLight,
    "difference": skia.BlendMode.kDifference, "exclusion": skia.BlendMode.kExclusion, "hue": skia.BlendMode.kHue,
    "saturation": skia.BlendMode.kSaturation, "color": skia.BlendMode.kColor,
    "luminosity": skia.BlendMode.kLuminosity, "plus-lighter": skia.BlendMode.kPlus,
}  # fmt: skip
_SAMPLING = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)


def argb(colour: str) -> int:
    """`#rrggbbaa` as the number Skia takes."""
    r, g, b, a = rgba(colour)
    return skia.Color(r, g, b, a)


def path_of(outline: Outline, rule: str = "nonzero", points: Floats | None = None) -> skia.Path:
    """The outline as a Skia path; with other `points` `(n, 2)` in place of its own, if given."""
    path, p = skia.Path(), outline.points if points is None else points.ravel().tolist()
    draw = {"M": path.moveTo, "L": path.lineTo, "Q": path.quadTo, "C": path.cubicTo, "Z": path.close}
    for verb, own in outline.segments():
        draw[verb](*p[2 * own.start : 2 * own.stop])
    if rule == "evenodd":
        path.setFillType(skia.PathFillType.kEvenOdd)
    return path


def matrix_of(m: tuple[float, ...] | NDArray[np.floating]) -> skia.Matrix:
    """Six numbers a b c d e f as a Skia matrix."""
    return skia.Matrix.MakeAll(
        float(m[0]), float(m[2]), float(m[4]), float(m[1]), float(m[3]), float(m[5]), 0.0, 0.0, 1.0
    )


def brush(paint: Paint) -> skia.Paint:
    """A Skia paint with this colour or gradient."""
    made = skia.Paint(AntiAlias=True)
    if isinstance(paint, Flat):
        made.setColor(argb(paint.colour))
        return made
    colours, places = [argb(s.colour) for s in paint.stops], [s.at for s in paint.stops]
    if len(colours) == 1:
        made.setColor(colours[0])
        return made
    tile, local = _TILES[paint.spread], matrix_of(paint.matrix)
    if isinstance(paint, Linear):
        ends = [skia.Point(*paint.start), skia.Point(*paint.end)]
        made.setShader(skia.GradientShader.MakeLinear(ends, colours, places, tile, 0, local))
    else:
        made.setShader(
            skia.GradientShader.MakeTwoPointConical(
                skia.Point(*paint.focus),
                paint.focus_radius,
                skia.Point(*paint.centre),
                paint.radius,
                colours,
                places,
                tile,
                0,
                local,
            )
        )
    return made


def pen_for(stroke: Stroke) -> skia.Paint:
    """A Skia paint that draws this stroke."""
    paint = brush(stroke.paint)
    paint.setStyle(skia.Paint.kStroke_Style)
    paint.setStrokeWidth(stroke.width)
    paint.setStrokeCap(_CAPS[stroke.cap])
    paint.setStrokeJoin(_JOINS[stroke.join])
    paint.setStrokeMiter(stroke.miter)
    if stroke.dash:
        paint.setPathEffect(skia.DashPathEffect.Make(list(stroke.dash), stroke.dash_offset))
    return paint


class Reshaped:
    """The points of a drawing that bends or becomes another, and what it then looks like, handed out in the order in
    which its nodes are met."""

    def __init__(self, points: Floats, looks: Floats | None = None) -> None:
        # In single precision, as the page gets them.
        self.points = HandedOut(points.astype(np.float32))
        self.looks = None if looks is None else HandedOut(looks.astype(np.float32))

    def fill(self, paint: Paint) -> Paint:
        """A paint as it looks now."""
        return paint if self.looks is None else painted(paint, self.looks.take(size_of(paint)))

    def stroke(self, stroke: Stroke) -> Stroke:
        """A line as it looks now."""
        if self.looks is None:
            return stroke
        paint = self.fill(stroke.paint)
        return stroke.model_copy(update={"paint": paint, "width": float(self.looks.take(1)[0])})

    def opacity(self, layer: Layer) -> float:
        """How opaque a layer is now."""
        return layer.opacity if self.looks is None else float(self.looks.take(1)[0])


class Painter:
    """Draws plans. Art is made ready once and drawn as often as wanted."""

    def __init__(self, assets: Assets) -> None:
        self._assets = assets
        self._arts: dict[str, Art] = {}
        self._ready: dict[str, skia.Picture] = {}
        self._images: dict[str, skia.Image] = {}

    def art(self, id: str) -> Art:
        """A drawing as a value."""
        if id not in self._arts:
            self._arts[id] = Art.model_validate_json(self._assets(id))
        return self._arts[id]

    def ready(self, art: str) -> skia.Picture:
        """The art as a Skia picture, in drawing units."""
        if art not in self._ready:
            self._ready[art] = self.record(self.art(art))
        return self._ready[art]

    def record(self, art: Art) -> skia.Picture:
        """Make one drawing ready."""
        recorder = skia.PictureRecorder()
        left, top, right, bottom = art.bounds
        canvas = recorder.beginRecording(skia.Rect.MakeLTRB(left - 2, top - 2, right + 2, bottom + 2))
        for node in art.nodes:
            self._node(canvas, node, None)
        return recorder.finishRecordingAsPicture()

    def frame(self, canvas: skia.Canvas, plan: Plan, frame: int) -> None:
        """Draw one frame of a plan in stage units; the paper is the caller's."""
        for cel in plan.cels:
            fade = 1.0 if cel.fade is None else float(np.float32(cel.fade[frame]))
            if fade <= 0:
                continue
            canvas.save()
            if cel.stage is not None:
                canvas.concat(matrix_of(cel.stage[:, frame].astype(np.float32)))
            if fade < 1:
                # Copies lie anywhere around what is copied.
                around = self._all_around(cel, cel.at(frame)) if cel.copies is None else None
                canvas.saveLayer(around, skia.Paint(Alphaf=fade))
            if cel.copies is None:
                self.cel(canvas, cel, cel.at(frame))
            else:
                self._copies(canvas, cel, cel.copies, cel.at(frame))
            if fade < 1:
                canvas.restore()
            canvas.restore()

    def cel(self, canvas: skia.Canvas, cel: Cel, own: int) -> None:
        """Draw one of a cel's own frames where the actor is."""
        for index in range(len(cel.items)) if cel.order is None else cel.order[:, own].tolist():
            item = cel.items[index]
            opacity = item.opacity * (1.0 if cel.opacity is None else float(np.float32(cel.opacity[index, own])))
            if not item.hidden and opacity > 0:
                self.item(canvas, cel, index, own, opacity)

    def _copies(self, canvas: skia.Canvas, cel: Cel, copies: CelCopies, own: int) -> None:
        for place, ahead, opacity, tint in zip(copies.places, copies.ahead, copies.opacity, copies.tints, strict=True):
            at = (own + int(ahead)) % cel.own
            seen = float(np.float32(opacity)) * float(np.float32(copies.fade[at]))
            if seen <= 0:
                continue
            canvas.save()
            canvas.concat(matrix_of(place.astype(np.float32)))
            r, g, b, a = (round(float(v) * 255) for v in tint)
            # There is no filter for a tint too weak to be told.
            plain = seen == 1 and a <= 0
            if not plain:
                paint = skia.Paint(Alphaf=seen)
                if a > 0:
                    paint.setColorFilter(skia.ColorFilters.Blend(skia.Color(r, g, b, a), skia.BlendMode.kSrcATop))
                canvas.saveLayer(self._all_around(cel, at), paint)
            self.cel(canvas, cel, at)
            if not plain:
                canvas.restore()
            canvas.restore()

    def item(self, canvas: skia.Canvas, cel: Cel, index: int, own: int, opacity: float = 1.0) -> None:
        """Draw one item, faded and masked."""
        masks = cel.items[index].masks
        if opacity == 1 and not masks:
            self._bare(canvas, cel, index, own)
            return
        around = self._around(cel, index, own)
        # What is set apart to be faded blends with what is under it as its drawing does.
        mode = _MODES[blend_of(self.art(cel.items[index].arts[int(cel.shown[index, own])]))]
        canvas.saveLayer(around, skia.Paint(Alphaf=opacity, BlendMode=mode))
        self._bare(canvas, cel, index, own)
        for mask, inside in masks:
            mode = skia.BlendMode.kDstIn if inside else skia.BlendMode.kDstOut
            canvas.saveLayer(around, skia.Paint(BlendMode=mode))
            self.item(canvas, cel, mask, own)
            canvas.restore()
        canvas.restore()

    def _bare(self, canvas: skia.Canvas, cel: Cel, index: int, own: int) -> None:
        drawing = int(cel.shown[index, own])
        art, moved = cel.items[index].arts[drawing], cel.moved(index, drawing, own)
        canvas.save()
        canvas.concat(matrix_of(cel.matrices[index, :, own]))
        if moved is None:
            canvas.drawPicture(self.ready(art))
        else:
            self.changed(canvas, art, *moved)
        canvas.restore()

    def changed(self, canvas: skia.Canvas, art: str, points: Floats, looks: Floats | None = None) -> None:
        """Draw a drawing whose points lie elsewhere, `(n, 2)` drawing units, and which may look otherwise, `(m,)`."""
        moved = Reshaped(points, looks)
        for node in self.art(art).nodes:
            self._node(canvas, node, moved)

    def _around(self, cel: Cel, index: int, own: int) -> skia.Rect:
        """A box on the stage that holds all of an item."""
        drawing = int(cel.shown[index, own])
        l, t, r, b = cel.items[index].boxes[drawing]
        moved = cel.moved(index, drawing, own)
        box = skia.Rect.MakeLTRB(l, t, r, b)
        if moved is not None and len(moved[0]):
            lows, highs = moved[0].min(axis=0), moved[0].max(axis=0)
            air = 0.25 * max(r - l, b - t)
            box = skia.Rect.MakeLTRB(lows[0] - air, lows[1] - air, highs[0] + air, highs[1] + air)
        found = matrix_of(cel.matrices[index, :, own]).mapRect(box)
        return found.makeOutset(3, 3)

    def _all_around(self, cel: Cel, own: int) -> skia.Rect:
        """A box that holds all items of a cel: a layer no larger than it costs no more than what is on it."""
        found = skia.Rect.MakeEmpty()
        for index, item in enumerate(cel.items):
            if not item.hidden:
                found.join(self._around(cel, index, own))
        return found

    def _image(self, id: str) -> skia.Image:
        if id not in self._images:
            image = skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(self._assets(id)))
            self._images[id] = image.makeRasterImage().withDefaultMipmaps()
        return self._images[id]

    def _framed(self, id: str) -> skia.Image:
        """A picture with a clear pixel all round, so that what lies beyond it on a mesh is clear, not smeared."""
        key = f"framed {id}"
        if key not in self._images:
            image = self._image(id)
            info = skia.ImageInfo.MakeN32Premul(image.width() + 2, image.height() + 2, skia.ColorSpace.MakeSRGB())
            surface = skia.Surface.MakeRaster(info)
            surface.getCanvas().clear(skia.ColorTRANSPARENT)
            surface.getCanvas().drawImage(image, 1, 1)
            self._images[key] = surface.makeImageSnapshot().withDefaultMipmaps()
        return self._images[key]

    def _node(self, canvas: skia.Canvas, node: Node, changed: Reshaped | None) -> None:
        if isinstance(node, Shape):
            self._shape(canvas, node, _path(node.outline, node.rule, changed), changed)
        elif isinstance(node, Picture):
            image = self._image(node.asset)
            x, y, w, h = node.box
            canvas.drawImageRect(
                image, skia.Rect.MakeWH(image.width(), image.height()), skia.Rect.MakeXYWH(x, y, w, h), _SAMPLING
            )
        elif isinstance(node, Mesh):
            self._mesh(canvas, node, changed)
        elif isinstance(node, Layer):
            canvas.save()
            canvas.concat(matrix_of(node.matrix))
            opacity = node.opacity if changed is None else changed.opacity(node)
            for clip in node.clips:
                canvas.clipPath(_path(clip.outline, clip.rule, changed), skia.ClipOp.kIntersect, True)
            alone = opacity < 1 or node.blend != "normal" or node.isolated
            if alone:
                canvas.saveLayer(None, skia.Paint(Alphaf=opacity, BlendMode=_MODES[node.blend]))
            for child in node.nodes:
                self._node(canvas, child, changed)
            if alone:
                canvas.restore()
            canvas.restore()

    def _shape(self, canvas: skia.Canvas, shape: Shape, path: skia.Path, changed: Reshaped | None) -> None:
        if shape.fill is not None and shape.shade is not None and changed is not None:
            self._shaded(canvas, shape.fill, shape.shade, path, changed)
        elif shape.fill is not None:
            canvas.drawPath(path, brush(shape.fill if changed is None else changed.fill(shape.fill)))
        if shape.stroke is not None:
            canvas.drawPath(path, pen_for(shape.stroke if changed is None else changed.stroke(shape.stroke)))

    def _shaded(self, canvas: skia.Canvas, fill: Paint, shade: Shade, path: skia.Path, changed: Reshaped) -> None:
        """A gradient that bends with its shape."""
        paint = brush(fill)
        if covers(fill):
            # Where the shape bulges out of its triangles there is something under them.
            canvas.drawPath(path, paint)
        rest = np.array(shade.points).reshape(-1, 2)
        vertices = skia.Vertices(
            skia.Vertices.kTriangles_VertexMode,
            [skia.Point(float(x), float(y)) for x, y in changed.points.take(len(rest))],
            [skia.Point(float(x), float(y)) for x, y in rest],
            None,
            list(shade.triangles),
        )
        canvas.save()
        canvas.clipPath(path, skia.ClipOp.kIntersect, True)
        canvas.drawVertices(vertices, paint, skia.BlendMode.kModulate)
        canvas.restore()

    def _mesh(self, canvas: skia.Canvas, mesh: Mesh, changed: Reshaped | None) -> None:
        image = self._image(mesh.asset)
        x, y, w, h = mesh.box
        rest = np.array(mesh.points).reshape(-1, 2)
        where = rest if changed is None else changed.points.take(len(rest))
        sx, sy = image.width() / w, image.height() / h
        vertices = skia.Vertices(
            skia.Vertices.kTriangles_VertexMode,
            [skia.Point(float(px), float(py)) for px, py in where],
            [skia.Point((px - x) * sx + 1, (py - y) * sy + 1) for px, py in rest.tolist()],
            None,
            list(mesh.triangles),
        )
        paint = skia.Paint(AntiAlias=True)
        paint.setShader(self._framed(mesh.asset).makeShader(skia.TileMode.kClamp, skia.TileMode.kClamp, _SAMPLING))
        canvas.drawVertices(vertices, paint, skia.BlendMode.kModulate)


def _path(outline: Outline, rule: str, changed: Reshaped | None) -> skia.Path:
    return path_of(outline, rule, None if changed is None else changed.points.take(len(outline.points) // 2))


class Surface:
    """A raster of a given size in pixels, for drawing plan after plan on."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        self._surface = skia.Surface.MakeRaster(
            skia.ImageInfo.Make(
                width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, skia.ColorSpace.MakeSRGB()
            )
        )

    def draw(self, painter: Painter, show: Show, frame: int, clear: bool = False, straight: bool = True) -> Pixels:
        """One frame filling the surface, RGBA `(height, width, 4)`; `clear` leaves the paper out.

        Straight alpha when clear, unless not wanted; on paper every pixel is opaque.
        """
        canvas = self._surface.getCanvas()
        canvas.clear(skia.ColorTRANSPARENT)
        for sheet in show.sheets(frame):
            if sheet.opacity < 1:
                canvas.saveLayer(None, skia.Paint(Alphaf=sheet.opacity))
            if not clear:
                canvas.drawColor(argb(sheet.plan.paper))
            canvas.save()
            canvas.scale(self.width / sheet.plan.width, self.height / sheet.plan.height)
            painter.frame(canvas, sheet.plan, sheet.frame)
            canvas.restore()
            if sheet.opacity < 1:
                canvas.restore()
        colour, amount = show.veil(frame)
        if amount > 0:
            r, g, b, a = rgba(colour)
            canvas.drawColor(skia.Color(r, g, b, round(a * amount)))
        alpha = skia.kUnpremul_AlphaType if clear and straight else skia.kPremul_AlphaType
        info = skia.ImageInfo.Make(
            self.width, self.height, skia.kRGBA_8888_ColorType, alpha, skia.ColorSpace.MakeSRGB()
        )
        pixels = np.empty((self.height, self.width, 4), dtype=np.uint8)
        self._surface.readPixels(info, pixels, info.minRowBytes(), 0, 0)
        return pixels
