"""An SVG drawing as pieces."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain as one_after_another
from xml.etree.ElementTree import Element

from pydantic import ValidationError

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Layer, Node, Picture
from sorvan.interchange.imported import Found, Imported, Progress, unheard
from sorvan.interchange.svg.embedded import Embedded
from sorvan.interchange.svg.fallen import FINE, Fits, Pictures, as_large
from sorvan.interchange.svg.guard import local, parse
from sorvan.interchange.svg.names import name_of
from sorvan.interchange.svg.outline import length, view_box, view_transform
from sorvan.interchange.svg.paint import NeedsPicture
from sorvan.interchange.svg.places import CONTAINERS, SHAPES, UNSEEN, Inherited, Places
from sorvan.interchange.svg.shapes import CannotDraw, Shapes, blend_of
from sorvan.interchange.svg.skia_paths import art_of
from sorvan.interchange.svg.style import FIRST, Sheets, number


def read_svg(
    data: bytes, filename: str, loose: bool = False, progress: Progress = unheard, fits: Fits = as_large
) -> Imported:
    """The pieces of an SVG. Named groups become pieces; groups of named groups stay groups.

    Where nothing is named, the top-level shapes are offered as pieces: with `loose` they are
    taken, without it the result only says what there is. `fits` says how large the drawing will be on the stage, so
    that what becomes a picture is as fine as it will be seen. Raises `Refusal` for what can't be read.
    """
    notes: list[str] = []
    root = parse(data, filename, notes)
    named = any(_is_named_group(e) for e in root.iter())
    try:
        reader = _Reader(root, filename, progress, fits)
        result = reader.result
        result.notes[:0] = notes
        result.loose = not named
        reader.read_named() if named else reader.read_loose()
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
    if not result.pieces:
        raise Refusal(
            "The drawing shows nothing.", where=filename, remedy="Check that its layers are visible, and save it again."
        )
    if result.loose and not loose:
        result.notes.insert(
            0,
            f"{filename}: no group has a name. Its {len(result.pieces)} top-level shapes can be brought in as pieces.",
        )
    return result


def _is_named_group(element: Element) -> bool:
    return local(element) == "g" and bool(name_of(element))


def _has_named_inside(element: Element) -> bool:
    return any(e is not element and _is_named_group(e) for e in element.iter())


def _drawn(element: Element) -> Iterator[Element]:
    return (child for child in element if local(child) not in UNSEEN)


class _Reader:
    def __init__(self, root: Element, filename: str, progress: Progress, fits: Fits) -> None:
        self.root, self.filename = root, filename
        width, height = self._frame()
        self.result = Imported(filename, (width, height), vectors=True)
        by_id = {e.get("id", ""): e for e in reversed(list(root.iter())) if e.get("id")}
        self.sheets = Sheets(root)
        box = view_box(root) or (0.0, 0.0, width, height)
        self.places = Places(by_id, self.sheets)
        fine = FINE * fits((width, height))
        self.pictures = Pictures(self.places, root, (width, height), fine, filename, self.result.keep)
        embedded = Embedded(filename, self.result.keep)
        self.shapes = Shapes(self.places, self.pictures, embedded, filename, self._working)
        self.progress = progress
        self.total = max(1, sum(map(_is_named_group, root.iter())))
        self.outside = Inherited(view_transform(root, width, height), FIRST, (box[2], box[3]))
        self.top = self.places.enter(root, self.outside)
        self.shapes.check_count(root)

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

    def read_named(self) -> None:
        self._container(self.root, self.top, (), [self.root])

    def read_loose(self) -> None:
        holder, state, chain = self.root, self.top, [self.root]
        while len(inner := list(_drawn(holder))) == 1 and local(inner[0]) in ("g", "a"):
            holder = inner[0]
            state = self.places.enter(holder, state)
            chain.append(holder)
        for count, child in enumerate(_drawn(holder), 1):
            name = (
                name_of(child)
                or f"{local(child).replace('g', 'group') if local(child) == 'g' else local(child)} {count}"
            )
            self._piece(name, (), [child], state, chain)

    def _container(self, holder: Element, inside: Inherited, path: tuple[str, ...], chain: list[Element]) -> None:
        """Walk a group that holds named groups: those become pieces, and so do the shapes between them."""
        between: list[Element] = []

        def flush() -> None:
            if between:
                self._piece(path[-1] if path else "loose shapes", path, list(between), inside, chain)
                between.clear()

        for child in _drawn(holder):
            kind, name = local(child), name_of(child)
            if kind in ("g", "a") and _has_named_inside(child):
                flush()
                style = self.sheets.style(child, inside.style)
                if style["display"] != "none":
                    deeper = self.places.enter(child, inside)
                    self._container(child, deeper, (*path, name) if name else path, [*chain, child])
            elif name and (kind in CONTAINERS or kind in SHAPES or kind in ("use", "image", "text")):
                flush()
                self._piece(name, path, [child], inside, chain)
            else:
                between.append(child)
        flush()

    def _piece(
        self, name: str, path: tuple[str, ...], elements: list[Element], state: Inherited, chain: list[Element]
    ) -> None:
        hidden = all(self.sheets.style(e, state.style)["display"] == "none" for e in elements)
        art = art_of(self._nodes(elements, state, chain))
        pictures, self.shapes.fallen = list(dict.fromkeys(self.shapes.fallen)), []
        plain, self.shapes.plain = list(dict.fromkeys(self.shapes.plain)), []
        if art is None:
            why = "it is hidden in the file" if hidden else "nothing of it shows"
            self.result.notes.append(f"{name}: left out, because {why}.")
        else:
            if pictures:
                whole = all(isinstance(node, Picture) for node in _leaves(art.nodes))
                became = "became a picture" if whole else "became a picture in part"
                self.result.notes.append(f"{name}: {became}, because it has {_and(pictures)}.")
            if plain:
                self.result.notes.append(f"{name}: shown without {_and(plain)}, which can't be drawn.")
            self.result.pieces.append(Found(name, path, art))
        self._working()

    def _nodes(self, elements: list[Element], state: Inherited, chain: list[Element]) -> list[Node]:
        """The nodes of a piece, under all that the groups around it do."""
        states = [self.top]
        for element in chain[1:]:
            states.append(self.places.enter(element, states[-1]))
        drawn_from = len(chain)
        try:
            for n, (element, inside) in enumerate(zip(chain, states, strict=True)):
                drawn_from = n
                if inside.style["filter"] != "none":
                    raise NeedsPicture("a filter")
                self.shapes.clips.of(element, inside)
            drawn_from = len(chain)
        except NeedsPicture as reason:
            # From the outermost group on that can't be kept, all is drawn.
            within = states[drawn_from - 1] if drawn_from else self.outside
            what = f"{reason} on the group “{name_of(chain[drawn_from]) or 'without a name'}” it is in"
            try:
                nodes = self.pictures.draw(elements, within, chain[drawn_from:])
                self.shapes.fallen.extend([what] if nodes else [])
                return self._within_chain(nodes, chain[:drawn_from], states[:drawn_from])
            except CannotDraw:
                self.shapes.plain.append(what)
                return self.shapes.all(elements, state)
        return self._within_chain(self.shapes.all(elements, state), chain, states)

    def _working(self) -> None:
        self.progress(min(1.0, len(self.result.pieces) / self.total))

    def _within_chain(self, nodes: list[Node], chain: list[Element], states: list[Inherited]) -> list[Node]:
        """Fade, blend and clip a piece as the groups around it do."""
        for element, inside in reversed(list(zip(chain, states, strict=True))):
            for what, given in (
                ("opacity", number(inside.style["opacity"]) < 1),
                ("blend mode", blend_of(inside.style) != "normal"),
            ):
                if given and nodes:
                    note = f"{name_of(element) or 'a group'}: its {what} was given to each of its pieces."
                    self.result.notes.extend([] if note in self.result.notes else [note])
            nodes = self.shapes.wrapped(nodes, element, inside)
        return nodes


def _leaves(nodes: tuple[Node, ...]) -> Iterator[Node]:
    return one_after_another.from_iterable(
        _leaves(node.nodes) if isinstance(node, Layer) else (node,) for node in nodes
    )


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
