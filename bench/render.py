"""Rendering a film against drawing and encoding the same plan with bare Skia and PyAV."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import av
import numpy as np
import skia

from bench.scenes import production, report
from sorvan.core.model.art import Art
from sorvan.core.plan.plan import Plan
from sorvan.core.plan.scene import InMotion, Staged
from sorvan.interchange.archive import KeptFiles
from sorvan.picture.film import FilmSettings, make
from sorvan.picture.paint import Painter, path_of

FRAMES = 240


def bare(plan: Plan, kept: KeptFiles, target: str) -> None:
    """The shortest loop that makes the same film of these leaves."""
    leaves = {}
    for id in plan.arts():
        shape = Art.model_validate_json(kept[id][1]).nodes[0]
        colour = shape.fill.colour  # type: ignore[union-attr]
        r, g, b = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
        fill = skia.Paint(AntiAlias=True, Color=skia.Color(r, g, b))
        line = skia.Paint(
            AntiAlias=True, Color=skia.Color(0x20, 0x30, 0x4A), Style=skia.Paint.kStroke_Style, StrokeWidth=3
        )
        line.setStrokeJoin(skia.Paint.kRound_Join)
        leaves[id] = (path_of(shape.outline), fill, line)  # type: ignore[union-attr]
    surface = skia.Surface.MakeRaster(skia.ImageInfo.Make(1280, 720, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType))
    canvas = surface.getCanvas()
    with av.open(target, "w", options={"movflags": "+faststart"}) as film:
        stream = film.add_stream("libx264", rate=24)
        stream.width, stream.height, stream.pix_fmt = 1280, 720, "yuv420p"
        stream.options = {"crf": "16", "preset": "veryfast", "tune": "animation"}
        for frame in range(plan.frames):
            canvas.clear(0xFFF4EAD6)
            for i, item in enumerate(plan.cels[0].items):
                a, b, c, d, e, f = (float(v) for v in plan.cels[0].matrices[i, :, frame])
                path, fill, line = leaves[item.arts[0]]
                canvas.save()
                canvas.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
                canvas.drawPath(path, fill)
                canvas.drawPath(path, line)
                canvas.restore()
            pixels = np.empty((720, 1280, 4), np.uint8)
            surface.readPixels(surface.imageInfo(), pixels, 1280 * 4, 0, 0)
            film.mux(stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgba").reformat(format="yuv420p")))
        film.mux(stream.encode(None))


def main() -> None:
    """60 pieces, 240 frames at 1280 × 720, the two taking turns."""
    documents, kept = production(60, FRAMES)
    plan = Staged.full(documents, InMotion(motion="tree-m")).plan()
    settings = FilmSettings("mp4", 0, FRAMES, 1280, 720, documents.production.rate)
    times: dict[str, list[float]] = {"ours": [], "bare": []}
    with tempfile.TemporaryDirectory() as place:
        for _ in range(3):
            began = time.perf_counter()
            make(plan, Painter(lambda id: kept[id][1]), settings, Path(place) / "ours.mp4", lambda _: None)
            between = time.perf_counter()
            bare(plan, kept, f"{place}/bare.mp4")
            times["ours"].append(between - began)
            times["bare"].append(time.perf_counter() - between)
    ours, theirs = min(times["ours"]), min(times["bare"])
    report(
        "render, 60 pieces, 1280 × 720, H.264",
        f"{FRAMES / ours:.0f} frames/s",
        theirs / ours,
        "the speed of bare Skia and PyAV",
        "≥ 0.9",
    )


if __name__ == "__main__":
    main()
