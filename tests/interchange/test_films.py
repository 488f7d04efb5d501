"""Films read as reference, in step with a production's frames."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
import pytest

from sorvan.core.errors import Refusal
from sorvan.core.model.production import Rate
from sorvan.interchange.films import read_film
from sorvan.picture.images import opened, pixels_of


def film(rate: Fraction, frames: int, width: int = 64, height: int = 48) -> bytes:
    """A film whose n-th picture is grey, brighter by five for each n."""
    buffer = io.BytesIO()
    with av.open(buffer, mode="w", format="mp4") as file:
        stream = file.add_stream("libx264", rate=rate, options={"crf": "4"})
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        for n in range(frames):
            grey = np.full((height, width, 3), 20 + 5 * n, dtype=np.uint8)
            file.mux(stream.encode(av.VideoFrame.from_ndarray(grey, format="rgb24")))
        file.mux(stream.encode(None))
    return buffer.getvalue()


def greys(data: bytes, rate: Rate) -> list[int]:
    """Which picture of the film shows at each frame."""
    found = read_film(data, "wave.mp4", rate)
    shades = {id: float(pixels_of(opened(bytes_, id), id)[:, :, :3].mean()) for id, (_, bytes_) in found.assets.items()}
    return [round((shades[id] - 20) / 5) for id in found.pictures]


def test_at_its_own_rate_every_picture_is_a_frame() -> None:
    assert greys(film(Fraction(24), 30), Rate(numerator=24, denominator=1)) == [*range(30)]


@pytest.mark.parametrize(("own", "wanted"), [(Fraction(12), 24), (Fraction(30), 24), (Fraction(25), 30)])
def test_at_another_rate_each_frame_shows_what_the_film_shows_then(own: Fraction, wanted: int) -> None:
    shown = greys(film(own, 30), Rate(numerator=wanted, denominator=1))
    expected = [int(Fraction(n, wanted) * own) for n in range(len(shown))]
    assert shown == [min(e, 29) for e in expected]
    assert abs(len(shown) - float(30 / own * wanted)) <= 1 + wanted / float(own)


def test_large_films_are_kept_small_and_what_is_none_is_refused() -> None:
    found = read_film(film(Fraction(24), 2, 1920, 1080), "big.mp4", Rate(numerator=24, denominator=1))
    assert (found.width, found.height) == (960, 540)
    with pytest.raises(Refusal, match="can't be read"):
        read_film(b"not a film at all", "x.mp4", Rate(numerator=24, denominator=1))
