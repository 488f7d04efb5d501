"""A puppet with mouths, lines to say, and charts made up for tests."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import PLAIN, Mouth, MouthChart
from sorvan.core.model.voice import Chart, Phone, Voice
from sorvan.core.voice.phonemes import ARPABET, GROUPS, LOOKS, MouthGroup
from tests.core.worlds import do

IPA = ("p", "f", "s", "l", "iː", "ə", "a", "ɔ", "u", "ʃ", "aɪ", "œ", "ɲ", "ʁ", "tʃ")
sounds = st.sampled_from((*ARPABET, *(f"{v}1" for v in ("AA", "IY", "OW", "UW", "EH")), *IPA, "", ""))
lasting = st.floats(0.025, 0.4).map(lambda s: round(s, 3))


def line(*phones: tuple[str, float], **fields: Any) -> Voice:
    """A line of these sounds, each so many seconds long, with a pause at its end."""
    at, row = 0.0, {}
    for n, (label, seconds) in enumerate(phones):
        row[f"p{n}"] = Phone(start=round(at, 5), label=label)
        at += seconds
    row["end"] = Phone(start=round(at, 5))
    return Voice(id="v", name="Line", chart=Chart(source="hand", phones=row), **fields)


lines = st.lists(st.tuples(sounds, lasting), min_size=1, max_size=40).map(lambda row: line(*row))


def mouth_set(*groups: MouthGroup, **fields: Any) -> MouthChart:
    """A set with a mouth for each of these groups, by default all ten."""
    mouths = {
        g.replace(" ", "-"): Mouth(
            id=g.replace(" ", "-"), name=g, look=LOOKS[g], shows={PLAIN: (float(GROUPS.index(g)),)}
        )
        for g in groups or GROUPS
    }
    return MouthChart(piece="mouth", mouths=mouths, **fields)


sets = st.lists(st.sampled_from(GROUPS), min_size=3, max_size=10, unique=True).map(lambda g: mouth_set(*g))


def speaker(*phones: tuple[str, float], length: int = 96, at: float = 0.0) -> Documents:
    """A puppet whose mouth has ten drawings and a sad one, with a chart, a motion, and a line placed on it."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Conductor"})
    names = [*GROUPS, "sad rest"]

    def drawing(n: int, name: str) -> dict[str, Any]:
        return {"id": f"d{n}", "name": name, "art": f"{n:064x}", "pivot": [0, 0], "bounds": [0, 0, 20, 10]}

    head = {"id": "head", "name": "head", "drawing": drawing(0, "head"), "at": [0, 0]}
    mouth = {"id": "mouth", "name": "mouth", "drawing": drawing(0, names[0]), "at": [0, 8]}
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": [head, mouth]})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "mouth", "parent": "head"})
    more = [drawing(n, name) for n, name in enumerate(names) if n]
    documents = do(documents, {"do": "add-drawings", "puppet": "a", "piece": "mouth", "drawings": more})
    documents = do(documents, {"do": "propose-mouths", "puppet": "a", "piece": "mouth"})
    documents = do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "Call", "length": length})
    documents = do(documents, {"do": "add-voice", "id": "v", "name": "Line", "motion": "m", "placed": "s", "at": at})
    chart = line(*phones).chart.model_dump(mode="json")
    return do(documents, {"do": "set-chart", "voice": "v", "chart": chart})


def mouths(documents: Documents, id: str = "r", **fields: Any) -> Documents:
    """The line's mouths made, or made again."""
    recipe = {"kind": "mouths", "id": id, "name": "Mouths", "sound": "s", **fields}
    return do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe})


def keyed(documents: Documents) -> dict[int, float]:
    """The drawing keyed on each frame that has a mouth key."""
    channel = documents.motion("m").channels.get("mouth.show")
    return {f: k.value[0] for f, k in channel.keys.items()} if channel else {}
