"""A puppet by itself, small: at rest, or in some frames of a motion side by side."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import skia

from sorvan.core.geometry import Floats, moved
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.plan import Cel
from sorvan.core.plan.scene import AtRest, InMotion, Staged
from sorvan.picture.images import png_of
from sorvan.picture.paint import Painter
from sorvan.picture.studio import Studio

MARGIN = 0.04
"""The part of the height that is left free around what is drawn."""
WIDEST = 3.0
"""How many times as wide as high one picture is at most."""


def strip(
    production: Production,
    puppet: Puppet,
    motion: Motion | None,
    studio: Studio,
    frames: Sequence[int],
    high: int,
) -> bytes:
    """Pictures of frames, `high` pixels each, side by side on nothing, as PNG; at rest without a motion. All in one size,
    each about the middle of where the puppet is."""
    production = production.changed(backdrop=None, shots=())
    documents = Documents({production.id: production, puppet.id: puppet})
    scene: AtRest | InMotion = AtRest(puppet=puppet.id)
    if motion is not None:
        documents, scene = documents.with_(motion.changed(sounds={})), InMotion(motion=motion.id)
    plan = Staged.full(documents, scene, studio).plan()
    frames = [min(f, plan.frames - 1) for f in frames]
    boxes = _boxes(plan.cels[0], frames)
    top, bottom = boxes[:, 1].min(), boxes[:, 3].max()
    wide = (boxes[:, 2] - boxes[:, 0]).max()
    scale = high * (1 - 2 * MARGIN) / max(bottom - top, wide / WIDEST, 1e-6)
    across = max(1, round(wide * scale + 2 * MARGIN * high))
    surface = skia.Surface.MakeRaster(
        skia.ImageInfo.Make(
            across * len(frames), high, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, skia.ColorSpace.MakeSRGB()
        )
    )
    canvas, painter = surface.getCanvas(), Painter(studio.asset)
    canvas.clear(skia.ColorTRANSPARENT)
    for n, frame in enumerate(frames):
        middle = (boxes[n, 0] + boxes[n, 2]) / 2
        canvas.save()
        canvas.clipRect(skia.Rect.MakeXYWH(n * across, 0, across, high))
        canvas.translate((n + 0.5) * across, high * MARGIN + (high * (1 - 2 * MARGIN) - (bottom - top) * scale) / 2)
        canvas.scale(scale, scale)
        canvas.translate(-middle, -top)
        painter.frame(canvas, plan, frame)
        canvas.restore()
    info = skia.ImageInfo.Make(
        across * len(frames), high, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType, skia.ColorSpace.MakeSRGB()
    )
    pixels = np.empty((high, across * len(frames), 4), dtype=np.uint8)
    surface.readPixels(info, pixels, info.minRowBytes(), 0, 0)
    return png_of(pixels)


def _boxes(cel: Cel, frames: Sequence[int]) -> Floats:
    """The box around what is seen of a cel in each of its frames (stage units), `(frames, 4)`."""
    found = np.tile([np.inf, np.inf, -np.inf, -np.inf], (len(frames), 1))
    for index, item in enumerate(cel.items):
        for n, frame in enumerate(frames) if not item.hidden else ():
            drawing = int(cel.shown[index, frame])
            bent = cel.moved(index, drawing, frame)
            l, t, r, b = item.boxes[drawing]
            points = bent[0] if bent and len(bent[0]) else np.array([(l, t), (r, t), (r, b), (l, b)])
            at = moved(points, cel.matrices[index, :, frame].tolist())
            found[n] = [*np.minimum(found[n, :2], at.min(axis=0)), *np.maximum(found[n, 2:], at.max(axis=0))]
    return np.where(np.isfinite(found), found, [0.0, 0.0, 1.0, 1.0])
