"""Sheets on paper, as PDF: the exposure sheet of a motion, and contact sheets of shots."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import skia

from sorvan.core.voice.sheet import ON, ExposureLine
from sorvan.picture.paint import Pixels

WIDE, HIGH = 595, 842
"""A page of A4 in points (ISO 216)."""
MARGIN, TOP, ROW = 36, 70, 14.2
COLUMNS: tuple[tuple[str, float], ...] = (
    ("frame", 38), ("time", 52), ("words", 108), ("sounds", 78), ("mouth", 84), ("pose", 70), ("notes", 93),
)  # fmt: skip
ROWS = int((HIGH - TOP - MARGIN - 14) / ROW)
"""Frames on a page."""
INK, PALE, RULE = 0xFF24344D, 0xFF8A94A3, 0xFFC9C2B2


def exposure_pdf(title: str, lines: Sequence[ExposureLine], rate: Fraction) -> bytes:
    """An exposure sheet as PDF, some fifty frames a page; a stronger rule after every second of frames."""
    pages = [lines[n : n + ROWS] for n in range(0, len(lines), ROWS)] or [()]
    with _document() as (document, done):
        for number, page in enumerate(pages):
            canvas = document.beginPage(WIDE, HIGH)
            _page(canvas, title, page, rate, f"{number + 1} of {len(pages)}")
            document.endPage()
    return done()


@contextlib.contextmanager
def _document() -> Iterator[tuple[skia.Document, Callable[[], bytes]]]:
    """A document to draw pages into, and what gives its bytes once it is whole. One that is given up half way is let go
    before its stream: what is left open goes on writing to where there is nothing any more."""
    stream = skia.DynamicMemoryWStream()
    document = skia.PDF.MakeDocument(stream)
    try:
        yield document, lambda: bytes(stream.detachAsData())
    except BaseException:
        document.abort()
        raise
    document.close()


def _font(size: float, bold: bool = False) -> skia.Font:
    style = skia.FontStyle.Bold() if bold else skia.FontStyle.Normal()
    return skia.Font(skia.Typeface("DejaVu Sans", style), size)


def _text(canvas: skia.Canvas, text: str, x: float, y: float, font: skia.Font, colour: int, room: float) -> None:
    while text and font.measureText(text) > room:
        text = text[:-2] + "…" if len(text) > 2 else ""
    canvas.drawString(text, x, y, font, skia.Paint(Color=colour, AntiAlias=True))


def _page(canvas: skia.Canvas, title: str, lines: Sequence[ExposureLine], rate: Fraction, number: str) -> None:
    head, small, plain = _font(13, True), _font(7.5), _font(8.5)
    _text(canvas, title, MARGIN, 40, head, INK, WIDE - 2 * MARGIN - 120)
    told = f"{float(rate):.6g} frames a second · page {number}"
    _text(canvas, told, WIDE - MARGIN - small.measureText(told), 40, small, PALE, 200)
    x = float(MARGIN)
    for name, wide in COLUMNS:
        _text(canvas, name, x + 3, TOP - 6, small, PALE, wide - 4)
        x += wide
    rule = skia.Paint(Color=RULE, StrokeWidth=0.5)
    strong = skia.Paint(Color=INK, StrokeWidth=0.8)
    second = max(round(float(rate)), 1)
    for n, line in enumerate(lines):
        y = TOP + n * ROW
        canvas.drawLine(MARGIN, y, WIDE - MARGIN, y, strong if line.frame % second == 0 else rule)
        cells = (
            str(line.frame + 1), f"{line.frame / float(rate):.2f} s", line.word, line.phones, line.mouth, line.pose,
            line.note,
        )  # fmt: skip
        x = float(MARGIN)
        for cell, (_, wide) in zip(cells, COLUMNS, strict=True):
            if cell == ON:
                canvas.drawLine(x + 8, y + 2, x + 8, y + ROW - 2, rule)
            else:
                _text(canvas, cell, x + 3, y + ROW - 4, plain, INK, wide - 5)
            x += wide
    bottom = TOP + len(lines) * ROW
    x = float(MARGIN)
    for _, wide in (*COLUMNS, ("", 0)):
        canvas.drawLine(x, TOP - 16, x, bottom, rule)
        x += wide
    canvas.drawLine(MARGIN, bottom, WIDE - MARGIN, bottom, strong)


ACROSS, GAP = 3, 12
"""Pictures in a row of a contact sheet, and the points between them."""


@dataclass(frozen=True)
class Sight:
    """A picture of a contact sheet: its pixels, and what is said under it."""

    pixels: Pixels
    text: str


def contact_pdf(title: str, sights: Iterable[Sight]) -> bytes:
    """A contact sheet as PDF, three pictures in a row."""
    with _document() as (document, done):
        _contacts(document, title, sights)
    return done()


def _contacts(document: skia.Document, title: str, sights: Iterable[Sight]) -> None:
    wide = (WIDE - 2 * MARGIN - (ACROSS - 1) * GAP) / ACROSS
    head, small = _font(13, True), _font(8)
    paint = skia.Paint(AntiAlias=True)
    canvas, x, y, page = None, 0, 0.0, 0
    for sight in sights:
        high = wide * sight.pixels.shape[0] / sight.pixels.shape[1]
        if canvas is None or (x == 0 and y + high + 16 > HIGH - MARGIN):
            if canvas is not None:
                document.endPage()
            page += 1
            canvas, x, y = document.beginPage(WIDE, HIGH), 0, float(TOP - 14)
            _text(canvas, title, MARGIN, 40, head, INK, WIDE - 2 * MARGIN - 60)
            told = f"page {page}"
            _text(canvas, told, WIDE - MARGIN - small.measureText(told), 40, small, PALE, 60)
        left = MARGIN + x * (wide + GAP)
        image = skia.Image.fromarray(np.ascontiguousarray(sight.pixels), colorType=skia.kRGBA_8888_ColorType)
        canvas.drawImageRect(
            image, skia.Rect.MakeXYWH(left, y, wide, high), skia.SamplingOptions(skia.FilterMode.kLinear), paint
        )
        canvas.drawRect(
            skia.Rect.MakeXYWH(left, y, wide, high),
            skia.Paint(Color=RULE, Style=skia.Paint.kStroke_Style, StrokeWidth=0.5),
        )
        _text(canvas, sight.text, left, y + high + 10, small, INK, wide)
        x += 1
        if x == ACROSS:
            x, y = 0, y + high + 20
    if canvas is None:
        canvas = document.beginPage(WIDE, HIGH)
        _text(canvas, title, MARGIN, 40, head, INK, WIDE - 2 * MARGIN)
    document.endPage()
