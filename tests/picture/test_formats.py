"""Shots and the film as files: what they show and sound like, read by other readers."""

from __future__ import annotations

import io
import zipfile
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import skia
import soundfile

from bench.scenes import production
from sorvan.core.film.reel import plan_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Copies, Heard, Join, Member, Shot, Span
from sorvan.core.model.voice import Recording, Voice
from sorvan.interchange.pictures import decode
from sorvan.picture.film import draw_frames, joined, make, part_of
from sorvan.picture.order import RenderOrder, stretches
from sorvan.picture.paint import Painter, Surface
from sorvan.picture.sound import flac, wav
from sorvan.picture.studio import Studio

BASE, KEPT = production(8, 24)


def documents() -> Documents:
    """Two shots of a tree that sways, the second dissolving from the first, with copies and a tone."""
    spans = {"s": Span(id="s", motion="tree-m", start=0, frames=20)}
    tree = Member(id="c", puppet="tree", at=(640.0, 360.0), spans=spans)
    copies = Copies(
        id="e", puppet="tree", motion="tree-m", count=3, at=(300.0, 300.0), scale=0.4, tint="#ff0000ff", tinted=80
    )
    one = Shot(id="one", name="One", length=20, stage="final").with_cast(tree, copies)
    one = one.changed(sounds={"h": Heard(id="h", voice="v", at=0.25)})
    two = Shot(id="two", name="Two", length=16, stage="final", join=Join(kind="dissolve", frames=6))
    two = two.with_cast(tree.changed(at=(900.0, 400.0), mirror=True))
    voice = Voice(id="v", name="Hum", sound=Recording(asset="a" * 64, peaks="b" * 64, seconds=0.5))
    made = BASE.with_(one, two, voice)
    return made.with_(made.production.changed(shots=("one", "two")))


HUM = (0.4 * np.sin(np.arange(24_000) * 2 * np.pi * 440 / 48_000)).astype(np.float32)[:, None]


def studio() -> Studio:
    return Studio(lambda id: KEPT[id][1])


def rendered(path: Path, **given: object) -> Path:
    """What an order makes."""
    order = RenderOrder.model_validate({"width": 320, **given})
    made, st = documents(), studio()
    sound = order.heard(made, lambda _: flac(HUM))
    if order.format == "wav":
        assert sound is not None
        wav(sound, str(path))
    else:
        make(order.show(made, st), Painter(st.asset), order.settings(made), path, lambda _: None, sound)
    return path


def drawn(**given: object) -> list[np.ndarray]:
    order = RenderOrder.model_validate({"width": 320, **given})
    made, st = documents(), studio()
    return [p.copy() for p in draw_frames(order.show(made, st), Painter(st.asset), order.settings(made))]


def test_the_film_shows_each_shot_and_both_while_they_dissolve() -> None:
    film, one, two = drawn(), drawn(shot="one"), drawn(shot="two")
    assert (len(film), len(one), len(two)) == (30, 20, 16)
    for frame in range(14):
        np.testing.assert_array_equal(film[frame], one[frame])
    for frame in range(20, 30):
        np.testing.assert_array_equal(film[frame], two[frame - 14])
    for k in range(6):
        share = (k + 1) / 7
        wanted = one[14 + k].astype(float) * (1 - share) + two[k].astype(float) * share
        assert np.abs(film[14 + k] - wanted).max() <= 2.5
    assert np.abs(one[0].astype(int) - two[0]).mean() > 2


@pytest.mark.parametrize("what", [{"shot": "one"}, {}])
def test_a_rendered_range_is_that_part_of_the_whole(what: dict[str, str]) -> None:
    whole, part = drawn(**what), drawn(**what, first=11, last=17)
    assert len(part) == 7
    for one, other in zip(part, whole[10:17], strict=True):
        np.testing.assert_array_equal(one, other)


def test_motion_blur_is_the_mean_of_the_pictures_while_the_shutter_is_open() -> None:
    sharp, still = drawn(shot="one", blur=1), drawn(shot="one", blur=4, shutter=0.0001)
    for a, b in zip(sharp, still, strict=True):
        assert np.abs(a.astype(int) - b).max() <= 2
    soft = drawn(shot="one", blur=4, shutter=360)

    def edges(picture: np.ndarray) -> float:
        return float(np.abs(np.diff(picture[:, :, 0].astype(int), axis=1)).max(axis=0).mean())

    assert np.mean([edges(p) for p in soft]) < 0.97 * np.mean([edges(p) for p in sharp])
    # Of a motion by itself, too.
    assert len(drawn(motion="tree-m", blur=3)) == 24


@pytest.mark.parametrize("format", ["mp4", "webm"])
def test_films_have_every_frame_and_their_sound(tmp_path: Path, format: str) -> None:
    path = rendered(tmp_path / f"film.{format}", format=format)
    wanted = drawn(format=format)
    with av.open(str(path)) as film:
        frames = list(film.decode(video=0))
        names = {s.codec_context.name for s in film.streams}
        assert (
            names == {"h264", "aac"}
            if format == "mp4"
            else {n.split("-")[0].removeprefix("lib") for n in names} & {"vp9", "vpx"}
        )
        assert len(frames) == 30
        times = [round(f.pts * f.time_base * 24) for f in frames]
        assert times == list(range(30))
        for frame, pixels in zip(frames, wanted, strict=True):
            found = frame.reformat(format="rgb24", src_colorspace=1).to_ndarray().astype(int)
            assert np.abs(found - pixels[:, :, :3]).mean() < 4
    with av.open(str(path)) as film:
        resampler = av.AudioResampler(format="fltp", layout="mono", rate=48_000)
        blocks = [r.to_ndarray() for f in film.decode(audio=0) for r in resampler.resample(f)]
    sound = np.concatenate(blocks, axis=1)[0]
    loud = np.flatnonzero(np.abs(sound) > 0.1)
    # The tone begins at a quarter of a second, and is heard for half of one.
    assert abs(loud[0] / 48_000 - 0.25) < 0.01 and abs(loud[-1] / 48_000 - 0.75) < 0.02


@pytest.mark.parametrize("format", ["mp4", "webm", "gif", "apng", "png"])
def test_whoever_draws_the_parts_the_file_is_the_same(tmp_path: Path, format: str) -> None:
    """Parts are cut by frame number: drawn by one painter or by three, in any order, they give the same bytes."""
    order = RenderOrder.model_validate({"width": 160, "format": format})
    made = documents()
    settings = order.settings(made)
    cuts = [(a, b) for a, b in ((0, 9), (9, 21), (21, 30))]
    files = []
    for workers in (1, 3):
        parts: dict[int, bytes] = {}
        for worker in range(workers):
            st = studio()
            show, painter = order.show(made, st), Painter(st.asset)
            for n in range(worker, len(cuts), workers):
                parts[n] = part_of(show, painter, settings, *cuts[n])
        path = tmp_path / f"{workers}.{format}"
        joined((parts[n] for n in range(3)), order.format, Fraction(24), path)
        files.append(path.read_bytes())
    assert files[0] == files[1] or format == "webm"
    if format == "webm":
        # The container has an id drawn by chance; every packet of the picture is the same.
        packets = []
        for data in files:
            with av.open(io.BytesIO(data)) as film:
                packets.append([(p.pts, bytes(p)) for p in film.demux(video=0) if p.pts is not None])
        assert packets[0] == packets[1] and len(packets[0]) == 30


def test_animations_loop_for_ever_and_can_be_clear(tmp_path: Path) -> None:
    wanted = drawn(shot="one", format="apng", clear=True)
    path = rendered(tmp_path / "a.apng", shot="one", format="apng", clear=True)
    with av.open(str(path)) as film:
        frames = [f.to_ndarray(format="rgba") for f in film.decode(video=0)]
    assert len(frames) == 20
    for one, other in zip(frames, wanted, strict=True):
        np.testing.assert_array_equal(one, other)
    assert wanted[0][0, 0, 3] == 0 and wanted[0][:, :, 3].max() == 255
    path = rendered(tmp_path / "a.gif", shot="one", format="gif")
    data = path.read_bytes()
    assert data[:6] == b"GIF89a" and b"NETSCAPE2.0" in data
    with av.open(str(path)) as film:
        frames = [f.to_ndarray(format="rgb24") for f in film.decode(video=0)]
    opaque = drawn(shot="one")
    assert len(frames) == 20 and np.abs(frames[7].astype(int) - opaque[7][:, :, :3]).mean() < 6
    path = rendered(tmp_path / "a.webp", shot="one", format="webp")
    codec = skia.Codec.MakeFromData(skia.Data.MakeWithCopy(path.read_bytes())) if hasattr(skia, "Codec") else None
    if codec is not None:
        assert codec.getFrameCount() == 20 and codec.getRepetitionCount() == -1
    assert path.read_bytes()[:4] == b"RIFF" and path.read_bytes().count(b"ANMF") == 20


def test_sound_alone_and_pictures_alone(tmp_path: Path) -> None:
    samples, rate = soundfile.read(rendered(tmp_path / "a.wav", format="wav"))
    assert rate == 48_000 and len(samples) == 30 * 2000
    np.testing.assert_allclose(samples[12_000:36_000, 0], HUM[:, 0], atol=1e-4)
    assert np.abs(samples[:12_000]).max() == 0 and np.abs(samples[36_001:]).max() == 0
    path = rendered(tmp_path / "a.zip", format="png", shot="two", first=5, last=8)
    with zipfile.ZipFile(path) as file:
        assert file.namelist() == [f"frame-{n:04d}.png" for n in (5, 6, 7, 8)]
        found = decode(file.read("frame-0006.png"), "a")
    np.testing.assert_array_equal(found[:, :, :3], drawn(shot="two")[5][:, :, :3])


def test_parts_of_blurred_and_large_renders_are_shorter() -> None:
    made = documents()
    sizes = [
        max(b - a for a, b in stretches(RenderOrder.model_validate({"width": w, "blur": n}).settings(made)))
        for w, n in ((1280, 1), (1280, 8), (2560, 8))
    ]
    assert sizes[0] > sizes[1] >= sizes[2] >= 4


def test_a_tint_too_weak_to_be_told_is_as_none() -> None:
    made, art = documents(), studio()
    held = made.shot("one")
    copies = held.cast["e"]
    assert isinstance(copies, Copies)

    def picture(tinted: float) -> np.ndarray:
        shot = held.with_cast(copies.changed(tinted=tinted))
        plan = plan_of(made.with_(shot), shot, art, "final")
        return Surface(160, 90).draw(Painter(art.asset), plan, 5)

    assert np.array_equal(picture(0.1), picture(0.0)) and not np.array_equal(picture(80), picture(0.0))
