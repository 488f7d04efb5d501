"""Phoneme charts in and out: TextGrid, long and short, and CSV with start, end and label."""

from __future__ import annotations

import csv
import io
from typing import Any, Literal

from praatio.utilities import textgrid_io

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import SHORTEST, Chart, Phone, Voice, Word, ends
from sorvan.core.voice.charting import filled, named
from sorvan.interchange import limits

ChartFormat = Literal["long", "short", "csv"]
WORDS, PHONES = "words", "phones"
"""What the two tiers are called that are written."""
_OF_WORDS = ("word", "words", "text", "transcript", "wrd")
_OF_PHONES = ("phone", "phones", "phoneme", "phonemes", "segments", "phn", "sounds")
ChartRow = list[tuple[float, float, str]]


def write_chart(voice: Voice, format: ChartFormat) -> bytes:
    """A line's chart: a word tier and a sound tier, or CSV with a column that says which is which."""
    words = [(w.start, end, w.text) for _, w, end in ends(voice.chart.words, voice.seconds)]
    phones = [(p.start, end, p.label) for _, p, end in ends(voice.chart.phones, voice.seconds)]
    if format == "csv":
        file = io.StringIO(newline="")
        writer = csv.writer(file)
        writer.writerow(("start", "end", "label", "tier"))
        for tier, row in ((WORDS, words), (PHONES, phones)):
            writer.writerows((f"{a:.5f}", f"{b:.5f}", label, tier) for a, b, label in row)
        return file.getvalue().encode()
    tiers = [
        {"class": "IntervalTier", "name": name, "xmin": 0, "xmax": voice.seconds, "entries": _whole(row, voice.seconds)}
        for name, row in ((WORDS, words), (PHONES, phones))
    ]
    grid = {"xmin": 0, "xmax": voice.seconds, "tiers": tiers}
    kind: Any = "long_textgrid" if format == "long" else "short_textgrid"
    return textgrid_io.getTextgridAsStr(grid, kind, True, 0, voice.seconds).encode()


def _whole(row: ChartRow, seconds: float) -> list[Any]:
    from praatio.utilities.constants import Interval

    full = [(a, b, label) for a, b, label in row]
    if not full:
        full = [(0.0, seconds, "")]
    elif full[0][0] > 0:
        full.insert(0, (0.0, full[0][0], ""))
    return [Interval(a, b, label) for a, b, label in full]


def read_chart(data: bytes, name: str, seconds: float) -> Chart:
    """A chart from a TextGrid (long or short) or a CSV file, for a sound that lasts so many seconds.

    Raises `Refusal` if it can't be read, has no sounds, or goes on long after the sound has ended.
    """
    if len(data) > limits.BYTES // 8:
        raise Refusal("The file is too large for a chart.", where=name, remedy="Choose another.", kind="too-large")
    words, phones = _csv(data, name) if name.lower().endswith((".csv", ".txt", ".tsv")) else _grid(data, name)
    if not phones and not words:
        raise Refusal(
            "There are no words or sounds in it.",
            where=name,
            remedy="Choose a TextGrid with a tier called “phones”, or CSV with start, end and label.",
            kind="empty",
        )
    last = max(end for row in (words, phones) for _, end, _ in row)
    if last > seconds + 1.0:
        raise Refusal(
            f"The chart goes on to {last:.2f} s, but the sound ends at {seconds:.2f} s.",
            where=name,
            remedy="Choose the chart of this recording.",
            kind="mismatch",
        )
    return Chart(
        source="file",
        note=f"Read from {name}."[:1000],
        words={
            f"w{n}": Word(start=round(t, 5), text=text[:80])
            for n, (t, text) in enumerate(filled(sorted(words), seconds, 0.002))
            if t < seconds - SHORTEST
        },
        phones={
            f"p{n}": Phone(start=round(t, 5), label=named("phones", text)["label"][:24])
            for n, (t, text) in enumerate(filled(sorted(phones), seconds, 0.002))
            if t < seconds - SHORTEST
        },
    )


def _text(data: bytes) -> str:
    marks = {b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16", b"\xef\xbb\xbf": "utf-8-sig"}
    coding = next((c for mark, c in marks.items() if data.startswith(mark)), "utf-8")
    try:
        return data.decode(coding)
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _grid(data: bytes, name: str) -> tuple[ChartRow, ChartRow]:
    text = _text(data)
    broken = Refusal(
        "This can't be read as a TextGrid.", where=name, remedy="Save it again as a long TextGrid.", kind="damaged"
    )
    if "TextGrid" not in text[:400]:
        raise broken
    try:
        # It also reads a JSON of its own, which is no format that is offered here.
        short = "ooTextFile short" in text or "item [" not in text
        parse = textgrid_io._parseShortTextgrid if short else textgrid_io._parseNormalTextgrid
        tiers = parse(text.replace("\r\n", "\n").replace("\r", "\n"))["tiers"]
        rows = {
            str(t["name"]).strip().lower(): [(float(e[0]), float(e[1]), str(e[2]).strip()) for e in t["entries"]]
            for t in tiers
            if t["class"] == "IntervalTier"
        }
    except Exception as error:
        raise broken from error
    words = next((rows[n] for n in rows if n in _OF_WORDS or n.endswith("words")), [])
    phones = next((rows[n] for n in rows if n in _OF_PHONES or n.endswith(("phones", "phonemes"))), None)
    if phones is None:
        left = [row for n, row in rows.items() if row is not words]
        phones = max(left, key=len, default=[])
    return _checked(words, name), _checked(phones, name)


def _csv(data: bytes, name: str) -> tuple[ChartRow, ChartRow]:
    text = _text(data)
    kind = "\t" if text[:2000].count("\t") > text[:2000].count(",") else ";" if ";" in text[:2000] else ","
    words: ChartRow = []
    phones: ChartRow = []
    for n, row in enumerate(csv.reader(io.StringIO(text), delimiter=kind)):
        if not row or not "".join(row).strip():
            continue
        if n == 0 and not _is_number(row[0]):
            continue
        if len(row) < 3 or not _is_number(row[0]) or not _is_number(row[1]):
            raise Refusal(
                f"Line {n + 1} is not a start, an end and a label.",
                where=name,
                remedy="Write times in seconds, as in 0.25,0.31,AH.",
                kind="damaged",
            )
        entry = (float(row[0]), float(row[1]), row[2].strip())
        (words if len(row) > 3 and row[3].strip().lower() in _OF_WORDS else phones).append(entry)
    return _checked(words, name), _checked(phones, name)


def _is_number(text: str) -> bool:
    try:
        return float(text) == float(text) and abs(float(text)) < 1e6
    except ValueError:
        return False


def _checked(row: ChartRow, name: str) -> ChartRow:
    for a, b, label in row:
        if not 0 <= a <= b < 1e6:
            raise Refusal(
                f"“{label}” would last from {a:g} to {b:g} s.",
                where=name,
                remedy="Correct its times; an end comes after its start, and neither is negative.",
                kind="damaged",
            )
    return row
