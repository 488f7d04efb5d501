"""How one of a piece's drawings becomes another."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import Checked, Id, Pair, Value, filed

WayBetween = Literal["straight", "turn", "swing"]
Lone = Literal["point", "line", "neighbour"]
ShapeNumber = Annotated[int, Field(ge=0, lt=10_000)]


class Mark(Value):
    """A match mark: this place of the first drawing becomes that place of the second, both in units of their
    drawing; each lies on the outline that is nearest to it. For so many percent of the way it `stays` where it is
    in the first, before it goes to where it is in the second."""

    id: Id
    first: Pair
    second: Pair
    stays: Annotated[float, Field(ge=0, le=100)] = 0.0


class Pairing(Value):
    """A shape of the first drawing that becomes one of the second, both by their number from the back; a shape that
    has no partner is alone."""

    first: ShapeNumber | None
    second: ShapeNumber | None


class Morph(Checked):
    """How a drawing becomes another, and back again.

    `way` is how outlines go: `straight`, or as the `turn` of the whole shape with what is left over straight, or as
    a `swing`, turning and length of each part apart. Colours mix in OKLab or in sRGB. What is alone grows from, and
    shrinks to, a `point`, a `line`, or its `neighbour`. Shapes that no one of `pairs` names pair by themselves.
    """

    id: Id
    first: Id
    second: Id
    way: WayBetween = "straight"
    colours: Literal["oklab", "srgb"] = "oklab"
    lone: Lone = "point"
    pairs: Annotated[tuple[Pairing, ...], Field(max_length=400)] = ()
    marks: Annotated[dict[Id, Mark], Field(max_length=200)] = {}

    def check(self) -> None:
        filed("mark", self.marks)
        if self.first == self.second:
            raise ValueError("a drawing can't become itself")
        for side in ("first", "second"):
            named = [p for pair in self.pairs if (p := getattr(pair, side)) is not None]
            if len(set(named)) != len(named):
                raise ValueError("a shape can't become two")
        if any(p.first is None and p.second is None for p in self.pairs):
            raise ValueError("a pair needs a shape")

    def between(self, first: str, second: str) -> bool:
        """Whether it is for these two drawings, whichever comes first."""
        return {first, second} == {self.first, self.second}

    def turned(self) -> Morph:
        """The same the other way round."""
        marks = {id: m.changed(first=m.second, second=m.first) for id, m in self.marks.items()}
        pairs = tuple(Pairing(first=p.second, second=p.first) for p in self.pairs)
        return self.changed(first=self.second, second=self.first, marks=marks, pairs=pairs)
