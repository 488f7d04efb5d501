"""A drawing made ready to bend: points added where it will, pictures laid on triangles."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from sorvan.core.deform.mesh import TriangleMesh
from sorvan.core.geometry import IDENTITY, Affine, Floats, inverse_block, moved
from sorvan.core.model.art import Art, Clip, Layer, Linear, Mesh, Node, Outline, Picture, Radial, Shade, Shape

MOST_PARTS = 16
"""Parts that one segment is cut into at most."""
LOOKS = 33
Cuts = Callable[[Floats], Iterable[Floats]]
"""Where along each of some curves, given as points `(curves, 33, 2)`, it is to be cut: rising numbers within 0…1."""
_U = np.linspace(0, 1, LOOKS)[:, None]


def evenly(change: Floats, step: float) -> Floats:
    """Cuts so that something that changes by `change` `(32,)` along a curve changes by no more than
    `step` from one to the next."""
    total = float(change.sum())
    count = min(MOST_PARTS, int(np.ceil(total / step)))
    if count < 2:
        return np.zeros(0)
    # A trace of the way itself keeps cuts apart where nothing changes.
    so_far = np.concatenate([[0.0], np.cumsum(change + 0.02 * total / len(change))])
    found: Floats = np.interp(np.arange(1, count) / count * so_far[-1], so_far, _U[:, 0])
    return found


@dataclass(frozen=True)
class Skin:
    """Art whose every point may move. `points` `(n, 2)` are all of them, in the order in which
    the painters meet them: outlines and clips of each node, then what lies in it."""

    art: Art
    points: Floats


def skin_of(art: Art, mesh: TriangleMesh, cuts: Cuts) -> Skin:
    """The drawing as a skin: segments become short curves, pictures take on the mesh."""
    taken: list[Floats] = []
    nodes = tuple(_node(n, IDENTITY, mesh, cuts, taken) for n in art.nodes)
    points = np.concatenate(taken) if taken else np.zeros((0, 2))
    return Skin(art.changed(nodes=nodes), points)


def _node(node: Node, m: Affine, mesh: TriangleMesh, cuts: Cuts, taken: list[Floats]) -> Node:
    if isinstance(node, Shape):
        outline = _outline(node.outline, m, cuts, taken)
        shade = _shade(mesh, taken) if isinstance(node.fill, Linear | Radial) else None
        scale = abs(m[0] * m[3] - m[1] * m[2]) ** 0.5
        stroke = node.stroke
        if stroke is not None and m != IDENTITY:
            paint = _under(stroke.paint, m)
            dash = tuple(d * scale for d in stroke.dash)
            stroke = stroke.changed(width=stroke.width * scale, paint=paint, dash=dash)
        fill = _under(node.fill, m) if node.fill else None
        return node.changed(outline=outline, stroke=stroke, fill=fill, **({"shade": shade} if shade else {}))
    if isinstance(node, Picture):
        # The mesh lies in drawing units: seen from the picture's own space where a layer turns it.
        taken.append(mesh.vertices)
        flat = mesh.vertices if m == IDENTITY else moved(mesh.vertices, _inverse(m))
        return Mesh(
            asset=node.asset,
            box=node.box,
            points=tuple(np.round(flat, 4).ravel().tolist()),
            triangles=tuple(mesh.triangles.ravel().tolist()),
        )
    if isinstance(node, Mesh):
        return node
    assert isinstance(node, Layer)
    inner = m @ node.matrix
    clips = tuple(Clip(outline=_outline(c.outline, inner, cuts, taken), rule=c.rule) for c in node.clips)
    nodes = tuple(_node(n, inner, mesh, cuts, taken) for n in node.nodes)
    return node.changed(matrix=IDENTITY, clips=clips, nodes=nodes)


def _shade(mesh: TriangleMesh, taken: list[Floats]) -> Shade | None:
    """The part of the mesh that a shape of which the points were just taken lies on, its vertices taken too."""
    if not len(taken[-1]):
        return None
    (left, top), (right, bottom) = taken[-1].min(axis=0), taken[-1].max(axis=0)
    triangles = mesh.triangles[mesh.touching((left, top, right, bottom))]
    if not len(triangles):
        return None
    used, rows = np.unique(triangles, return_inverse=True)
    taken.append(mesh.vertices[used])
    return Shade(
        points=tuple(np.round(mesh.vertices[used], 4).ravel().tolist()), triangles=tuple(rows.ravel().tolist())
    )


def _inverse(m: Affine) -> Affine:
    return Affine(*inverse_block(np.array(m)[:, None])[:, 0].tolist())


def _under(paint: object, m: Affine) -> object:
    """A gradient under a transform that is now in the outline."""
    matrix = getattr(paint, "matrix", None)
    return paint if matrix is None or m == IDENTITY else paint.changed(matrix=m @ matrix)  # type: ignore[attr-defined]


def _outline(outline: Outline, m: Affine, cuts: Cuts, taken: list[Floats]) -> Outline:
    p = moved(np.array(outline.points, dtype=np.float64).reshape(-1, 2), m)
    # What is met in turn: the points that a contour begins with, and the curves of which it consists.
    met: list[tuple[str, Floats]] = []
    here, start = p[:1], p[:1]
    for verb, own in outline.segments():
        if verb == "M":
            here = start = p[own]
            met.append(("M", here))
        elif verb == "L":
            met.append(("C", _line(here, p[own])))
            here = p[own]
        elif verb == "Q":
            a, (b, c) = here[0], p[own]
            met.append(("C", np.array([a, a + (b - a) * 2 / 3, c + (b - c) * 2 / 3, c])))
            here = p[own][-1:]
        elif verb == "C":
            met.append(("C", np.concatenate([here, p[own]])))
            here = p[own][-1:]
        else:
            if np.abs(here - start).max() > 1e-9:
                met.append(("C", _line(here, start)))
            here = start
            met.append(("Z", p[:0]))
    curves = np.array([control for verb, control in met if verb == "C"]).reshape(-1, 4, 2)
    places = iter(cuts(_along(curves)) if len(curves) else ())
    verbs: list[str] = []
    points: list[Floats] = []
    for verb, found in met:
        cut = _cut(found, next(places)) if verb == "C" else found
        verbs.extend("C" * (len(cut) // 3) if verb == "C" else verb)
        points.append(cut)
    flat = np.concatenate(points) if points else np.zeros((0, 2))
    taken.append(flat)
    return Outline(verbs="".join(verbs), points=tuple(np.round(flat, 4).ravel().tolist()))


def _along(curves: Floats) -> Floats:
    """Points along cubics `(curves, 4, 2)`, `(curves, 33, 2)`."""
    u, a, b, c, d = 1 - _U, *(curves[:, k, None, :] for k in range(4))
    found: Floats = u**3 * a + 3 * u**2 * _U * b + 3 * u * _U**2 * c + _U**3 * d
    return found


def _line(a: Floats, b: Floats) -> Floats:
    return np.concatenate([a, a + (b - a) / 3, b + (a - b) / 3, b])


def _cut(control: Floats, places: Floats) -> Floats:
    """A cubic as so many parts that draw the same curve, without its first point (de Casteljau)."""
    found: list[Floats] = []
    rest, done = control, 0.0
    for place in places:
        t = (float(place) - done) / (1 - done)
        done = float(place)
        a, b, c = (rest[k] + (rest[k + 1] - rest[k]) * t for k in range(3))
        d, e = a + (b - a) * t, b + (c - b) * t
        f = d + (e - d) * t
        found += [a, d, f]
        rest = np.array([f, e, c, rest[3]])
    return np.array([*found, *rest[1:]])
