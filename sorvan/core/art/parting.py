"""Drawings taken apart, and put together."""

from __future__ import annotations

from collections.abc import Sequence

from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.model.art import Art, Box, Layer, Node


def parts_of(art: Art) -> list[Node]:
    """What a drawing consists of, from the back; what lies round all of it lies round each."""
    around, nodes = opened(art)
    return [wrapped(around, [node]) for node in nodes]


def opened(art: Art) -> tuple[list[Layer], Sequence[Node]]:
    """The layers that lie round all of a drawing, the outermost first, and what lies in them."""
    around: list[Layer] = []
    nodes = art.nodes
    while len(nodes) == 1 and isinstance(nodes[0], Layer):
        around.append(nodes[0])
        nodes = nodes[0].nodes
    return around, nodes


def wrapped(around: Sequence[Layer], nodes: Sequence[Node]) -> Node:
    """Nodes with these layers round them together. Of no layers, only one node can be given."""
    whole = tuple(nodes)
    for layer in reversed(around):
        whole = (layer.changed(nodes=whole),)
    (found,) = whole
    return found


def together(parts: Sequence[tuple[Art, Affine, float]]) -> Art:
    """One drawing of several, from the back: each with what takes it to the units of the new one, and how opaque it
    is."""
    nodes: list[Node] = []
    boxes: list[Box] = []
    for art, m, opacity in parts:
        l, t, r, b = art.bounds
        corners = [m.place(corner) for corner in ((l, t), (r, t), (r, b), (l, b))]
        xs, ys = zip(*corners, strict=True)
        boxes.append((min(xs), min(ys), max(xs), max(ys)))
        if opacity == 1 and all(abs(a - b) < 1e-9 for a, b in zip(m, IDENTITY, strict=True)):
            nodes.extend(art.nodes)
        else:
            nodes.append(Layer(matrix=m, opacity=opacity, nodes=art.nodes))
    left, top, right, bottom = (f(box[i] for box in boxes) for i, f in enumerate((min, min, max, max)))
    return Art(bounds=(left, top, right, bottom), nodes=tuple(nodes))
