"""Sounds and mouths: which sound takes which, what a set lacks, and its commands."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.puppet import PLAIN, Drawing, MouthChart, MouthGroup, Piece
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.voice.mouth_names import by_name
from sorvan.core.voice.mouths import letters, missing, opposite, proposed, shown, sounds_by_mouth, taken_by
from sorvan.core.voice.phonemes import ARPABET, GROUPS, LOOKS, bare, is_vowel, known, sound, to_arpabet
from tests.core.speakers import mouth_set, sets, sounds, speaker
from tests.core.speakers import mouths as speak
from tests.core.worlds import do

# The table of sounds and mouths as it stands in the trade, written down apart from the program.
TABLE = {
    "pressed": "m b p M B P", "tucked": "f v F V", "wide": "i ɪ e eɪ IY1 IH0 EY2",
    "narrow": "s z t d n k ɡ j tʃ dʒ ʃ ʒ h ŋ S Z T D N K G Y CH JH SH ZH HH NG",
    "tongue up": "l θ ð L TH DH", "half open": "ə ʌ ɛ ɜ ʊ AH0 EH1 UH1 ER0", "open": "æ a ɑ AE1 AA1",
    "round open": "ɔ ɒ AO1", "pucker": "w u W UW1 R ɹ",
}  # fmt: skip
TWO = {"AY1": ("open", "wide"), "aɪ": ("open", "wide"), "aʊ": ("open", "pucker"), "OW1": ("round open", "pucker"),
       "oʊ": ("round open", "pucker"), "ɔɪ": ("round open", "wide"), "əʊ": ("half open", "pucker")}  # fmt: skip


def test_every_sound_takes_its_mouth() -> None:
    for group, labels in TABLE.items():
        for label in labels.split():
            assert sound(label).mouths == ((group, 1.0),), label
    for label, both in TWO.items():
        assert tuple(g for g, _ in sound(label).mouths) == both
        assert sound(label).mouths[0][1] > 0.5 and sum(s for _, s in sound(label).mouths) == pytest.approx(1)
    assert all(sound(name).known for name in ARPABET)
    for label in ("", "sil", "sp", "#"):
        assert sound(label).kind == "pause"
    assert not known("☂☂") and sound("☂☂").mouths == (("narrow", 1.0),)


def test_labels_are_read_with_stress_length_and_other_signs() -> None:
    assert bare("AH0") == "AH" and bare("ˈiː") == "i" and bare("t͡ʃ") == "tʃ" and bare("n̩") == "n"
    assert sound("AA1").stress == 1 and sound("AA2").stress == 2 and sound("ˈa").stress == 1 and sound("AA").stress == 0
    assert to_arpabet("ɡ") == ("G",) and to_arpabet("əl") == ("AH", "L") and to_arpabet("AA1") == ("AA",)
    assert sound("M").seen and sound("v").seen and not sound("s").seen
    assert is_vowel("ɔɪ") and not is_vowel("T")


@given(sets, sounds)
def test_each_sound_takes_a_mouth_of_the_set_for_all_of_its_time(chart: object, label: str) -> None:
    taken = taken_by(chart, label)  # type: ignore[arg-type]
    assert all(m.id in chart.mouths for m, _ in taken)  # type: ignore[attr-defined]
    assert sum(share for _, share in taken) == pytest.approx(1)


def test_what_a_set_lacks_is_filled_by_the_nearest() -> None:
    three = mouth_set("rest", "half open", "pucker")
    lacking = {group: mouth.name for group, mouth in missing(three).items()}
    assert (
        lacking["pressed"] == "rest"
        and lacking["open"] == "half open"
        and lacking["round open"] in ("half open", "pucker")
    )
    assert "rest" not in lacking and not missing(mouth_set())
    assert taken_by(three, "M")[0][0].name == "rest"


def test_the_charts_own_table_comes_before_what_is_usual() -> None:
    chart = mouth_set(sounds={"AE": "wide", "AA1": "pucker"})
    assert taken_by(chart, "AE0")[0][0].id == "wide" and taken_by(chart, "AA1")[0][0].id == "pucker"
    assert taken_by(chart, "AA0")[0][0].id == "open"
    assert "AE" in sounds_by_mouth(chart)["wide"] and letters(chart)["m"] == "pressed"


@pytest.mark.parametrize(
    ("name", "group", "mood"),
    [
        ("mouth open", "open", PLAIN), ("sad half open", "half open", "sad"), ("M B P", "pressed", PLAIN), ("mbp", "pressed", PLAIN),
        ("mouth_happy_oo", "pucker", "happy"), ("Lips together", "pressed", PLAIN), ("rest", "rest", PLAIN), ("round", "round open", PLAIN),
        ("smile", "rest", PLAIN), ("teeth", "narrow", PLAIN), ("whiskers", None, PLAIN),
    ],
)  # fmt: skip
def test_a_drawings_name_tells_its_mouth_and_mood(name: str, group: str | None, mood: str) -> None:
    told = by_name(name)
    assert (told.group, told.mood) == (group, mood)


def test_a_chart_is_proposed_from_the_drawings_and_edited() -> None:
    documents = speaker(("M", 0.2))
    chart = documents.puppet("a").mouths
    assert chart is not None and [m.name for m in chart.mouths.values()] == list(GROUPS)
    assert chart.moods == (PLAIN, "sad") and chart.mouths["rest"].shows == {PLAIN: (0.0,), "sad": (10.0,)}
    assert shown(chart.mouths["open"], "sad") is not None and not shown(chart.mouths["open"], "sad").of_mood  # type: ignore[union-attr]

    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "open", "mood": "sad", "shows": [3, 7]})
    documents = do(documents, {"do": "give-sounds", "puppet": "a", "labels": ["R", "ER"], "mouth": "pucker"})
    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "wide", "name": "grin"})
    chart = documents.puppet("a").mouths
    assert chart is not None and shown(chart.mouths["open"], "sad").values == (3, 7)  # type: ignore[union-attr]
    assert chart.mouths["wide"].name == "grin" and chart.sounds == {"R": "pucker", "ER": "pucker"}
    gone = do(documents, {"do": "remove-mouth", "puppet": "a", "mouth": "pucker"}).puppet("a").mouths
    assert gone is not None and not gone.sounds and "pucker" not in gone.mouths
    with pytest.raises(Refusal, match="no drawing"):
        do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "open", "shows": [77]})
    with pytest.raises(Refusal, match="There is no mouth"):
        do(documents, {"do": "give-sounds", "puppet": "a", "labels": ["R"], "mouth": "whiskers"})


def test_a_word_that_all_drawings_names_share_does_not_hide_what_the_rest_tells() -> None:
    names = ["rest", "m b p", "aa", "oo", "f v"]
    piece = speaker(("M", 0.2)).puppet("a").pieces["mouth"]
    drawings = tuple(
        d.model_copy(update={"name": f"beak {name}"}) for d, name in zip(piece.drawings, names, strict=False)
    )
    chart = proposed(piece.model_copy(update={"drawings": drawings}))
    told = {by_name(name).group: (float(d.number),) for name, d in zip(names, drawings, strict=True)}
    assert {m.group: m.shows[PLAIN] for m in chart.mouths.values()} == told
    assert None not in told and len(told) == 5 and not by_name("beak m b p").anything


def set_of(*names: str, sizes: list[tuple[float, float]] | None = None) -> MouthChart:
    """The chart that is proposed for drawings with these names, and sizes."""
    boxes = sizes or [(40.0, 20.0)] * len(names)
    drawings = tuple(
        Drawing(id=f"d{n}", name=name, art=f"{n:064x}", pivot=(0, 0), bounds=(0, 0, *box), number=n + 1)
        for n, (name, box) in enumerate(zip(names, boxes, strict=True))
    )
    return proposed(Piece(id="mouth", name="mouth", joint="mouth", drawings=drawings))


LETTERS = ["1 A I", "2 O", "3 E K", "4 Ch Sh J", "5 R", "6 D S T", "7 L", "8 W U", "9 M B P", "10 F V", "11 surprised"]
"""A set as an animator numbers it, and which of its mouths each sound must take, by what the names say."""
SAID = {
    "AA": 1, "AE": 1, "AY": 1, "AO": 2, "OW": 2, "IY": 3, "EY": 3, "IH": 3, "K": 3, "CH": 4, "SH": 4, "JH": 4, "R": 5,
    "D": 6, "S": 6, "T": 6, "N": 6, "L": 7, "TH": 7, "W": 8, "UW": 8, "M": 9, "B": 9, "P": 9, "F": 10, "V": 10,
}  # fmt: skip


@given(st.permutations(LETTERS))
def test_a_set_named_by_letters_is_understood_in_any_order(names: list[str]) -> None:
    chart = set_of(*names)
    taken = {label: taken_by(chart, label)[0][0].name for label in SAID}
    assert taken == {label: LETTERS[n - 1] for label, n in SAID.items()}
    # They stay as the animator numbered and ordered them, and one that is no mouth of speech takes no sound.
    assert [m.name for m in chart.mouths.values()] == names
    assert [m.name for m in chart.mouths.values() if not m.speaks] == ["11 surprised"]
    every = {m.name for label in ARPABET for m, _ in taken_by(chart, label)}
    assert "11 surprised" not in every
    # One mouth is on the lips at rest: what is pressed stands in for it, and nothing wide for anything round.
    fills = {group: mouth.name for group, mouth in missing(chart).items()}
    assert fills["rest"] == "9 M B P" and set(fills) == {"rest", "half open"}


@pytest.mark.parametrize(
    ("names", "sounds"),
    [
        (("zu", "M B P", "offen", "Ü", "breit", "Zähne"), {"UW": "Ü", "M": "M B P", "AA": "open", "IY": "wide", "S": "narrow"}),
        (("fermée", "bouche MBP", "FV", "ouverte", "dents", "OU W"), {"UW": "OU W", "P": "bouche MBP", "V": "FV", "AA": "open"}),
        (("cerrada", "boca MBP", "abierta", "redonda", "lengua", "dientes"), {"AA": "open", "L": "tongue up", "S": "narrow"}),
        (("chiusa", "bocca MBP", "aperta", "tonda", "larga", "denti"), {"AA": "open", "IY": "wide", "AO": "round open"}),
        (("dicht", "mond MBP", "rond", "breed", "tong", "tanden"), {"AO": "round open", "IY": "wide", "TH": "tongue up"}),
        (("kiinni", "suu MBP", "auki", "pyöreä", "leveä", "hampaat"), {"AA": "open", "IY": "wide", "S": "narrow"}),
        (("CDGKNRSTXYZ", "MBP", "AI", "E", "O", "U", "WQ", "L", "FV", "rest"), {"R": "CDGKNRSTXYZ", "W": "WQ", "UW": "U", "AY": "AI"}),
        (("mouthRest", "mouthAh", "mouthOh", "mouthMBP"), {"OW": "mouthOh", "AA": "mouthAh", "B": "mouthMBP"}),
    ],
)  # fmt: skip
def test_mouths_are_named_in_the_ways_and_languages_that_people_have(
    names: tuple[str, ...], sounds: dict[str, str]
) -> None:
    chart = set_of(*names)
    assert {label: taken_by(chart, label)[0][0].name for label in sounds} == sounds
    assert all(m.speaks for m in chart.mouths.values())


def test_without_telling_names_mouths_are_told_by_their_sizes() -> None:
    sizes = [(60.0, 6.0), (60.0, 40.0), (20.0, 22.0), (70.0, 16.0)]
    chart = set_of("m one", "m two", "m three", "m four", sizes=sizes)
    assert all(m.speaks for m in chart.mouths.values())
    taken = {label: taken_by(chart, label)[0][0].name for label in ("M", "AA", "W", "IY")}
    assert taken == {"M": "m one", "AA": "m two", "W": "m three", "IY": "m four"}


@given(st.lists(st.sampled_from(GROUPS), min_size=2, unique=True))
def test_nothing_stands_in_for_its_opposite(groups: list[MouthGroup]) -> None:
    chart = mouth_set(*groups)
    for group, mouth in missing(chart).items():
        others = [m for m in chart.mouths.values() if not opposite(LOOKS[group], m.look)]
        assert mouth in others or not others
    if set(groups) & {"rest", "narrow", "half open", "tucked"}:
        assert not any({g, m.name} in ({"wide", "pucker"}, {"wide", "round open"}) for g, m in missing(chart).items())


def test_a_mouth_is_told_what_it_is_and_whether_it_speaks() -> None:
    documents = speaker(("M", 0.2))
    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "new", "name": "W oo", "shows": [2]})
    chart = documents.puppet("a").mouths
    assert chart is not None and chart.mouths["new"].group == "pucker" and chart.mouths["new"].look == LOOKS["pucker"]
    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "open", "speaks": False})
    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "new", "group": "open"})
    chart = documents.puppet("a").mouths
    assert chart is not None and taken_by(chart, "AA1")[0][0].id == "new" and chart.mouths["new"].name == "W oo"


def test_the_chart_goes_with_the_piece_or_the_dial_that_it_is_for() -> None:
    documents = do(speaker(("M", 0.2)), {"do": "remove-pieces", "puppet": "a", "pieces": ["mouth"]})
    assert documents.puppet("a").mouths is None
    dial = {"id": "say", "name": "say", "low": 0, "high": 9, "stops": []}
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": dial})
    chart = mouth_set().model_dump(mode="json") | {"piece": None, "dial": "say"}
    documents = do(documents, {"do": "set-mouths", "puppet": "a", "chart": chart})
    assert documents.puppet("a").mouths.channel == "say.dial"  # type: ignore[union-attr]
    assert do(documents, {"do": "remove-dial", "puppet": "a", "dial": "say"}).puppet("a").mouths is None


def test_the_stops_of_a_dial_are_mouths_too() -> None:
    documents = speaker(("M", 0.2), ("AA1", 0.4), ("UW1", 0.4))
    stops = [{"at": n * 10, "values": {"mouth.show": [value]}} for n, value in enumerate((0, 1, 7, 9))]
    dial = {"id": "say", "name": "say", "low": 0, "high": 30, "stops": stops}
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": dial})
    documents = do(documents, {"do": "propose-mouths", "puppet": "a", "dial": "say"})
    chart = documents.puppet("a").mouths
    assert chart is not None and {m.name: m.shows[PLAIN] for m in chart.mouths.values()} == {
        "rest": (0,), "pressed": (10,), "open": (20,), "pucker": (30,),
    }  # fmt: skip
    spoken = speak(documents).motion("m")
    assert "mouth.show" not in spoken.channels
    held = {k.value[0] for k in spoken.channels["say.dial"].keys.values()}
    assert held >= {10, 20, 30}
    e = Evaluation.full(documents.puppet("a"), spoken)
    row = documents.puppet("a").order.index("mouth")
    assert set(e.shown[row].tolist()) >= {1, 7, 9}, "the dial shows its drawings, and none half way"
    bare = dial | {"id": "none", "stops": []}
    with pytest.raises(Refusal, match="fewer than two stops"):
        do(
            do(documents, {"do": "set-dial", "puppet": "a", "dial": bare}),
            {"do": "propose-mouths", "puppet": "a", "dial": "none"},
        )


@given(st.text(max_size=12))
def test_any_label_at_all_is_some_mouth(label: str) -> None:
    found = sound(label)
    assert found.mouths and sum(s for _, s in found.mouths) == pytest.approx(1)
