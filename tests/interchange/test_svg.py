"""SVG in: what becomes a piece, and what it looks like, against another renderer and known places."""

from __future__ import annotations

import gzip
import io

import numpy as np
import pytest
import resvg_py
import skia

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Layer, Picture, Shape
from sorvan.core.model.production import Production
from sorvan.interchange import limits
from sorvan.interchange.files import parts_in, read_file
from sorvan.interchange.imported import bring_in
from sorvan.interchange.pictures import decode
from tests.interchange.art import drawn, svg


def pieces(data: bytes, loose: bool = False) -> dict[str, tuple[str, ...]]:
    return {p.name: p.groups for p in read_file(data, "art.svg", loose).pieces}


def test_named_groups_become_pieces_and_groups_of_them_stay_groups() -> None:
    found = pieces(
        svg(
            '<g id="gull"><g id="body"><circle r="9"/></g><rect width="5" height="5"/><rect id="g12" width="5" height="5"/>'
            '<g id="wing"><g><path d="M0 0h9v9z"/></g></g></g><g id="g7"><g id="beak"><path d="M0 0h9v9z"/></g></g>'
            '<path id="worm" d="M0 0h9v9z"/>'
        )
    )
    assert found == {"body": ("gull",), "gull": ("gull",), "wing": ("gull",), "beak": (), "worm": ()}


def test_a_label_or_title_is_the_name_before_an_id() -> None:
    art = svg(
        '<g xmlns:x="urn:x" x:label="Left wing" id="g5"><rect width="9" height="9"/></g><g id="a"><title>Head</title><rect width="9" height="9"/></g>'
    )
    assert list(pieces(art)) == ["Left wing", "Head"]


def test_names_are_read_as_artists_wrote_them_and_what_a_program_counted_is_no_name() -> None:
    coded = {
        "left_x5F_wing": "left_wing", "cap_x0020_badge": "cap badge", "plume__x2B__": "plume+", "beak_1_": "beak",
        "arm_12": "arm_12",
    }  # fmt: skip
    counted = ("path 37", "Group 12", "XMLID_12_", "Layer 1", "g7", "compound path 3-2")
    groups = "".join(f'<g id="{id}"><rect width="9" height="9"/></g>' for id in coded)
    groups += "".join(f'<g data-name="{name}"><rect width="9" height="9"/></g>' for name in counted)
    groups += '<g id="XMLID_7_"><rect width="9" height="9"/></g>'
    groups += '<g xmlns:y="urn:y" y:id="Tail feather" id="g3"><rect width="9" height="9"/></g>'
    assert set(pieces(svg(groups))) - {"drawing"} >= {*coded.values(), "Tail feather"}
    assert not {*counted, "XMLID", "XMLID_7_"} & set(pieces(svg(groups)))


def test_a_packed_drawing_is_read_as_the_drawing_and_only_so_much_of_it() -> None:
    plain = svg('<g id="gull"><rect width="9" height="9"/></g>')
    assert pieces(gzip.compress(plain)) == pieces(plain)
    for data, words in (
        (gzip.compress(plain)[:-20], "damaged"),
        (gzip.compress(b" " * (limits.BYTES + 1) + plain), "unpacks to more than 64 MB"),
        (gzip.compress(b"GIF89a"), "not a kind of file"),
    ):
        with pytest.raises(Refusal, match=words):
            read_file(data, "gull.svgz")


def test_where_nothing_is_named_the_top_level_shapes_are_offered() -> None:
    result = read_file(svg('<g><circle r="9"/><g><rect width="9" height="9"/></g></g>'), "art.svg")
    assert result.loose
    assert [p.name for p in result.pieces] == ["circle 1", "group 2"]
    assert "no group has a name" in result.notes[0]


def test_vectors_stay_vectors_and_the_rest_becomes_a_picture_with_a_reason() -> None:
    result = read_file(
        svg(
            '<g id="plain"><rect width="30" height="30" fill="red"/></g>'
            '<g id="soft" filter="url(#f)"><rect x="40" y="40" width="20" height="20" fill="blue"/></g>'
            '<g id="word"><text x="5" y="90" font-size="20">nine</text></g>'
            '<g id="tiled"><rect x="70" width="30" height="30" fill="url(#p)"/></g>',
            '<filter id="f"><feGaussianBlur stdDeviation="2"/></filter>'
            '<pattern id="p" width="4" height="4" patternUnits="userSpaceOnUse"><rect width="2" height="2"/></pattern>',
        ),
        "art.svg",
    )
    by_name = {p.name: p.art for p in result.pieces}
    assert isinstance(by_name["plain"].nodes[0], Shape)
    for name, reason in (("soft", "a filter"), ("word", "text"), ("tiled", "a pattern")):
        picture = by_name[name].nodes[0]
        assert isinstance(picture, Picture)
        assert f"{name}: became a picture, because it has {reason}." in result.notes
        data = skia.Image.open(io.BytesIO(result.assets[picture.asset][1]))
        # Small things are as fine as can be told; none is coarser than two pixels for a unit of the stage.
        assert (
            data.width() / picture.box[2] == pytest.approx(data.height() / picture.box[3])
            and max(data.width(), data.height()) > 200
        )
    # The blurred square stays centred on (50, 50) and reaches beyond its own edge.
    left, top, right, bottom = by_name["soft"].bounds
    assert ((left + right) / 2, (top + bottom) / 2) == pytest.approx((50, 50), abs=0.6)
    assert right - left >= 24


DRAWINGS = {
    "a path that goes wrong": '<g id="a"><path d="M10 10H90V90H10zM30 30a9 9 0 0 1 30 30 .5 .5 L0 99z" fill="teal"/><path d="M10 95L20 99 30" stroke="red"/></g>',
    "arcs and curves": '<g id="a"><path d="M10 50a40 30 20 0 1 70-10.5t-20 30q-10-40-30 0s-10-30-20-20zm30 0 h20 v10 H40z" fill="teal" fill-rule="evenodd"/></g>',
    "basic shapes": '<g id="a"><rect x="5" y="5" width="40" height="30" rx="8" fill="#c52"/><ellipse cx="70" cy="25" rx="20" ry="12" fill="navy"/>'
    '<polygon points="10,90 50,50 60,95" fill="gold"/><polyline points="60,60 80,95 95,55" fill="none" stroke="black" stroke-width="3"/><line x1="5" y1="45" x2="95" y2="48" stroke="red" stroke-width="2"/></g>',
    "transforms": '<g id="a" transform="translate(50 50) rotate(30) scale(1.5 .75) skewX(20)"><g transform="matrix(1 .2 -.2 1 3 4)"><rect x="-20" y="-15" width="40" height="30" fill="#283" stroke="#000" stroke-width="4"/></g></g>',
    "strokes": '<g id="a" fill="none" stroke="#324" stroke-width="6"><path d="M10 20L50 40L20 60" stroke-linejoin="round" stroke-linecap="round"/>'
    '<path d="M60 20L90 30L60 40" stroke-linejoin="bevel"/><path d="M10 80H90" stroke-dasharray="9 5" stroke-dashoffset="3"/><path d="M60 60L95 70" stroke-linecap="square" stroke-opacity=".5"/></g>',
    "gradients": '<g id="a"><rect width="50" height="50" fill="url(#l)"/><circle cx="75" cy="25" r="22" fill="url(#r)"/><rect y="55" width="90" height="40" fill="url(#u)" stroke="url(#l)" stroke-width="5"/></g>',
    "opacity": '<g id="a" opacity=".6"><rect width="60" height="60" fill="red"/><rect x="30" y="30" width="60" height="60" fill="blue" fill-opacity=".5"/></g>',
    "clips": '<g id="a" clip-path="url(#c)"><rect width="100" height="100" fill="#493"/><rect clip-path="url(#d)" width="100" height="100" fill="#fc6"/></g>',
    "use and symbol": '<g id="a"><use xlink:href="#leaf" x="10" fill="#471"/><use href="#leaf" transform="translate(90 40) scale(-1 1)" fill="#a31"/><use href="#sym" x="40" y="50" width="40" height="40"/></g>',
    "style sheets": "<style>.warm{fill:#e52}#a rect.warm{stroke:#000;stroke-width:2px}g>circle:first-child{fill:hsl(200,80%,40%)!important}</style>"
    '<g id="a" color="#808"><circle cx="30" cy="30" r="20" style="fill:red"/><rect class="warm" x="50" y="10" width="40" height="40"/><rect x="10" y="60" width="60" height="30" style="fill:currentColor;opacity:.7"/></g>',
    "stroke below": '<g id="a"><circle cx="50" cy="50" r="30" fill="#fd5" stroke="#135" stroke-width="12" paint-order="stroke"/></g>',
}
DEFS = (
    '<linearGradient id="base"><stop offset="0" stop-color="#fff"/><stop offset=".6" stop-color="#f60"/><stop offset="1" stop-color="#306" stop-opacity=".5"/></linearGradient>'
    '<linearGradient id="l" href="#base" x2="1" y2="1"/><radialGradient id="r" href="#base" fx=".3" fy=".3"/>'
    '<linearGradient id="u" href="#base" gradientUnits="userSpaceOnUse" x1="10" x2="40" spreadMethod="reflect" gradientTransform="rotate(20)"/>'
    '<clipPath id="c"><circle cx="40" cy="40" r="30"/><rect x="50" y="50" width="40" height="40"/></clipPath>'
    '<clipPath id="d" clip-path="url(#c)"><ellipse cx="60" cy="55" rx="35" ry="20"/></clipPath>'
    '<path id="leaf" d="M0 10Q15 -10 30 10Q15 30 0 10Z"/><symbol id="sym" viewBox="0 0 10 10"><rect width="10" height="10" rx="3" fill="#09c"/></symbol>'
)


@pytest.mark.parametrize("name", DRAWINGS)
def test_what_is_brought_in_looks_like_the_drawing(name: str) -> None:
    data = svg(DRAWINGS[name], DEFS)
    result = read_file(data, "art.svg")
    assert not result.notes, "everything here can be kept as vectors"
    ours = drawn(result, zoom=2).astype(float)
    reference = skia.Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=data.decode(), zoom=2))))
    theirs = np.asarray(reference.toarray(colorType=skia.kRGBA_8888_ColorType)).astype(float)
    for picture in (ours, theirs):
        picture[:, :, :3] *= picture[:, :, 3:] / 255
    apart = np.abs(ours - theirs).max(axis=2)
    # Two renderers differ a little along edges; nowhere else, and never by a shape or a colour.
    assert (apart > 24).mean() < 0.006, f"{(apart > 24).sum()} pixels differ"
    assert apart.mean() < 1.0


def test_opacity_of_a_group_is_handed_to_its_pieces_and_the_report_says_so() -> None:
    result = read_file(
        svg('<g id="ghost" opacity=".5"><g id="x"><rect width="50" height="50" fill="red"/></g></g>'), "a.svg"
    )
    assert isinstance(result.pieces[0].art.nodes[0], Layer)
    assert drawn(result)[20, 20].tolist() == pytest.approx([255, 0, 0, 128], abs=1)
    assert "ghost: its opacity was given to each of its pieces." in result.notes


def test_hidden_groups_come_in_hidden_and_empty_ones_are_left_out() -> None:
    result = read_file(
        svg(
            '<g id="seen"><rect width="9" height="9"/></g><g id="gone" display="none"><rect x="20" width="9" height="9"/></g><g id="bare"/>'
            '<g id="mouths" style="display:none"><g id="mouth A"><rect x="40" width="9" height="9"/></g><g id="mouth B"><rect x="60" width="9" height="9"/></g></g>'
        ),
        "a.svg",
    )
    assert {p.name: (p.hidden, p.groups) for p in result.pieces} == {
        "seen": (False, ()),
        "gone": (True, ()),
        "mouth A": (True, ("mouths",)),
        "mouth B": (True, ("mouths",)),
    }
    assert result.pieces[1].art.bounds == (20, 0, 29, 9)
    assert drawn(result)[:, 15:, 3].max() == 0
    assert "gone: hidden in the file, and brought in hidden." in result.notes
    assert any(note.startswith("bare: left out") for note in result.notes)


def test_named_groups_are_found_wherever_they_are_shown() -> None:
    inner = '<g id="hand"><rect width="9" height="9"/></g><g id="sleeve"><rect x="9" width="9" height="9"/></g>'
    names = {
        "switch": f'<switch><g systemLanguage="nl"><g id="nee"/></g><g>{inner}</g></switch>',
        "svg": f'<svg x="10" y="20" width="18" height="9" viewBox="0 0 18 9">{inner}</svg>',
        "use": '<use href="#arm" x="10" y="20"/>',
        "symbol": '<use href="#drawn" x="10" y="20" width="18" height="9"/>',
    }
    defs = f'<g id="arm">{inner}</g><symbol id="drawn" viewBox="0 0 18 9">{inner}</symbol><clipPath id="c"><g id="not me"/></clipPath>'
    for how, body in names.items():
        found = read_file(svg(body, defs if how in ("use", "symbol") else ""), "art.svg").pieces
        left, top = (0, 0) if how == "switch" else (10, 20)
        assert [(p.name, p.art.bounds) for p in found] == [
            ("hand", (left, top, left + 9, top + 9)),
            ("sleeve", (left + 9, top, left + 18, top + 9)),
        ], how


def test_groups_of_one_name_stay_apart() -> None:
    body = "".join(
        f'<g id="arm{n}" aria-label="arm"><g id="hand {n}"><rect x="{n * 9}" width="9" height="9"/></g></g>'
        for n in (1, 2)
    )
    assert [p.groups for p in read_file(svg(body), "art.svg").pieces] == [("arm",), ("arm 2",)]


FIGURE = (
    '<g id="gull"><g><circle cx="20" cy="20" r="15"/><circle cx="22" cy="18" r="3" fill="#fff"/></g>'
    '<g transform="translate(40 0)"><rect width="20" height="40"/><rect y="40" width="20" height="20" fill="#c22"/></g>'
    '<g display="none"><rect x="80" width="9" height="9"/></g></g>'
)


def test_the_parts_of_a_drawing_can_be_looked_at_and_chosen_from() -> None:
    data = svg(FIGURE)
    assert [p.name for p in read_file(data, "art.svg").pieces] == ["gull"]
    parts = parts_in(data, "art.svg")
    (figure,) = parts.tree
    assert (figure.path, figure.name, figure.shapes) == ("0", "gull", 5)
    assert [(p.path, p.hidden, len(p.parts)) for p in figure.parts] == [
        ("0/0", False, 2),
        ("0/1", False, 2),
        ("0/2", True, 1),
    ]
    seen = decode(figure.parts[1].picture, "part")
    assert seen[10, 32].tolist() == [0, 0, 0, 255] and seen[60, 32, 0] > 150
    assert [paths for _, paths in parts.pieces] == [["0/0"], ["0/1"], ["0/2"]]
    chosen = [("head", ["0/0/0"]), ("eye and bill", ["0/1/1", "0/0/1"])]
    found = read_file(data, "art.svg", chosen=chosen)
    assert [(p.name, p.groups) for p in found.pieces] == [("head", ("gull",)), ("eye and bill", ("gull",))]
    assert found.pieces[1].art.bounds == pytest.approx((19, 15, 60, 60), abs=0.01)
    # From the back, as in the drawing.
    assert [node.kind for node in found.pieces[1].art.nodes] == ["shape", "shape"]
    for path in ("0/7", "x", "", "0/0/0/0"):
        with pytest.raises(Refusal, match="no such part"):
            read_file(data, "art.svg", chosen=[("a", [path])])


def test_of_a_group_with_more_than_can_be_looked_through_what_is_left_is_one_part() -> None:
    pebbles = "".join(f'<rect x="{n % 30 * 3}" y="{n // 30 * 3}" width="2" height="2"/>' for n in range(900))
    data = svg(f'<g>{pebbles}</g><g><rect x="95" width="5" height="5" fill="#c22"/></g>')
    parts = parts_in(data, "beach.svg")
    beach, other = parts.tree
    assert (beach.parts[-1].kind, beach.parts[-1].path, other.parts) == ("rest", f"0/{len(beach.parts) - 1}+", [])
    assert sum(p.shapes for p in beach.parts) == beach.shapes == 900 and len(beach.parts) < 400
    # Whatever is taken whole or bit by bit, all of it comes in, once.
    bits = [(f"bit {n}", [p.path]) for n, p in enumerate(beach.parts)]
    found = read_file(data, "beach.svg", chosen=[*bits, ("other", [other.path])]).pieces
    nodes = [node for piece in found for node in piece.art.nodes]
    assert len(nodes) == len(set(nodes)) == 901
    again = read_file(data, "beach.svg", chosen=[("all", [p.path for p in reversed(beach.parts)])]).pieces[0]
    assert again.art.nodes == read_file(data, "beach.svg", chosen=[("all", ["0"])]).pieces[0].art.nodes
    with pytest.raises(Refusal, match="no such part"):
        read_file(data, "beach.svg", chosen=[("a", ["0/5+/0"])])


def test_what_is_proposed_of_very_many_loose_shapes_leaves_none_out() -> None:
    tiles = "".join(f'<rect x="{n % 30 * 3}" y="{n // 30 * 3}" width="2" height="2"/>' for n in range(700))
    for data in (svg(f"<g>{tiles}</g>"), svg(tiles)):
        parts = parts_in(data, "quay.svg")
        name, paths = parts.pieces[-1]
        assert name == "the rest" and paths[0].endswith("+")
        found = read_file(data, "quay.svg", chosen=parts.pieces).pieces
        assert sum(len(piece.art.nodes) for piece in found) == 700


def test_loose_shapes_that_lie_upon_one_another_belong_together() -> None:
    blobs = "".join(
        f'<circle cx="{x}" cy="{y}" r="9"/><circle cx="{x + 2}" cy="{y}" r="2" fill="red"/>'
        for x in (15, 50, 85)
        for y in (20, 70)
    )
    pieces = read_file(svg(blobs), "art.svg", True).pieces
    assert [len(p.art.nodes) for p in pieces] == [2] * 6


def test_what_moves_by_itself_comes_in_at_rest_and_the_report_says_so() -> None:
    still = '<g id="flag"><rect width="20" height="9"/></g>'
    for moving in (
        still.replace("/></g>", '><animate attributeName="x" values="0;40" dur="1s"/></rect></g>'),
        still + "<style>@keyframes wave{to{width:40px}} rect{animation:wave 1s}</style>",
    ):
        found = read_file(svg(moving), "flag.svg")
        assert [p.art for p in found.pieces] == [p.art for p in read_file(svg(still), "flag.svg").pieces]
        assert found.notes == ["flag.svg: what moves by itself in it comes in as it lies still, without its motion."]


def test_bounds_hold_all_that_shows() -> None:
    result = read_file(
        svg('<g id="a"><path d="M20 50L80 50" stroke="red" stroke-width="10" stroke-linecap="square"/></g>'), "a.svg"
    )
    assert result.pieces[0].art.bounds == pytest.approx((15, 45, 85, 55))


def test_where_a_piece_turns_is_read_from_the_file() -> None:
    data = svg(
        '<g id="hand" q:transform-center-x="-4" q:transform-center-y="3"><rect x="20" y="10" width="10" height="6"/></g>'
        '<g id="arm"><rect width="9" height="9"/></g>',
        attributes='width="200" height="200" viewBox="0 0 100 100" xmlns:q="urn:q"',
    )
    hand, arm = read_file(data, "art.svg").pieces
    # From the middle of its box: to the left and up, in the drawing's own units.
    assert hand.art.bounds == (40, 20, 60, 32)
    assert hand.pivot == (50 - 8, 26 - 6) and arm.pivot is None
    added = bring_in(Production(id="p", name="Quay", width=200, height=200), "a", [read_file(data, "art.svg")])
    assert [p.at for p in added.pieces] == [(42, 20), (9, 9)]


def test_a_mask_is_worked_out_once_for_all_that_it_masks() -> None:
    teeth = "".join(f'<rect x="{n}" width=".9" height="100" fill="#fff"/>' for n in range(60))
    parts = "".join(f'<g id="plank {n}x"><rect x="{n % 50}" width="9" height="9"/></g>' for n in range(400))
    data = svg(
        f'<g mask="url(#m)">{parts}</g>',
        f'<mask id="m" maskUnits="userSpaceOnUse" width="100" height="100">{teeth}</mask>',
    )
    assert len(read_file(data, "wall.svg").pieces) == 400


def test_what_can_not_be_drawn_is_shown_without_and_all_else_around_it_holds(monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(**_: object) -> bytes:
        raise ValueError("the rasteriser gave up")

    monkeypatch.setattr(resvg_py, "svg_to_bytes", broken)
    data = svg(
        '<g opacity=".5" clip-path="url(#c)"><g filter="url(#f)"><g id="gull"><rect width="60" height="60" fill="red"/></g></g></g>'
        '<g id="soft" filter="url(#f)"><rect x="70" width="20" height="20" fill="blue"/></g><g id="word"><text y="90">nine</text></g>',
        '<filter id="f"><feGaussianBlur stdDeviation="2"/></filter><clipPath id="c"><rect width="30" height="100"/></clipPath>',
    )
    result = read_file(data, "art.svg")
    pixels = drawn(result)
    assert pixels[20, 20].tolist() == pytest.approx([255, 0, 0, 128], abs=1)
    assert pixels[20, 40, 3] == 0 and pixels[10, 80].tolist() == [0, 0, 255, 255]
    assert {note.split(":")[0] for note in result.notes if "which can't be drawn" in note} == {"gull", "soft"}
    assert any(note.startswith("word: left out") for note in result.notes)
