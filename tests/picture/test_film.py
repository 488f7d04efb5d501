"""Films drawn in parts are the films drawn whole."""

from __future__ import annotations

import io
import zipfile
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
import pytest

from bench.scenes import production
from sorvan.core.model.production import Rate
from sorvan.core.plan.scene import InMotion, Staged
from sorvan.picture.film import FilmSettings, draw_frames, joined, make, part_of
from sorvan.picture.order import stretches
from sorvan.picture.paint import Painter

DOCUMENTS, KEPT = production(8, 60)
PLAN = Staged.full(DOCUMENTS, InMotion(motion="tree-m")).plan()


def painter() -> Painter:
    return Painter(lambda id: KEPT[id][1])


@pytest.mark.parametrize("rate", [Rate(), Rate(numerator=24000, denominator=1001), Rate(numerator=25)])
@pytest.mark.parametrize("cuts", [(0, 60), (0, 20, 40, 60), (0, 1, 2, 33, 60)])
def test_a_film_of_parts_has_every_frame_at_its_time_and_as_drawn(
    tmp_path: Path, rate: Rate, cuts: tuple[int, ...]
) -> None:
    settings = FilmSettings("mp4", 0, 60, 320, 180, rate)
    parts = [part_of(PLAN, painter(), settings, a, b) for a, b in pairwise(cuts)]
    joined(iter(parts), "mp4", 1 / Fraction(rate.denominator, rate.numerator), tmp_path / "film.mp4")
    drawn = list(draw_frames(PLAN, painter(), settings))
    step = Fraction(rate.denominator, rate.numerator)
    with av.open(str(tmp_path / "film.mp4")) as film:
        stream = film.streams.video[0]
        assert stream.average_rate == 1 / step
        frames = list(film.decode(stream))
        assert [f.pts * f.time_base for f in frames] == [i * step for i in range(60)]
        for frame, pixels in zip(frames, drawn, strict=True):
            found = frame.reformat(format="rgb24", src_colorspace=1).to_ndarray().astype(int)
            # Each decoded frame is its own drawing and not a neighbour's.
            assert np.abs(found - pixels[:, :, :3]).mean() < 4
    data = (tmp_path / "film.mp4").read_bytes()
    assert data.index(b"moov") < data.index(b"mdat"), "it can play while it loads"


def test_a_sequence_of_parts_is_the_sequence(tmp_path: Path) -> None:
    settings = FilmSettings("png", 5, 40, 160, 90, Rate(), clear=True)
    make(PLAN, painter(), settings, tmp_path / "whole.zip", lambda _: None)
    parts = [part_of(PLAN, painter(), settings, a, b) for a, b in ((5, 17), (17, 18), (18, 40))]
    joined(parts, "png", None, tmp_path / "joined.zip")
    with zipfile.ZipFile(tmp_path / "whole.zip") as whole, zipfile.ZipFile(tmp_path / "joined.zip") as found:
        assert found.namelist() == whole.namelist()
        assert all(found.read(name) == whole.read(name) for name in whole.namelist())
    with zipfile.ZipFile(io.BytesIO(parts[1])) as part:
        assert part.namelist() == ["frame-0018.png"]


@pytest.mark.parametrize(("size", "most"), [((1280, 720), 48), ((320, 180), 48), ((8192, 4608), 4)])
def test_parts_are_stretches_without_gaps_the_shorter_the_larger_the_picture(size: tuple[int, int], most: int) -> None:
    found = stretches(FilmSettings("mp4", 7, 207, *size, Rate()))
    assert [a for a, _ in found[1:]] == [b for _, b in found[:-1]]
    assert (found[0][0], found[-1][1]) == (7, 207)
    assert max(b - a for a, b in found) == most
