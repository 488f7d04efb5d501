"""How faithful imports are: every SVG in some folders, drawn here and by Chromium.

`python -m bench.imports FOLDER [FOLDER …] [--most 300] [--worst 12] [--keep /tmp/pictures]`

It is not one of the benchmarks that `make bench` runs, since no drawings ship for it.
"""

from __future__ import annotations

import argparse
import random
import resource
import time
from base64 import b64encode
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import skia
from numpy.typing import NDArray
from playwright.sync_api import Page, sync_playwright

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import Imported
from sorvan.picture.paint import Painter
from sorvan.picture.studio import ART_MEDIA
from tests.conftest import CHROMIUM, CHROMIUM_FLAGS

SIDE = 512
"""Pixels of the longer side of the pictures that are compared."""
FAR = 32
"""How much a channel of a pixel may be off, of 255."""


@dataclass
class Tally:
    """What was seen in one folder: how many pixels of each file are off, why what became a picture, what was refused."""

    off: dict[str, float] = field(default_factory=dict)
    pictures: set[str] = field(default_factory=set)
    refused: dict[str, str] = field(default_factory=dict)
    crashed: dict[str, str] = field(default_factory=dict)
    slowest: tuple[float, str] = (0.0, "")


def ours(found: Imported, width: int, height: int) -> NDArray[np.uint8]:
    """All pieces in their places on white, RGBA."""
    arts: dict[str, Art] = {}
    for piece in found.pieces:
        arts[found.keep(ART_MEDIA, piece.art.model_dump_json().encode())] = piece.art
    painter = Painter(lambda id: found.assets[id][1])
    info = skia.ImageInfo.Make(
        width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, skia.ColorSpace.MakeSRGB()
    )
    surface = skia.Surface.MakeRaster(info)
    canvas = surface.getCanvas()
    canvas.clear(skia.ColorWHITE)
    canvas.saveLayer(None, None)
    scale = min(width / found.frame[0], height / found.frame[1])
    canvas.translate((width - found.frame[0] * scale) / 2, (height - found.frame[1] * scale) / 2)
    canvas.scale(scale, scale)
    for piece in found.pieces:
        if not piece.hidden:
            canvas.drawPicture(painter.record(piece.art))
    canvas.restore()
    pixels = np.empty((height, width, 4), dtype=np.uint8)
    surface.readPixels(info, pixels, info.minRowBytes(), 0, 0)
    return pixels


def theirs(page: Page, data: bytes, width: int, height: int) -> NDArray[np.uint8]:
    """The browser's picture of a drawing on white."""
    page.set_viewport_size({"width": max(width, 16), "height": max(height, 16)})
    address = "data:image/svg+xml;base64," + b64encode(data).decode()
    page.set_content(
        f"<style>body{{margin:0;background:white}}img{{display:block;width:{width}px;height:{height}px}}</style>"
        f'<img src="{address}">'
    )
    page.evaluate("document.images[0].decode().catch(() => null)")
    image = skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(page.screenshot()))
    return image.toarray(colorType=skia.kRGBA_8888_ColorType)[:height, :width]


def compare(page: Page, file: Path, tally: Tally, keep: Path | None) -> None:
    """Bring one file in and hold it against the browser's picture."""
    data = file.read_bytes()
    began = time.perf_counter()
    try:
        found = read_file(data, file.name, True)
    except Refusal as refusal:
        tally.refused[file.name] = str(refusal)
        return
    except BaseException as fault:  # noqa: BLE001
        tally.crashed[file.name] = repr(fault)[:200]
        return
    took = time.perf_counter() - began
    tally.slowest = max(tally.slowest, (took, file.name))
    scale = SIDE / max(found.frame)
    width, height = (max(1, round(v * scale)) for v in found.frame)
    mine, browser = ours(found, width, height), theirs(page, data, width, height)
    off = np.abs(mine[:, :, :3].astype(int) - browser[:, :, :3]).max(axis=2) > FAR
    tally.off[file.name] = float(off.mean())
    if any("picture" in note for note in found.notes):
        tally.pictures.add(file.name)
    if keep is not None and off.mean() >= 0.01:
        both = np.concatenate(
            [mine, browser, np.repeat(255 * (1 - off[:, :, None]), 4, 2).astype(np.uint8) | [0, 0, 0, 255]], 1
        )
        image = skia.Image.fromarray(both.astype(np.uint8), colorType=skia.kRGBA_8888_ColorType)
        keep.mkdir(parents=True, exist_ok=True)
        (keep / f"{file.parent.name} {file.stem}.png").write_bytes(bytes(image.encodeToData()))


def tell(name: str, tally: Tally, worst: int) -> None:
    """Print what was seen."""
    off = np.array(sorted(tally.off.values())) if tally.off else np.zeros(1)
    under = float((off < 0.01).mean())
    middle, nearly, most = (np.percentile(off, p) for p in (50, 95, 100))
    print(
        f"{name}: {len(tally.off)} compared, {under:.1%} with < 1 % of pixels off; "
        f"median {middle:.2%}, 95th {nearly:.2%}, worst {most:.2%}; {len(tally.pictures)} partly pictures, "
        f"{len(tally.refused)} refused, {len(tally.crashed)} crashed; slowest {tally.slowest[0]:.2f} s ({tally.slowest[1]})"
    )
    for file, part in sorted(tally.off.items(), key=lambda entry: -entry[1])[:worst]:
        if part >= 0.01:
            print(f"    {part:6.2%}  {file}{'  (a picture)' if file in tally.pictures else ''}")
    for why, count in Counter(tally.refused.values()).most_common(6):
        print(f"    refused {count} ×: {why}, for one {next(f for f, w in tally.refused.items() if w == why)}")
    for file, fault in tally.crashed.items():
        print(f"    CRASHED {file}: {fault}")


def main() -> None:
    """Compare what the command line names."""
    told = argparse.ArgumentParser(description=__doc__)
    told.add_argument("folders", nargs="+", type=Path)
    told.add_argument("--most", type=int, default=300, help="files of a folder, chosen by chance")
    told.add_argument("--worst", type=int, default=12, help="files to name")
    told.add_argument("--keep", type=Path, help="a folder for pictures of those that are off")
    given = told.parse_args()
    every = Tally()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
        page = browser.new_page(java_script_enabled=True)
        for folder in given.folders:
            files = sorted([*folder.rglob("*.svg"), *folder.rglob("*.svgz")])
            random.Random(1).shuffle(files)
            tally = Tally()
            for file in files[: given.most]:
                compare(page, file, tally, given.keep)
            tell(folder.name, tally, given.worst)
            every.off |= {f"{folder.name}/{k}": v for k, v in tally.off.items()}
            every.pictures |= {f"{folder.name}/{k}" for k in tally.pictures}
            every.slowest = max(every.slowest, tally.slowest)
            every.refused |= tally.refused
            every.crashed |= tally.crashed
        browser.close()
    tell("all", every, given.worst)
    print(f"memory at most {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
