"""Phoneme charts in and out, in open formats."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from praatio import textgrid

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import Chart, Word, ends
from sorvan.interchange.charts import ChartFormat, read_chart, write_chart
from tests.core.speakers import line

LONG = '''File type = "ooTextFile"
Object class = "TextGrid"

xmin = 0
xmax = 1.5
tiers? <exists>
size = 3
item []:
    item [1]:
        class = "IntervalTier"
        name = "ORT"
        xmin = 0
        xmax = 1.5
        intervals: size = 1
        intervals [1]:
            xmin = 0
            xmax = 1.5
            text = "ignored"
    item [2]:
        class = "IntervalTier"
        name = "words"
        xmin = 0
        xmax = 1.5
        intervals: size = 3
        intervals [1]:
            xmin = 0
            xmax = 0.4
            text = ""
        intervals [2]:
            xmin = 0.4
            xmax = 0.9
            text = "say ""gull"""
        intervals [3]:
            xmin = 0.9
            xmax = 1.5
            text = ""
    item [3]:
        class = "IntervalTier"
        name = "phones"
        xmin = 0
        xmax = 1.5
        intervals: size = 4
        intervals [1]:
            xmin = 0
            xmax = 0.4
            text = "sil"
        intervals [2]:
            xmin = 0.4
            xmax = 0.5
            text = "G"
        intervals [3]:
            xmin = 0.5
            xmax = 0.9
            text = "ʌ"
        intervals [4]:
            xmin = 0.9
            xmax = 1.5
            text = ""
'''


def row(chart: Chart) -> list[tuple[float, str]]:
    return [(p.start, p.label) for p in chart.phones.values()]


@pytest.mark.parametrize("coding", ["utf-8", "utf-16", "utf-8-sig"])
def test_a_textgrid_from_elsewhere_is_read(coding: str) -> None:
    chart = read_chart(LONG.encode(coding), "gull.TextGrid", 1.5)
    assert row(chart) == [(0, ""), (0.4, "G"), (0.5, "ʌ"), (0.9, "")]
    assert [(w.start, w.text) for w in chart.words.values()] == [(0, ""), (0.4, 'say "gull"'), (0.9, "")]
    assert chart.source == "file"


labels = st.sampled_from(["AA1", "M", "ʃ", "tʃ", "ˈiː", ""])
charts = st.lists(st.tuples(labels, st.floats(0.02, 0.5).map(lambda s: round(s, 4))), min_size=1, max_size=12)


@given(charts, st.sampled_from(["long", "short", "csv"]))
def test_a_chart_written_and_read_is_the_same(entries: list[tuple[str, float]], format: ChartFormat) -> None:
    # Neighbouring pauses are one pause in a tier.
    tidy = [e for n, e in enumerate(entries) if e[0] or not n or entries[n - 1][0]]
    voice = line(*tidy)
    words = {"w0": Word(start=0.0), "w1": Word(start=0.01, text="ferry, “at nine”")}
    voice = voice.changed(chart=voice.chart.changed(words=words))
    again = read_chart(write_chart(voice, format), "x.csv" if format == "csv" else "x.TextGrid", voice.seconds)
    wanted = [(p.start, end, p.label) for _, p, end in ends(voice.chart.phones, voice.seconds)]
    found = [(p.start, end, p.label) for _, p, end in ends(again.phones, voice.seconds)]
    spoken = [w for w in wanted if w[2]]
    assert [w for w in found if w[2]] == [pytest.approx(w, abs=2e-5) for w in spoken]
    assert [w.text for w in again.words.values() if w.text] == ["ferry, “at nine”"]


def test_what_is_written_other_programs_can_read(tmp_path) -> None:  # type: ignore[no-untyped-def]
    voice = line(("", 0.2), ("M", 0.1), ("AA1", 0.3))
    for format in ("long", "short"):
        path = tmp_path / f"{format}.TextGrid"
        path.write_bytes(write_chart(voice, format))  # type: ignore[arg-type]
        grid = textgrid.openTextgrid(str(path), includeEmptyIntervals=True)
        assert grid.tierNames == ("words", "phones")
        assert [e.label for e in grid.getTier("phones").entries] == ["", "M", "AA1", ""]


def test_csv_of_start_end_and_label_is_enough() -> None:
    chart = read_chart(b"0.1,0.3,AH\n0.3,0.5,M\n0.8,1.0,AA\n", "x.csv", 2.0)
    assert row(chart) == [(0, ""), (0.1, "AH"), (0.3, "M"), (0.5, ""), (0.8, "AA"), (1.0, "")]
    assert row(read_chart("start;end;label\n0;0,5;M".replace("0,5", "0.5").encode(), "x.csv", 1.0)) == [
        (0, "M"),
        (0.5, ""),
    ]


@pytest.mark.parametrize(
    ("data", "name", "said"),
    [
        (b"", "x.TextGrid", "read as a TextGrid"),
        (LONG[:400].encode(), "x.TextGrid", "read as a TextGrid"),
        (b"a,b,c\nd,e,f", "x.csv", "Line 2"),
        (b"0.5,0.2,M", "x.csv", "would last from 0.5 to 0.2"),
        (b"-1,0.2,M", "x.csv", "would last from -1"),
        (b"0,nan,M", "x.csv", "Line 1"),
        (b"0,30,M", "x.csv", "goes on to 30.00 s, but the sound ends at 1.50 s"),
        (b"\n\n", "x.csv", "no words or sounds"),
    ],
)
def test_what_is_no_chart_is_refused_with_the_place(data: bytes, name: str, said: str) -> None:
    with pytest.raises(Refusal, match=said):
        read_chart(data, name, 1.5)


@given(st.binary(max_size=300), st.integers(0, 1200), st.sampled_from(["x.TextGrid", "x.csv"]))
def test_damaged_charts_are_refused_and_nothing_else(noise: bytes, at: int, name: str) -> None:
    data = bytearray(LONG.encode())
    data[at : at + len(noise)] = noise
    try:
        read_chart(bytes(data), name, 1.5)
    except Refusal as refused:
        assert refused.where == name
