"""The letters that ask how a drawing becomes another, and tell it."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from sorvan.core.model.art import Box
from sorvan.core.model.base import Ratio, Value
from sorvan.core.model.puppet import Mark, Morph
from sorvan.core.morph.trouble import TroubleKind
from sorvan.service.letters.drawn import Letter


class LookAtMorph(Value):
    """Look at how one of a piece's drawings becomes another, at these parts of the way, from 0 to 1; as it is, or with
    other marks or in another way, if these are `tried`. If asked, what goes wrong is measured, and marks that would
    mend it are proposed. Of several that wait, only the newest counts."""

    type: Literal["look-at-morph"] = "look-at-morph"
    n: int
    piece: str
    first: str
    second: str
    tried: Morph | None = None
    parts: Annotated[tuple[Ratio, ...], Field(min_length=1, max_length=97)]
    measure: bool = False
    advise: bool = False


class GoingView(Value):
    """A shape on its way: its number in the first drawing and in the second (none: it is alone), which of the points
    are its contours', and whether these are closed."""

    first: int | None
    second: int | None
    contours: tuple[tuple[int, int], ...]
    closed: tuple[bool, ...]
    name: str = ""


class MetView(Value):
    """Where a mark really lies in both drawings, seen from their pivots."""

    id: str
    first: tuple[float, float]
    second: tuple[float, float]


class TroubleView(Value):
    """Something that goes wrong with one of what is `going`: by how much at each part of the way (float32, 0 to 1), at
    which of them it is worst, and where it is seen there, seen from the pivots."""

    kind: TroubleKind
    going: int
    amounts: bytes
    worst: int
    at: tuple[float, float]


class AdviceView(Value):
    """A mark that would mend something: the trouble there is without it and with it."""

    mark: Mark
    before: float
    after: float


class MorphLetter(Letter):
    """How a drawing becomes another, the answer to question `n`. Everything is seen from the drawings' pivots.

    `art` is what is drawn with points and looks put in; `ends` are the points in the first drawing, then in the second
    (points × x y); `points` and `looks` those at the so many `parts` that were
    asked for. `shapes` is how many shapes either
    drawing has, `crossed` are marks that can't be kept.
    """

    type: Literal["morph"] = "morph"
    n: int
    piece: str
    first: str
    second: str
    art: str
    box: Box
    count: int
    ends: bytes
    parts: int
    points: bytes
    looks: bytes
    going: tuple[GoingView, ...]
    met: tuple[MetView, ...]
    crossed: tuple[str, ...]
    shapes: tuple[int, int]
    troubles: tuple[TroubleView, ...] = ()
    advice: tuple[AdviceView, ...] = ()
    measured: bool = False

    def wire(self) -> dict[str, Any]:
        return self.model_dump()
