"""Pictures in: trimmed without moving, placed where their offset says."""

from __future__ import annotations

import itertools
import struct

import numpy as np
import pytest
import skia
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Picture
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.rig.skeleton import piece_worlds
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import bring_in, told
from tests.core.worlds import do
from tests.interchange.art import chunk, drawn, png


def lantern() -> np.ndarray:
    """A red block at x 30…49, y 10…39 of an otherwise clear 100 × 100 picture, half clear in its last row."""
    pixels = np.zeros((100, 100, 4), dtype=np.uint8)
    pixels[10:40, 30:50] = (255, 0, 0, 255)
    pixels[39, 30:50, 3] = 1
    return pixels


def test_the_empty_margin_goes_and_nothing_moves() -> None:
    result = read_file(png(lantern()), "lantern.png")
    (piece,) = result.pieces
    assert piece.name == "lantern"
    assert piece.art.bounds == (30, 10, 50, 40)
    node = piece.art.nodes[0]
    assert isinstance(node, Picture)
    assert node.box == (30, 10, 20, 30)
    assert np.array_equal(drawn(result), lantern())
    assert "100 × 100 → 20 × 30 px" in told([result])[0]


def test_many_trimmed_pictures_are_told_of_in_one_line_and_a_few_each_by_itself() -> None:
    pixels = np.zeros((20, 30, 4), np.uint8)
    pixels[5:9, 10:12] = 255
    read = [read_file(png(pixels), f"lamp {n}.png") for n in range(31)]
    assert told(read) == ["31 pictures: an empty margin was trimmed. Nothing that shows has moved."]
    assert told(read[:2]) == [f"lamp {n}.png: an empty margin was trimmed (30 × 20 → 2 × 4 px)." for n in range(2)]


def test_an_offset_in_the_file_is_where_it_stood() -> None:
    offset = chunk(b"oFFs", struct.pack(">iiB", 200, 50, 0))
    result = read_file(png(lantern(), offset), "lantern.png")
    assert result.pieces[0].art.bounds == (230, 60, 250, 90)


def test_webp_comes_in_too() -> None:
    image = skia.Image.fromarray(lantern(), colorType=skia.kRGBA_8888_ColorType)
    result = read_file(bytes(image.encodeToData(skia.kWEBP, 100)), "lantern.webp")
    assert result.pieces[0].art.bounds == (30, 10, 50, 40)


def photograph(turned: int | None = None) -> bytes:
    """A JPEG of 60 × 40 pixels, red at the left and blue at the right, that says how its camera was `turned` (TIFF 6.0,
    tag 274 in Exif)."""
    pixels = np.full((40, 60, 4), 255, dtype=np.uint8)
    pixels[:, :30, :3], pixels[:, 30:, :3] = (200, 20, 20), (20, 20, 200)
    image = skia.Image.fromarray(pixels, colorType=skia.kRGBA_8888_ColorType)
    data = bytes(image.encodeToData(skia.kJPEG, 95))
    if turned is None:
        return data
    tiff = b"MM\x00*" + struct.pack(">IHHHIHHI", 8, 1, 274, 3, 1, turned, 0, 0)
    exif = b"Exif\x00\x00" + tiff
    return data[:2] + b"\xff\xe1" + struct.pack(">H", len(exif) + 2) + exif + data[2:]


@pytest.mark.parametrize(
    ("turned", "size", "first", "last"),
    [(None, (60, 40), "red", "blue"), (1, (60, 40), "red", "blue"), (3, (60, 40), "blue", "red"), (6, (40, 60), "red", "blue")],
)  # fmt: skip
def test_a_photograph_comes_in_upright(turned: int | None, size: tuple[int, int], first: str, last: str) -> None:
    result = read_file(photograph(turned), "ferry.jpg")
    (piece,) = result.pieces
    assert piece.art.bounds == (0, 0, *size)
    seen = drawn(result)[: size[1], : size[0]].astype(int)
    # Turned by a quarter what was at the left is at the top.
    ends = (seen[5, 5], seen[-5, 5]) if size[0] < size[1] else (seen[5, 5], seen[5, -5])
    for colour, name in zip(ends, (first, last), strict=True):
        assert np.abs(colour[:3] - {"red": (200, 20, 20), "blue": (20, 20, 200)}[name]).max() < 12


def test_a_photograph_that_breaks_off_is_refused() -> None:
    with pytest.raises(Refusal):
        read_file(photograph()[:300], "ferry.jpg")


def test_art_larger_than_the_stage_comes_in_smaller_and_centred() -> None:
    pixels = np.full((1440, 1440, 4), 200, dtype=np.uint8)
    result = read_file(png(pixels), "wall.png")
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Wall"})
    documents = bring_in(documents.production, "a", [result]).apply(documents)
    (world,) = piece_worlds(documents.puppet("a")).values()
    scale = 0.94 * 720 / 1440
    assert np.allclose(world, (scale, 0, 0, scale, 640 - 720 * scale, 360 - 720 * scale))


@given(st.lists(st.tuples(st.integers(4, 300), st.integers(4, 300)), min_size=1, max_size=12))
def test_pictures_that_tell_no_places_are_laid_out_and_no_others(sizes: list[tuple[int, int]]) -> None:
    """Each beside the others, however many there are; what shares one canvas stays where it was drawn."""
    production = Production(id="p", name="Quay")
    files = []
    for n, (width, height) in enumerate(sizes):
        made = read_file(png(np.full((height, width, 4), 200, np.uint8)), f"part {n}.png")
        files.append(made)
    pieces = bring_in(production, "a", files).pieces
    boxes = [
        (p.at[0] - w * p.scale / 2, p.at[1] - h * p.scale / 2, p.at[0] + w * p.scale / 2, p.at[1] + h * p.scale / 2)
        for p, (w, h) in zip(pieces, sizes, strict=True)
    ]
    apart = all(
        a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1] for a, b in itertools.combinations(boxes, 2)
    )
    loose = len(sizes) > 2 and len(set(sizes)) > 1
    assert apart or not loose
    assert loose or all(p.at == pytest.approx((640, 360)) for p in pieces)
