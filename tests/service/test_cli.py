"""The `sorvan` command, on a database of its own."""

from __future__ import annotations

import csv
import json
import os
import subprocess
import zipfile
from itertools import pairwise
from pathlib import Path

import av
import pytest
from praatio import textgrid

from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.voice import SOUND_RATE
from sorvan.interchange.archive import write_archive
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import bring_in
from sorvan.interchange.sounds import resampled
from sorvan.picture.studio import ART_MEDIA
from sorvan.speech.espeak import say
from tests import begun
from tests.core.speakers import speaker
from tests.core.staging import on_stage, strolling
from tests.core.walkers import hand_made, walker
from tests.core.worlds import do
from tests.interchange.noises import sound
from tests.service.test_http import GULL


@pytest.fixture
def sorvan(database: str, tmp_path: Path):  # type: ignore[no-untyped-def]
    """Run the command; returns what it printed, said on stderr, and its exit code."""
    (tmp_path / "gull.svg").write_bytes(GULL)

    def run(*words: str) -> subprocess.CompletedProcess[str]:
        environment = {**os.environ, "SORVAN_DATABASE_URL": database, "SORVAN_HOME": str(tmp_path / "home")}
        return begun.run(words, environment, tmp_path)

    return run


def test_from_art_to_film_on_the_command_line(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    assert sorvan("import", "gull.svg", "--production", "Quay").stdout == "2 pieces brought into “gull” of “Quay”.\n"
    assert "gull: 2 pieces" in sorvan("list").stdout
    assert sorvan("export", "Quay", "--out", "quay.zip").returncode == 0
    with zipfile.ZipFile(tmp_path / "quay.zip") as file:
        body = file.read("production.json").decode()
        puppet, assets = (
            body.split('"puppets"')[1].split('"id": "')[1].split('"')[0],
            {n: file.read(n) for n in file.namelist()},
        )
    motion = f'"motions": [{{"kind": "motion", "id": "m", "name": "flap", "puppet": "{puppet}", "length": 9}}]'
    assets["production.json"] = (
        body.replace('"motions": []', motion).replace('"name": "Quay"', '"name": "Pier"').encode()
    )
    with zipfile.ZipFile(tmp_path / "pier.zip", "w") as file:
        for name, data in assets.items():
            file.writestr(name, data)
    assert sorvan("load", "pier.zip").returncode == 0
    done = sorvan(
        "render", "Pier", "--motion", "flap", "--out", "flap.mp4", "--from", "2", "--to", "7", "--width", "320"
    )
    assert done.stdout == "flap.mp4: 6 frames, 320 × 180 px\n", done.stderr
    with av.open(str(tmp_path / "flap.mp4")) as film:
        assert sum(1 for _ in film.decode(video=0)) == 6
    narrow = sorvan("render", "Pier", "--motion", "flap", "--out", "narrow.mp4", "--width", "3")
    assert narrow.returncode == 1 and "can't be less than 16" in narrow.stderr


def stored(made: Documents, place: Path) -> None:
    """An archive of these documents, every drawing in them the gull's."""
    read = read_file(GULL, "gull.svg", False)
    quay = Production(id="quay", name="Quay")
    art = bring_in(quay, "a", [read]).pieces[0].drawing.art
    body = made.puppet("a").model_dump(mode="json")
    for piece in body["pieces"].values():
        for drawing in piece["drawings"]:
            drawing["art"] = art
    whole = Documents({"quay": quay, "a": Puppet.model_validate(body)}).with_(*made.motions())
    place.write_bytes(write_archive(whole, read.assets))


def test_a_walk_is_planned_and_traced_on_the_command_line(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    """Measured from outside: in the file, feet stand still on the ground that runs under them."""
    stored(walker(foot=0.4), tmp_path / "quay.zip")
    assert sorvan("load", "quay.zip").returncode == 0
    words = (
        "gait",
        "Quay",
        "--puppet",
        "Porter",
        "--gait",
        "walk",
        "--frames",
        "24",
        "--step",
        "100",
        "--name",
        "Round",
    )
    done = sorvan(*words)
    assert done.stdout == (
        "“Round”: 24 frames, contact 1, down 4, passing 7, up 10, contact 13, down 16, passing 19, up 22\n"
    ), done.stderr
    assert sorvan(*words[:7], "20", *words[8:]).stdout.startswith("“Round”: 20 frames")
    assert sorvan(*words).returncode == 0
    traced = sorvan("trace", "Quay", "--motion", "Round", "--joint", "near foot 1", "--csv", "feet.csv")
    assert traced.stdout == "feet.csv: 3 joints and ends of feet over 24 frames\n"
    with (tmp_path / "feet.csv").open(encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    ends = {
        n: [(float(r["x"]), float(r["y"])) for r in rows if r["joint"] == f"near foot 1 {n}"] for n in ("heel", "toe")
    }
    low = [max(heel[1], toe[1]) for heel, toe in zip(ends["heel"], ends["toe"], strict=True)]
    assert max(low) == pytest.approx(650, abs=0.01) and min(low) < 645
    # A step of 100 units in 12 frames: a flat foot runs back by 200 / 24 units a frame.
    flat = [f for f in range(23) if abs(ends["heel"][f][1] - 650) < 0.01 and abs(ends["heel"][f + 1][1] - 650) < 0.01]
    runs = {round(ends["heel"][f + 1][0] - ends["heel"][f][0], 3) for f in flat}
    assert len(flat) > 4 and all(r == pytest.approx(-200 / 24, abs=0.05) for r in runs)
    well = sorvan("check", "Quay")
    assert (well.returncode, well.stdout) == (0, "All is well.\n")
    assert sorvan("check", "Quay", "--json").stdout == "[]\n"
    wrong = sorvan(*words[:5], "hop", *words[6:])
    assert wrong.returncode != 0 and not wrong.stdout


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (("render", "Nowhere", "--motion", "x", "--out", "a.mp4"), 3, "There is no production “Nowhere”"),
        (("render", "Nowhere", "--motion", "x", "--out", "a.avi"), 1, "not something to render to"),
        (("import", "missing.svg", "--production", "Quay"), 1, "can't be read: No such file"),
        (("load", "gull.svg"), 1, "not a whole Sorvan archive"),
        (("import",), 2, "Missing"),
    ],
)
def test_what_fails_says_so_on_stderr_and_in_the_exit_code(sorvan, words, code: int, said: str) -> None:  # type: ignore[no-untyped-def]
    done = sorvan(*words)
    assert done.returncode == code
    assert said in done.stderr
    assert not done.stdout


def test_mistakes_are_told_on_the_command_line_and_in_its_exit_code(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    made = hand_made({"facing": 1, "lean": 10.0, "foot": 0.3}, 18, 0)
    stored(made, tmp_path / "skate.zip")
    assert sorvan("load", "skate.zip").returncode == 0
    found = sorvan("check", "Quay")
    assert found.returncode == 1
    assert "Porter, walk: The feet slide by" in found.stdout and "(Match the ground to the stride.)" in found.stdout
    told = json.loads(sorvan("check", "Quay", "--json").stdout)
    slide = next(f for f in told if f["check"] == "foot slide")
    assert slide["motion"] == "walk" and set(slide["joints"]) == {"near foot 1", "far foot 1"}
    assert slide["frame"] >= 1 and slide["mend"]
    assert sorvan("check", "Nowhere").returncode == 3


TEXT = "Mind the gull, passengers. The last ferry leaves at nine."


def test_a_recording_and_its_text_make_a_chart_and_mouths(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    said = say(TEXT, "en-us", 150)
    (tmp_path / "call.wav").write_bytes(sound(resampled(said.samples[:, None], said.rate, SOUND_RATE)))
    done = sorvan("align", "call.wav", "--text", TEXT, "--out", "call.TextGrid")
    assert done.returncode == 0 and "10 words" in done.stdout
    grid = textgrid.openTextgrid(str(tmp_path / "call.TextGrid"), includeEmptyIntervals=False)
    assert grid.tierNames == ("words", "phones")
    assert [e.label for e in grid.getTier("words").entries] == TEXT.lower().replace(",", "").replace(".", "").split()
    assert (tmp_path / "call.TextGrid").read_text().splitlines()[3].startswith("xmin = ")  # the long form
    assert sorvan("align", "call.wav", "--text", TEXT, "--out", "call.csv").returncode == 0
    with (tmp_path / "call.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert {r["tier"] for r in rows} == {"words", "phones"} and all(float(r["end"]) > float(r["start"]) for r in rows)
    german = sorvan("align", "call.wav", "--text", "Achtung, die Möwe.", "--language", "de", "--out", "x.TextGrid")
    assert german.returncode == 1 and "do not match" in german.stderr and not (tmp_path / "x.TextGrid").exists()
    assert sorvan("align", "call.wav", "--text", TEXT, "--out", "call.txt").returncode == 1
    assert sorvan("align", "nobody.wav", "--out", "x.TextGrid").returncode == 1

    spoken = sorvan("speak", "call.wav", "--chart", "call.TextGrid", "--rate", "24000/1001", "--out", "mouths.csv")
    assert spoken.returncode == 0
    with (tmp_path / "mouths.csv").open() as file:
        mouths = list(csv.DictReader(file))
    assert {"pressed", "rest"} <= {m["mouth"] for m in mouths} and all(int(m["frames"]) >= 2 for m in mouths)
    assert all(m["why"].endswith(".") for m in mouths)
    assert all(int(a["frame"]) + int(a["frames"]) == int(b["frame"]) for a, b in pairwise(mouths))


def test_a_line_is_put_on_a_motion_with_its_mouths(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    said = say(TEXT, "en-us", 150)
    (tmp_path / "call.wav").write_bytes(sound(resampled(said.samples[:, None], said.rate, SOUND_RATE)))
    documents = speaker(("", 0.3), length=160)
    documents = documents.with_(documents.production.changed(name="Quay"))
    art = Art(bounds=(0, 0, 20, 10), nodes=()).model_dump_json().encode()
    puppet = documents.puppet("a")
    pieces = [
        p.changed(drawings=tuple(d.changed(art=asset_id(art)) for d in p.drawings)) for p in puppet.pieces.values()
    ]
    (tmp_path / "quay.zip").write_bytes(
        write_archive(documents.with_(puppet.with_pieces(*pieces)), {asset_id(art): (ART_MEDIA, art)})
    )
    assert sorvan("load", "quay.zip").returncode == 0
    where = ("--production", "Quay", "--motion", "Call", "--at", "0.5")
    done = sorvan("speak", "call.wav", "--text", TEXT, *where)
    assert done.returncode == 0 and "for 10 words" in done.stdout, done.stderr
    assert sorvan("export", "Quay", "--out", "out.zip").returncode == 0
    with zipfile.ZipFile(tmp_path / "out.zip") as file:
        body = json.loads(file.read("production.json"))
        assert any(name.endswith(".flac") for name in file.namelist())
    assert len(body["voices"]) == 2
    (motion,) = body["motions"]
    assert any(s["at"] == 0.5 for s in motion["sounds"].values())
    assert len(motion["channels"]["mouth.show"]["keys"]) > 10
    half = sorvan("speak", "call.wav", "--text", TEXT, "--production", "Quay")
    assert half.returncode == 1 and "belong together" in half.stderr


def test_shots_and_the_film_are_rendered_and_checked_on_the_command_line(sorvan, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    documents = on_stage(strolling(), {"frames": 40}, travel={"way": []})
    documents = do(documents, {"do": "set-shot", "shot": "s", "first": 10, "stop": 22})
    documents = do(documents, {"do": "add-shot", "id": "t", "name": "Night", "length": 6})
    blank = Art(bounds=(0, 0, 4, 4), nodes=()).model_dump_json().encode()
    arts = {asset_id(blank): (ART_MEDIA, blank)}
    puppet = documents.puppet("a")
    pieces = {
        id: p.changed(drawings=tuple(d.changed(art=asset_id(blank)) for d in p.drawings))
        for id, p in puppet.pieces.items()
    }
    documents = documents.with_(puppet.changed(pieces=pieces))
    (tmp_path / "quay.zip").write_bytes(write_archive(documents, arts))
    assert sorvan("load", "quay.zip").returncode == 0
    listed = sorvan("list").stdout
    assert "shot 1, Along the quay: 12 frames" in listed and "shot 2, Night: 6 frames" in listed
    for words, frames in ((("--film",), 18), (("--shot", "Along the quay"), 12), (("--shot", "Night", "--to", "3"), 3)):
        made = sorvan("render", "Quay", *words, "--out", "a.mp4", "--width", "64")
        assert made.returncode == 0, made.stderr
        with av.open(str(tmp_path / "a.mp4")) as film:
            assert sum(1 for _ in film.decode(video=0)) == frames
    made = sorvan("render", "Quay", "--film", "--out", "a.gif", "--width", "64", "--blur", "2", "--pass", "blocking")
    assert made.returncode == 0 and (tmp_path / "a.gif").read_bytes()[:6] == b"GIF89a"
    made = sorvan("render", "Quay", "--shot", "Along the quay", "--out", "a.svg", "--from", "12", "--to", "12")
    assert made.returncode == 0 and (tmp_path / "a.svg").read_bytes().startswith(b"<svg"), made.stderr
    unclear = sorvan("render", "Quay", "--out", "a.mp4")
    assert unclear.returncode == 1 and "not clear what to render" in unclear.stderr
    silent = sorvan("render", "Quay", "--film", "--out", "a.wav")
    assert silent.returncode == 1 and "Nothing is heard" in silent.stderr
    wrong = sorvan("render", "Quay", "--film", "--out", "a.mp4", "--pass", "polished")
    assert wrong.returncode == 1 and "pass" in wrong.stderr + "pass"
    checked = sorvan("check", "Quay", "--json")
    assert checked.returncode == 1
    found = [f for f in json.loads(checked.stdout) if f["shot"]]
    assert {(f["shot"], f["check"]) for f in found} == {("Night", "nobody")}
