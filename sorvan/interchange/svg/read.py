"""An SVG drawing as pieces."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import chain as one_after_another
from itertools import groupby
from xml.etree.ElementTree import Element

from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Box, Clip, Layer, Node, Outline, Picture
from sorvan.interchange.imported import MOST, FoundPiece, Imported, Progress, stem, unheard
from sorvan.interchange.svg.cutting import CutPiece, Cutter, ElementPath, OfferedPart, ShownElement
from sorvan.interchange.svg.embedded import Embedded
from sorvan.interchange.svg.fallen import FINE, Fits, LonePictures, as_large
from sorvan.interchange.svg.guard import local, parse
from sorvan.interchange.svg.names import name_of, turning_place
from sorvan.interchange.svg.outline import length, view_box, view_transform
from sorvan.interchange.svg.paint import NeedsPicture
from sorvan.interchange.svg.places import ElementPlaces, Inherited, joined
from sorvan.interchange.svg.shapes import CannotDraw, Shapes, blend_of
from sorvan.interchange.svg.skia_paths import art_of
from sorvan.interchange.svg.style import FIRST, Sheets, number
from sorvan.picture.paint import Painter
from sorvan.picture.rasters import thumbnail


def read_svg(
    data: bytes,
    filename: str,
    loose: bool = False,
    progress: Progress = unheard,
    fits: Fits = as_large,
    chosen: ChosenParts | None = None,
    again: bool = False,
) -> Imported:
    """The pieces of an SVG. Named groups become pieces; groups of named groups stay groups.

    Where nothing is named, the top-level shapes are offered as pieces: with `loose` they are taken, without it the result
    only says what there is. With `chosen`, its parts become pieces and nothing else does; `again`, of a new version, those
    that are still there. `fits` says how large the
    drawing will be on the stage, so that what becomes a picture is as fine as it will be seen. Raises `Refusal` for what
    can't be read.
    """
    notes: list[str] = []
    root = parse(data, filename, notes)
    progress(0.0)
    with _in_words(filename):
        reader = _Reader(root, filename, progress, fits)
        progress(0.0)
        result = reader.result
        result.notes[:0] = notes
        result.loose = not reader.cutter.named and chosen is None
        reader.read(reader.chosen(chosen, again) if chosen is not None else reader.cuts())
    if not result.pieces and not again:
        raise Refusal(
            "The drawing shows nothing.", where=filename, remedy="Check that its layers are visible, and save it again."
        )
    if result.loose and not loose:
        result.notes.insert(
            0,
            f"{filename}: no group has a name. Its {len(result.pieces)} top-level shapes can be brought in as pieces.",
        )
    return result


@contextmanager
def _in_words(filename: str) -> Iterator[None]:
    """Say what else can be wrong with a drawing."""
    try:
        yield
    except RecursionError:
        raise Refusal(
            "The drawing's styles or groups are nested too deeply.",
            where=filename,
            remedy="Save it as plain SVG in the drawing program.",
            kind="too-deep",
        ) from None
    except ValidationError:
        raise Refusal(
            "The drawing has numbers too large to be worked with.",
            where=filename,
            remedy="Scale it to the size of a page in the drawing program, and save it again.",
            kind="damaged",
        ) from None


@dataclass(frozen=True)
class DrawingPart:
    """A part of a drawing as it can be chosen: where it is, what it is called, what it is, whether it is hidden, how many
    shapes are in it, how it looks (a PNG; none where nothing of it shows), and its own parts."""

    path: str
    name: str
    kind: str
    hidden: bool
    shapes: int
    picture: bytes
    parts: list[DrawingPart]


@dataclass(frozen=True)
class DrawingParts:
    """The parts of a drawing, and the pieces that are proposed: each with its name and the paths of its parts."""

    tree: list[DrawingPart]
    pieces: list[tuple[str, list[str]]]
    named: bool


def parts_of(data: bytes, filename: str, progress: Progress = unheard) -> DrawingParts:
    """What a drawing consists of, to be chosen from. Raises `Refusal` for what can't be read."""
    root = parse(data, filename)
    with _in_words(filename):
        reader = _Reader(root, filename, progress, as_large)
        return reader.parts()


@dataclass(frozen=True)
class _Step:
    """A group around a piece: the state that it is entered with, that of what is in it, and the edge it ends at."""

    element: Element
    state: Inherited
    inside: Inherited
    edge: Clip | None = None


class _Reader:
    def __init__(self, root: Element, filename: str, progress: Progress, fits: Fits) -> None:
        self.root, self.filename = root, filename
        width, height = self._frame()
        self.result = Imported(filename, (width, height), vectors=True)
        by_id = {e.get("id", ""): e for e in reversed(list(root.iter())) if e.get("id")}
        self.sheets = Sheets(root)
        box = view_box(root) or (0.0, 0.0, width, height)
        self.places = ElementPlaces(by_id, self.sheets)
        fine = FINE * fits((width, height))
        self.pictures = LonePictures(self.places, (width, height), fine, filename, self.result.keep)
        embedded = Embedded(filename, self.result.keep)
        self.shapes = Shapes(self.places, self.pictures, embedded, filename, self._working)
        self.progress = progress
        self.total, self.done = 1, 0
        self.outside = Inherited(view_transform(root, width, height), FIRST, (box[2], box[3]))
        self.scale = math.sqrt(abs(self.outside.ctm.determinant))
        self.top = self.places.enter(root, self.outside)
        self.shapes.check_count(root)
        self.cutter = Cutter(root, by_id, filename)
        self._steps: dict[ElementPath, tuple[_Step, ...]] = {}

    def _frame(self) -> tuple[float, float]:
        _, _, bw, bh = view_box(self.root) or (0.0, 0.0, 300.0, 150.0)
        width = length(self.root.get("width"), bw)
        height = length(self.root.get("height"), bh)
        # A side that is not given follows from the other by the view box (CSS Images 3, §5.2).
        if not width:
            width = height * bw / bh if height and bh else bw
        height = height or (width * bh / bw if bw else bh)
        if not (0 < width <= 1e5 and 0 < height <= 1e5):
            raise Refusal(
                "The drawing's width, height or view box make no picture.",
                where=self.filename,
                remedy="Set the page size in the drawing program and save it again.",
                kind="damaged",
            )
        return width, height

    def cuts(self) -> list[CutPiece]:
        """What becomes a piece if nobody chooses. More loose shapes than can be pieces become one together."""
        if self.cutter.named:
            return self.cutter.by_name()
        found = self.cutter.as_it_lies(self._box)
        if len(found) <= MOST:
            return found
        self.result.notes.append(
            f"{self.filename}: it falls into {len(found):,} loose shapes, and at most {MOST:,} can be pieces. They are one"
            " piece together; group what belongs together in the drawing program to get more."
        )
        return [CutPiece(stem(self.filename), (), [spot for cut in found for spot in cut.spots])]

    def chosen(self, chosen: ChosenParts, again: bool = False) -> list[CutPiece]:
        """What was chosen to become pieces. Raises `Refusal` for parts that are not there, unless they were chosen `again`."""
        found: list[CutPiece] = []
        for name, paths in chosen:
            # From the back, whatever order they were chosen in.
            wanted = sorted(set(paths), key=_in_order)
            spots = [s for path in wanted if not again or self.cutter.has(path) for s in self.cutter.at(path)]
            if spots:
                groups = self.cutter.groups_of(spots[0].chain)
                found.append(CutPiece(name.strip()[:120] or "piece", groups, spots, tuple(wanted)))
        return found

    def read(self, cuts: list[CutPiece]) -> None:
        """Bring pieces in."""
        self.total, self.done = max(1, len(cuts)), 0
        for cut in cuts:
            self._piece(cut)

    def _around(self, chain: ElementPath) -> tuple[_Step, ...]:
        """The groups around something, from without."""
        if chain not in self._steps:
            self._steps[chain] = self._one_more(chain)
        return self._steps[chain]

    def _one_more(self, chain: ElementPath) -> tuple[_Step, ...]:
        if len(chain) <= 1:
            return (_Step(self.root, self.top, self.top),)
        before, element = self._around(chain[:-1]), chain[-1]
        use = chain[-2] if local(chain[-2]) == "use" else None
        state = self.places.enter(element, before[-1].inside)
        if local(element) == "use":
            return (*before, _Step(element, state, self.places.used_at(element, state)))
        if local(element) in ("svg", "symbol"):
            entered = self.places.into(element, use, state)
            if entered is None:
                return (*before, _Step(element, state, state, NOTHING))
            inside, edge = entered
            over = state.style["overflow"] in ("visible", "auto")
            return (*before, _Step(element, state, inside, None if over else edge))
        return (*before, _Step(element, state, state))

    def _box(self, spot: ShownElement) -> Box | None:
        self._working()
        return joined(self.places.boxes(spot.element, self._around(spot.chain)[-1].inside))

    def _hidden(self, spot: ShownElement) -> bool:
        steps = self._around(spot.chain)
        own = self.sheets.style(spot.element, steps[-1].inside.style)
        return own["display"] == "none" or any(step.state.style["display"] == "none" for step in steps)

    def _piece(self, cut: CutPiece) -> None:
        hidden = all(map(self._hidden, cut.spots))
        # What is hidden in the file comes in all the same: alternates of mouths and hands are often kept so.
        self.shapes.shown = {spot.element for spot in cut.spots} if hidden else set()
        nodes: list[Node] = []
        for chain, spots in groupby(cut.spots, key=lambda spot: spot.chain):
            nodes.extend(self._nodes([spot.element for spot in spots], self._around(chain)))
        art = art_of(nodes)
        pictures, self.shapes.fallen = list(dict.fromkeys(self.shapes.fallen)), []
        plain, self.shapes.plain = list(dict.fromkeys(self.shapes.plain)), []
        name = cut.name
        if art is None:
            self.result.notes.append(f"{name}: left out, because nothing of it shows.")
        else:
            if pictures:
                whole = all(isinstance(node, Picture) for node in _leaves(art.nodes))
                became = "became a picture" if whole else "became a picture in part"
                self.result.notes.append(f"{name}: {became}, because it has {_and(pictures)}.")
            if plain:
                self.result.notes.append(f"{name}: shown without {_and(plain)}, which can't be drawn.")
            if hidden:
                self.result.notes.append(f"{name}: hidden in the file, and brought in hidden.")
            pivot = turning_place(cut.spots[0].element, art.bounds, self.scale) if len(cut.spots) == 1 else None
            self.result.pieces.append(FoundPiece(name, cut.groups, art, hidden=hidden, pivot=pivot, parts=cut.paths))
        self.done += 1
        self._working()

    def _working(self) -> None:
        self.progress(min(1.0, self.done / self.total))

    def _nodes(self, elements: list[Element], steps: tuple[_Step, ...]) -> list[Node]:
        """The nodes of a piece, under all that the groups around it do."""
        for n, step in enumerate(steps):
            try:
                if step.state.style["filter"] != "none":
                    raise NeedsPicture("a filter")
                self.shapes.clips.of(step.element, step.state)
            except NeedsPicture as reason:
                # From the outermost group on that can't be kept, all is drawn.
                within = steps[n - 1].inside if n else self.outside
                what = f"{reason} on the group “{name_of(step.element) or 'without a name'}” it is in"
                try:
                    if any(local(s.element) in ("svg", "symbol", "use") for s in steps[max(n, 1) :]):
                        raise CannotDraw from None
                    nodes = self.pictures.draw(elements, within, [s.element for s in steps[n:]])
                    self.shapes.fallen.extend([what] if nodes else [])
                    return self._within(nodes, steps[:n])
                except CannotDraw:
                    self.shapes.plain.append(what)
                    nodes = self.shapes.all(elements, steps[-1].inside)
                    with self.shapes.plainly():
                        return self._within(nodes, steps)
        return self._within(self.shapes.all(elements, steps[-1].inside), steps)

    def _within(self, nodes: list[Node], steps: tuple[_Step, ...]) -> list[Node]:
        """Fade, blend and clip a piece as the groups around it do."""
        for step in reversed(steps):
            if step.edge is not None and nodes:
                nodes = [Layer(clips=(step.edge,), nodes=tuple(nodes))]
            for what, given in (
                ("opacity", number(step.state.style["opacity"]) < 1),
                ("blend mode", blend_of(step.state.style) != "normal"),
            ):
                if given and nodes:
                    note = f"{name_of(step.element) or 'a group'}: its {what} was given to each of its pieces."
                    self.result.notes.extend([] if note in self.result.notes else [note])
            nodes = self.shapes.wrapped(nodes, step.element, step.state)
        return nodes

    def parts(self) -> DrawingParts:
        """The drawing's parts with their looks, and what of them is proposed."""
        paths: dict[tuple[ElementPath, Element], str] = {}
        branches = self.cutter.tree()
        waiting = list(branches)
        while waiting:
            branch = waiting.pop()
            paths |= {(spot.chain, spot.element): branch.path for spot in branch.spots}
            waiting.extend(branch.children)
        self.total, self.done = max(1, len(set(paths.values()))), 0
        painter = Painter(lambda id: self.result.assets[id][1])
        tree = [part for branch in branches if (part := self._part(branch, painter)) is not None]
        seen = set(_paths(tree))
        pieces: list[tuple[str, list[str]]] = []
        cuts = self.cutter.by_name() if self.cutter.named else []
        if not cuts or (len(cuts) == 1 and cuts[0].groups == ()):
            # A group round all of it is opened by itself.
            cuts = self.cutter.as_it_lies(self._box)
        self._working()
        for cut in cuts:
            found = dict.fromkeys(p for s in cut.spots if (p := paths.get((s.chain, s.element))) in seen and p)
            # What is left of a group goes with the first that has to do with it.
            seen -= {path for path in found if path.endswith("+")}
            if found:
                pieces.append(("the rest" if all(p.endswith("+") for p in found) else cut.name, list(found)))
        return DrawingParts(tree, pieces, self.cutter.named)

    def _part(self, branch: OfferedPart, painter: Painter) -> DrawingPart | None:
        """A part with its looks; None for one that shows nothing."""
        self.done += 1
        self._working()
        spots = branch.spots
        self.shapes.shown = {spot.element for spot in spots}
        # Small as it is, it is seen well enough without what takes long.
        with self.shapes.plainly():
            art = art_of(self.shapes.all([s.element for s in spots], self._around(spots[0].chain)[-1].inside))
        self.shapes.fallen, self.shapes.plain = [], []
        self._working()
        if art is None and not any(local(e) == "text" for spot in spots for e in spot.element.iter()):
            return None
        seen = b"" if art is None else thumbnail(painter, art, SEEN)
        self._working()
        return DrawingPart(
            branch.path,
            branch.name,
            branch.kind,
            all(map(self._hidden, spots)),
            branch.shapes,
            seen,
            [part for child in branch.children if (part := self._part(child, painter)) is not None],
        )


SEEN = 64
"""Pixels of the longer side of a part's picture."""
NOTHING = Clip(outline=Outline(verbs="", points=()))
ChosenParts = Sequence[tuple[str, Sequence[str]]]
"""Pieces by name, each with the paths of its parts."""


def _paths(tree: list[DrawingPart]) -> Iterator[str]:
    for part in tree:
        yield part.path
        yield from _paths(part.parts)


def _in_order(path: str) -> list[int]:
    steps = (step.removesuffix("+") for step in path.split("/"))
    return [int(step) if step.isdecimal() and step.isascii() else -1 for step in steps]


def _leaves(nodes: tuple[Node, ...]) -> Iterator[Node]:
    return one_after_another.from_iterable(
        _leaves(node.nodes) if isinstance(node, Layer) else (node,) for node in nodes
    )


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
