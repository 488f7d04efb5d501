"""The archive: the same production comes back, to the last number."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import LONGEST_SOUND, SOUND_RATE, Chart
from sorvan.demo.quay import build
from sorvan.interchange.archive import read_archive, read_archive_from, schema, write_archive
from sorvan.interchange.imported import ART_MEDIA
from tests.core.worlds import changed, in_order, productions
from tests.interchange import hurtful
from tests.interchange.noises import hum, sound

DEMO = build()


def test_the_demo_goes_out_and_comes_back_identically() -> None:
    documents, kept = DEMO
    data = write_archive(documents, kept)
    again, kept_again = read_archive(data, "quay.zip")
    assert by_kind(again) == by_kind(documents)
    assert kept_again == {id: kept[id] for id in kept_again}
    assert set(documents.art_assets()) <= set(kept_again)
    assert write_archive(again, kept_again) == data


@given(st.data())
def test_any_production_goes_out_and_comes_back_identically(data: st.DataObject) -> None:
    documents = data.draw(productions(most=3))
    for tag in range(6):
        documents = changed(data.draw, documents, tag)
    bare = Art(bounds=(0, 0, 1, 1), nodes=()).model_dump_json().encode()
    id = asset_id(bare)
    puppet = documents.puppet("a")
    own = {
        k: p.model_copy(update={"drawings": tuple(d.model_copy(update={"art": id}) for d in p.drawings)})
        for k, p in puppet.pieces.items()
    }
    documents = documents.with_(puppet.model_copy(update={"pieces": own}))
    again, _ = read_archive(write_archive(documents, {id: (ART_MEDIA, bare)}), "x.zip")
    assert by_kind(again) == by_kind(documents)


def by_kind(documents: Documents) -> list[list[Any]]:
    """All that is in documents of each kind, also in which order."""
    kinds = (documents.puppets(), documents.motions(), documents.voices(), documents.all_shots())
    return [in_order(Documents({d.id: d for d in kind})) for kind in ([documents.production], *kinds)]


def test_the_schema_is_published_in_the_archive() -> None:
    documents, kept = DEMO
    with zipfile.ZipFile(io.BytesIO(write_archive(documents, kept))) as file:
        assert json.loads(file.read("schema.json")) == schema()
        body = json.loads(file.read("production.json"))
    assert set(body) == set(schema()["properties"])


def test_the_schema_in_the_documentation_is_the_one_in_force() -> None:
    published = Path(__file__).parents[2] / "docs/production.schema.json"
    assert json.loads(published.read_text()) == schema()


def test_damaged_archives_are_refused() -> None:
    documents, kept = DEMO
    data = write_archive(documents, kept)
    with pytest.raises(Refusal, match="not a whole Sorvan archive"):
        read_archive(data[: len(data) // 2], "half.zip")
    with pytest.raises(Refusal, match="is missing"):
        read_archive(write_archive(documents, {}), "bare.zip")
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        entries = {n: file.read(n) for n in file.namelist()}
    name = next(n for n in entries if n.startswith("assets/"))
    for change, words in (
        ({name: entries[name] + b" "}, "damaged"),
        (
            {"production.json": entries["production.json"].replace(b'"cycle": false', b'"cycle": 7')},
            "does not follow its schema",
        ),
        (
            {"production.json": _with(entries["production.json"], _the_puppets_id)},
            "two documents with the id .*; one is the motion",
        ),
        ({"production.json": _with(entries["production.json"], _masks_in_a_circle)}, "at puppets/0.*mask itself"),
        ({"production.json": _with(entries["production.json"], _channel_of_another_kind)}, "at motions/0.*filed under"),
        ({"production.json": _with(entries["production.json"], _motion_of_nobody)}, "no puppet “gone”"),
        ({"production.json": _with(entries["production.json"], _shot_forgotten)}, "shot in the order of the film"),
    ):
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as file:
            for entry, content in (entries | change).items():
                file.writestr(entry, content)
        with pytest.raises(Refusal, match=words):
            read_archive(buffer.getvalue(), "changed.zip")


def _with(data: bytes, spoil: Callable[[dict[str, Any]], None]) -> bytes:
    body = json.loads(data)
    spoil(body)
    return json.dumps(body).encode()


def _the_puppets_id(body: dict[str, Any]) -> None:
    body["motions"][0]["id"] = body["motions"][0]["puppet"]


def _masks_in_a_circle(body: dict[str, Any]) -> None:
    first, second = list(body["puppets"][0]["pieces"].values())[:2]
    first["masks"], second["masks"] = [{"piece": second["id"]}], [{"piece": first["id"]}]


def _channel_of_another_kind(body: dict[str, Any]) -> None:
    channels = body["motions"][0]["channels"]
    id, channel = next((id, c) for id, c in channels.items() if c["kind"] == "turn")
    channels[id.replace("turn", "dial")] = channel
    del channels[id]


def _motion_of_nobody(body: dict[str, Any]) -> None:
    body["motions"][0]["puppet"] = "gone"


def _shot_forgotten(body: dict[str, Any]) -> None:
    body["production"]["shots"] = body["production"]["shots"][1:]


def silence(seconds: float) -> bytes:
    return sound(np.zeros((round(seconds * SOUND_RATE), 1), dtype=np.float32), SOUND_RATE, "FLAC")


@pytest.mark.parametrize(
    ("ending", "data", "words"),
    [
        ("png", hurtful.blank(12_000), "12,000 × 12,000 pixels"),
        ("png", hurtful.blank(40)[:-30], "damaged"),
        ("png", b"<html><script>alert(1)</script></html>", "is no PNG"),
        ("png", Art(bounds=(0, 0, 1, 1), nodes=()).model_dump_json().encode(), "is no PNG"),
        ("jpg", hurtful.blank(4), "is no JPEG"),
        ("flac", b"<html></html>", "is no sound"),
        ("flac", sound(hum(0.2, 44_100), 44_100, "FLAC"), "no sound as it is kept"),
        ("flac", silence(LONGEST_SOUND + 1), "longer than"),
        ("peaks", b"\x00\x10\x00\x00zz", "no picture of a sound"),
        ("json", b"[" * 50_000, "no drawing"),
    ],
    ids=lambda v: v if isinstance(v, str) else f"{len(v)} bytes",
)
def test_what_an_archive_brings_is_looked_at_like_anything_else(ending: str, data: bytes, words: str) -> None:
    documents, kept = DEMO
    with zipfile.ZipFile(buffer := io.BytesIO(write_archive(documents, kept)), "a") as file:
        file.writestr(f"assets/{asset_id(data)}.{ending}", data)
    kept_of_it: list[str] = []
    with pytest.raises(Refusal, match=words):
        read_archive_from(buffer, "quay.zip", lambda id, *_: kept_of_it.append(id))
    assert asset_id(data) not in kept_of_it


def test_a_sound_that_is_longer_than_it_says_is_refused() -> None:
    documents, kept = DEMO
    voice = next(v for v in documents.voices() if v.sound)
    assert voice.sound is not None
    short = documents.with_(voice.changed(chart=Chart(), sound=voice.sound.changed(seconds=voice.sound.seconds / 2)))
    with pytest.raises(Refusal, match="is not as it says"):
        read_archive(write_archive(short, kept), "quay.zip")
