"""The sound of a film lies where it belongs, to the sample."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from bench.scenes import production
from sorvan.core.model.production import Rate
from sorvan.core.model.voice import Placed, Recording, Voice
from sorvan.core.plan.scene import InMotion, Staged
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.sheet import ExposureLine
from sorvan.picture.film import FilmSettings, joined, make, part_of
from sorvan.picture.order import RenderOrder
from sorvan.picture.paint import Painter
from sorvan.picture.sheets import ROWS, exposure_pdf
from sorvan.picture.sound import flac
from tests.interchange.noises import hum, lag

DOCUMENTS, KEPT = production(4, 60)
PLAN = Staged.full(DOCUMENTS, InMotion(motion="tree-m")).plan()
HUM = hum(0.8)


def heard(path: Path) -> tuple[np.ndarray, float]:
    """The samples of a film's sound as a player has them, and when its picture ends (seconds)."""
    with av.open(str(path)) as film:
        stream = film.streams.audio[0]
        found = np.zeros(40 * 48_000, dtype=np.float32)
        for frame in film.decode(stream):
            assert frame.pts is not None and frame.time_base is not None
            at = round(float(frame.pts * frame.time_base) * 48_000)
            block = frame.to_ndarray()[0]
            first = max(-at, 0)
            found[at + first : at + len(block)] = block[first:]
    with av.open(str(path)) as film:
        frames = sum(1 for _ in film.decode(film.streams.video[0]))
        rate = film.streams.video[0].average_rate
        assert rate is not None
        return found, float(frames / rate)


def ordered(at: float, first: int, last: int, rate: Rate) -> tuple[RenderOrder, np.ndarray]:
    recording = Recording(asset="a" * 64, peaks="b" * 64, seconds=0.8)
    voice = Voice(id="v", name="Hum", sound=recording)
    motion = DOCUMENTS.motion("tree-m").changed(sounds={"s": Placed(id="s", voice="v", at=at)})
    documents = DOCUMENTS.with_(voice, motion, DOCUMENTS.production.changed(rate=rate))
    order = RenderOrder(motion="tree-m", first=first, last=last)
    samples = order.heard(documents, lambda _: flac(HUM))
    assert samples is not None and "v" in order.needed(documents).by_id
    return order, samples


@pytest.mark.parametrize("rate", [Rate(), Rate(numerator=24000, denominator=1001), Rate(numerator=25)])
@pytest.mark.parametrize("at", [0.0, 0.123456, 1.1])
@pytest.mark.parametrize("parts", [False, True])
def test_a_line_is_heard_within_a_sample_of_where_it_was_placed(
    tmp_path: Path, rate: Rate, at: float, parts: bool
) -> None:
    _, samples = ordered(at, 7, 55, rate)
    settings = FilmSettings("mp4", 6, 55, 160, 90, rate)
    painter = Painter(lambda id: KEPT[id][1])
    path = tmp_path / "film.mp4"
    if parts:
        pieces = [part_of(PLAN, painter, settings, a, b) for a, b in ((6, 30), (30, 31), (31, 55))]
        joined(iter(pieces), "mp4", per_second(rate), path, samples)
    else:
        make(PLAN, painter, settings, path, lambda _: None, samples)
    found, seconds = heard(path)
    assert seconds == pytest.approx(float(49 / per_second(rate)))
    begins = Fraction(at).limit_denominator(10**6) - 6 / per_second(rate)
    cut = max(round(-begins * 48_000), 0)
    wanted = HUM[cut:, 0]
    assert abs(lag(found, wanted) - max(round(begins * 48_000), 0)) <= 1
    if cut == 0:
        assert np.abs(found[: max(round(begins * 48_000) - 2400, 0)]).max(initial=0) < 0.02
    assert path.read_bytes().index(b"moov") < path.read_bytes().index(b"mdat")


def test_without_a_line_there_is_no_track_and_pictures_have_none() -> None:
    assert RenderOrder(motion="tree-m").heard(DOCUMENTS, lambda _: b"") is None
    order, _ = ordered(0.0, 1, 20, Rate())
    recording = Recording(asset="a" * 64, peaks="b" * 64, seconds=0.8)
    voice = Voice(id="v", name="Hum", sound=recording)
    muted = Placed(id="s", voice="v", mute=True)
    documents = DOCUMENTS.with_(voice, DOCUMENTS.motion("tree-m").changed(sounds={"s": muted}))
    assert order.heard(documents, lambda _: flac(HUM)) is None
    assert order.changed(format="png").heard(documents, lambda _: flac(HUM)) is None
    late = DOCUMENTS.with_(voice, DOCUMENTS.motion("tree-m").changed(sounds={"s": Placed(id="s", voice="v", at=60)}))
    assert order.heard(late, lambda _: flac(HUM)) is None


def test_an_exposure_sheet_is_printed_on_as_many_pages_as_it_takes() -> None:
    lines = tuple(
        ExposureLine(f, word="gull" if f % 9 == 0 else "|", mouth="open", note="très — long " * 9) for f in range(130)
    )
    data = exposure_pdf("Conductor · Call", lines, Fraction(24000, 1001))
    assert data.startswith(b"%PDF-") and data.rstrip().endswith(b"%%EOF")
    assert data.count(b"/Type /Page\n") + data.count(b"/Type/Page\n") == -(-130 // ROWS) or data.count(b"/Page") >= 3
