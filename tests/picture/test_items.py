"""Masks, fading, bent drawings and meshes on the painter, counted in pixels."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from numpy.typing import NDArray

from sorvan.core.deform.mesh import mesh_over
from sorvan.core.deform.skin import skin_of
from sorvan.core.model.art import Art, Flat, Linear, Mesh, Outline, Picture, Shape, Stop
from sorvan.core.model.puppet import Correction
from sorvan.core.plan.plan import Item
from sorvan.picture.images import png_of
from sorvan.picture.paint import Painter, Surface
from sorvan.picture.studio import Studio
from tests.plans import still

SIDE = 60
FULL = (0.0, 0.0, 60.0, 60.0)


def box(left: float, top: float, right: float, bottom: float, colour: str = "#ff0000ff") -> Art:
    outline = Outline(verbs="MLLLZ", points=(left, top, right, top, right, bottom, left, bottom))
    return Art(bounds=(left, top, right, bottom), nodes=(Shape(outline=outline, fill=Flat(colour=colour)),))


def painted(
    arts: list[Art], items: list[dict[str, Any]], points: dict[tuple[int, int], Any] | None = None
) -> NDArray[np.uint8]:
    """Items by the number of their art, on a clear surface of 60 by 60 pixels."""
    kept = {str(i): a.model_dump_json().encode() for i, a in enumerate(arts)}
    made = tuple(
        Item("p", str(i), (str(item.pop("art")),), (FULL,), **item) for i, item in enumerate(dict(it) for it in items)
    )
    found = {k: np.asarray(v, dtype=np.float64)[:, :, None] for k, v in (points or {}).items()}
    return Surface(SIDE, SIDE).draw(Painter(lambda id: kept[id]), still((SIDE, SIDE), made, found), 0, clear=True)


def count(pixels: NDArray[np.uint8], colour: tuple[int, int, int]) -> int:
    return int(((pixels[:, :, :3] == colour).all(axis=2) & (pixels[:, :, 3] == 255)).sum())


FACE, EYE, PUPIL = box(0, 0, 40, 40, "#00ff00ff"), box(10, 10, 30, 20, "#ffffffff"), box(20, 0, 50, 15, "#0000ffff")


def test_a_mask_shows_only_what_lies_inside_or_only_what_lies_outside() -> None:
    arts = [EYE, PUPIL]
    inside = painted(arts, [{"art": 0}, {"art": 1, "masks": ((0, True),)}])
    assert count(inside, (0, 0, 255)) == 10 * 5 and count(inside, (255, 255, 255)) == 20 * 10 - 10 * 5
    outside = painted(arts, [{"art": 0}, {"art": 1, "masks": ((0, False),)}])
    assert count(outside, (0, 0, 255)) == 30 * 15 - 10 * 5
    # A hidden piece masks all the same.
    hidden = painted(arts, [{"art": 0, "hidden": True}, {"art": 1, "masks": ((0, True),)}])
    assert count(hidden, (0, 0, 255)) == 10 * 5 and (hidden[:, :, 3] > 0).sum() == 10 * 5


def test_masks_nest_and_several_hold_together() -> None:
    half = box(0, 0, 60, 12, "#000000ff")
    nested = painted([half, EYE, PUPIL], [
        {"art": 0, "hidden": True}, {"art": 1, "masks": ((0, True),)}, {"art": 2, "masks": ((1, True),)},
    ])  # fmt: skip
    assert count(nested, (0, 0, 255)) == 10 * 2 and count(nested, (255, 255, 255)) == 20 * 2 - 10 * 2
    both = painted(
        [half, EYE, PUPIL], [{"art": 0, "hidden": True}, {"art": 1}, {"art": 2, "masks": ((1, True), (0, False))}]
    )
    assert count(both, (0, 0, 255)) == 10 * 3


def test_fading_is_of_the_whole_piece_and_does_not_weaken_a_mask() -> None:
    faded = painted([FACE, PUPIL], [{"art": 0}, {"art": 1, "opacity": 0.5}])
    assert faded[5, 30].tolist() == pytest.approx([0, 128, 128, 255], abs=2)
    masked = painted([FACE, PUPIL], [{"art": 0, "opacity": 0.2}, {"art": 1, "masks": ((0, True),)}])
    assert masked[5, 30].tolist() == [0, 0, 255, 255]


def test_a_bent_outline_is_drawn_where_its_points_are_and_masks_there() -> None:
    moved = np.array([(20, 20), (50, 20), (50, 40), (20, 40)], dtype=float)
    pixels = painted([box(0, 0, 5, 5)], [{"art": 0}], {(0, 0): moved})
    assert count(pixels, (255, 0, 0)) == 30 * 20
    masked = painted([EYE, FACE], [{"art": 0, "hidden": True}, {"art": 1, "masks": ((0, True),)}], {(0, 0): moved})
    assert count(masked, (0, 255, 0)) == 20 * 20


def quartered() -> bytes:
    """A picture of 20 by 20: red, green, blue and white quarters."""
    pixels = np.full((20, 20, 4), 255, dtype=np.uint8)
    pixels[:10, :10], pixels[:10, 10:], pixels[10:, :10] = (255, 0, 0, 255), (0, 255, 0, 255), (0, 0, 255, 255)
    return png_of(pixels)


def test_a_mesh_shows_each_pixel_where_its_triangle_went() -> None:
    corners = (-5.0, -5.0, 25.0, -5.0, 25.0, 25.0, -5.0, 25.0)
    mesh = Mesh(asset="f" * 64, box=(0, 0, 20, 20), points=corners, triangles=(0, 1, 2, 0, 2, 3))
    art = Art(bounds=(0, 0, 20, 20), nodes=(mesh,)).model_dump_json().encode()
    picture = quartered()
    # Turned by a quarter about (30, 30), and twice as large.
    rest = np.array(corners).reshape(-1, 2)
    turned = np.stack([30 - 2 * (rest[:, 1] - 10), 30 + 2 * (rest[:, 0] - 10)], axis=1)
    plan = still((SIDE, SIDE), (Item("p", "x", ("art",), (FULL,)),), {(0, 0): turned[:, :, None]})
    pixels = Surface(SIDE, SIDE).draw(Painter(lambda id: art if id == "art" else picture), plan, 0, clear=True)
    assert pixels[20, 40].tolist() == [255, 0, 0, 255] and pixels[40, 40].tolist() == [0, 255, 0, 255]
    assert pixels[20, 20].tolist() == [0, 0, 255, 255] and pixels[40, 20].tolist() == [255, 255, 255, 255]
    # The margin of the mesh is clear.
    assert (pixels[:, :, 3] == 255).sum() == pytest.approx(40 * 40, abs=4 * 40)
    assert pixels[5, 30, 3] == 0


@pytest.mark.parametrize("through", ["ff", "80"])
def test_a_gradient_goes_with_its_shape_when_that_bends(through: str) -> None:
    """A bar, red at its left end and blue at its right one, of which the right half is turned up by a quarter."""
    stops = (Stop(at=0, colour=f"#ff0000{through}"), Stop(at=1, colour=f"#0000ff{through}"))
    outline = Outline(verbs="MLLLZ", points=(0, 24, 60, 24, 60, 36, 0, 36))
    bar = Shape(outline=outline, fill=Linear(start=(0, 0), end=(60, 0), stops=stops))
    art = Art(bounds=(0, 24, 60, 36), nodes=(bar,))
    mesh = mesh_over(shapely.box(*art.bounds), 200, 2)
    skin = skin_of(art, mesh, lambda along: [np.linspace(0, 1, 9)[1:-1] for _ in along])
    (shape,) = skin.art.nodes
    assert isinstance(shape, Shape) and shape.shade is not None
    assert len(skin.points) == (len(shape.outline.points) + len(shape.shade.points)) // 2
    x, y = skin.points.T
    turn = np.pi / 2 * np.clip((x - 24) / 12, 0, 1)
    along = np.where(x > 30, x - 30, 0)
    bent = np.stack(
        [np.minimum(x, 30) + (y - 30) * np.sin(turn), 30 - along * np.sin(turn) + (y - 30) * np.cos(turn)], 1
    )
    pixels = painted([skin.art], [{"art": 0}], {(0, 0): bent})
    alpha = int(through, 16)
    for place, at in (((30, 10), 10), ((30, 20), 20), ((10, 30), 50), ((4, 30), 56)):
        r, g, b, a = (int(v) for v in pixels[place])
        part = at / 60
        assert (r, g, b, a) == (
            pytest.approx(255 * (1 - part), abs=9), 0, pytest.approx(255 * part, abs=9), pytest.approx(alpha, abs=2)
        )  # fmt: skip


def test_the_studio_makes_what_the_core_asks_for_and_hands_it_out() -> None:
    picture = quartered()
    art = Art(bounds=(0, 0, 20, 20), nodes=(Picture(asset="e" * 64, box=(0, 0, 20, 20)),))
    kept = {"a" * 64: art.model_dump_json().encode(), "e" * 64: picture}
    studio = Studio(lambda id: kept[id])
    assert studio.alpha("e" * 64).shape == (20, 20) and studio.alpha("e" * 64).min() == 255
    toned = studio.toned("e" * 64, Correction(tint="#000000ff", amount=100))
    assert toned == studio.toned("e" * 64, Correction(tint="#000000ff", amount=100))
    assert studio.alpha(toned).min() == 255
    dark = studio.keep(art.model_copy(update={"nodes": (Picture(asset=toned, box=(0, 0, 20, 20)),)}))
    assert {p for id in (dark, "a" * 64) for p in studio.art(id).pictures()} == {toned, "e" * 64}
    surface = Surface(20, 20)
    plan = still((20, 20), (Item("p", "x", (dark,), ((0, 0, 20, 20),)),))
    assert surface.draw(Painter(studio.asset), plan, 0)[5, 5].tolist() == [0, 0, 0, 255]
