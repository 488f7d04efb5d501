"""OpenRaster files, folders of pictures, more drawings for a piece, and new versions of a file."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.interchange.bringing import brought
from sorvan.interchange.files import in_folders, natural, read_file
from sorvan.interchange.imported import Imported, bring_in, drawings_for
from sorvan.interchange.renewing import renew
from tests.core.worlds import do
from tests.interchange.art import drawn, openraster, patch, png, svg

RED, BLUE = (200, 30, 30), (30, 30, 200)
ARM = openraster(
    """<layer name="hand" src="data/a.png" x="30" y="10" opacity="0.5"/>
    <stack name="arm" opacity="0.5"><stack name="upper"><layer name="sleeve" src="data/b.png" x="2" y="3" composite-op="svg:multiply"/></stack>
    <layer src="data/b.png" visibility="hidden"/></stack><layer name="nothing" src="data/c.png"/>""",
    {
        "data/a.png": png(patch(20, 20, (4, 5, 9, 15), RED)),
        "data/b.png": png(patch(10, 8, (0, 0, 10, 8), BLUE)),
        "data/c.png": png(patch(6, 6, (0, 0, 0, 0), BLUE)),
    },
)


def test_layers_keep_names_order_groups_places_opacity_and_visibility() -> None:
    found = read_file(ARM, "arm.ora")
    assert found.frame == (100, 80)
    # Back to front: the file lists the foremost layer first.
    assert [(p.name, p.groups, p.opacity, p.hidden) for p in found.pieces] == [
        ("Layer 1", ("arm",), 0.5, True),
        ("sleeve", ("arm", "upper"), 0.5, False),
        ("hand", (), 0.5, False),
    ]
    assert [p.art.bounds for p in found.pieces] == [(0, 0, 10, 8), (2, 3, 12, 11), (34, 15, 39, 25)]
    notes = " ".join(found.notes)
    assert "“nothing” is empty" in notes
    mixed = [getattr(p.art.nodes[0], "blend", "normal") for p in found.pieces]
    assert mixed == ["normal", "multiply", "normal"]
    pixels = drawn(found, 60)
    assert pixels[20, 36].tolist() == [*RED, 255] and pixels[5, 11].tolist() == [*BLUE, 255]
    assert pixels[14, 36, 3] == 0 and pixels[25, 36, 3] == 0


def test_what_came_in_is_what_the_file_said() -> None:
    production = Production(id="p", name="Quay")
    documents = do(Documents({"p": production}), {"do": "add-puppet", "id": "a", "name": "Arm"})
    puppet = bring_in(production, "a", [read_file(ARM, "arm.ora")]).apply(documents).puppet("a")
    pieces = [puppet.pieces[id] for id in puppet.order]
    assert [(p.name, p.opacity, p.hidden) for p in pieces] == [
        ("Layer 1", 0.5, True),
        ("sleeve", 0.5, False),
        ("hand", 0.5, False),
    ]
    assert [g.name for g in puppet.around(pieces[1])] == ["upper", "arm"]
    assert pieces[1].shown().source == "arm.ora/arm/upper/sleeve"


@pytest.mark.parametrize(
    ("stack", "layers", "says"),
    [
        ('<layer name="a" src="data/gone.png"/>', {}, "damaged"),
        ('<layer name="a" src="a.png"/>', {"a.png": b"GIF89a"}, "not a PNG"),
        ('<layer name="a" src="a.png"/>', {"a.png": png(patch(4, 4, (0, 0, 2, 2), RED))[:-9]}, "breaks off"),
        ("<stack>" * 90 + "</stack>" * 90, {}, "nested too deeply"),
        ("", {}, "no layer"),
        ("<layer", {}, "damaged"),
    ],
)
def test_a_bad_openraster_file_says_what_is_wrong(stack: str, layers: dict[str, bytes], says: str) -> None:
    with pytest.raises(Refusal) as refused:
        read_file(openraster(stack, layers), "bad.ora")
    assert says in refused.value.what and "bad.ora" in refused.value.where


def test_a_folder_of_pictures_keeps_its_folders_and_the_order_of_its_names() -> None:
    names = ["Gull/wing/feather 10.png", "Gull/body.png", "Gull/wing/feather 2.png", "Gull/wing/tip/end.png"]
    files = [read_file(png(patch(30 + i, 30, (i, 2, i + 5, 9), RED)), n) for i, n in enumerate(names)]
    found = in_folders(files)
    assert [(p.name, p.groups) for f in found for p in f.pieces] == [
        ("body", ()),
        ("feather 2", ("wing",)),
        ("feather 10", ("wing",)),
        ("end", ("wing", "tip")),
    ]
    # One frame for all, so that each stands where it stood in the whole picture.
    assert {f.frame for f in found} == {(33, 30)}
    assert sorted(["b 10", "b 9", "a"], key=natural) == ["a", "b 9", "b 10"]


def test_loose_pictures_stay_as_they_are_given() -> None:
    files = [read_file(png(patch(9, 9, (0, 0, 4, 4), RED)), n) for n in ("b.png", "a.png")]
    assert [f.source for f in in_folders(files)] == ["b.png", "a.png"]


def puppet_of(data: bytes, name: str) -> tuple[Documents, Puppet]:
    production = Production(id="p", name="Quay")
    documents = do(Documents({"p": production}), {"do": "add-puppet", "id": "a", "name": "Gull"})
    documents = bring_in(production, "a", [read_file(data, name)]).apply(documents)
    return documents, documents.puppet("a")


def face(*parts: str, mouth: str = "M40 60h20v6h-20z") -> bytes:
    return svg(
        '<g id="head"><circle cx="50" cy="50" r="30" fill="#fc9"/></g>'
        + f'<g id="mouth"><path d="{mouth}"/></g>'
        + "".join(parts)
    )


def test_a_new_version_changes_drawings_in_place_and_says_what_is_new_and_what_is_gone() -> None:
    ears = '<g id="ears"><circle cx="20" cy="50" r="5"/></g>'
    documents, puppet = puppet_of(face(ears), "face.svg")
    ids = {p.name: p.id for p in puppet.pieces.values()}
    documents = do(documents, {"do": "set-pivot", "puppet": "a", "piece": ids["mouth"], "x": 33, "y": 44})
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": ids["mouth"], "parent": ids["head"]})
    before = documents.puppet("a")
    hat = '<g id="hat"><rect x="30" y="10" width="40" height="12"/></g>'
    new = read_file(face(hat, mouth="M40 58h20v12h-20z"), "face.svg")
    found = renew(documents.production, before, [new])
    assert (found.changed, found.added, found.vanished, found.same) == (["mouth"], ["hat"], ["ears"], 1)
    assert found.command is not None
    after = found.command.apply(documents).puppet("a")
    mouth, was = after.pieces[ids["mouth"]], before.pieces[ids["mouth"]]
    assert mouth.shown().bounds == (40, 58, 60, 70) and mouth.shown().pivot == was.shown().pivot
    assert mouth.shown().art in new.assets
    assert after.joints[ids["mouth"]] == before.joints[ids["mouth"]]
    assert set(after.pieces) > set(before.pieces) and len(after.pieces) == 4
    # What vanished stays, and taking the same version again changes nothing.
    assert ids["ears"] in after.pieces
    again = renew(documents.production, after, [read_file(face(hat, mouth="M40 58h20v12h-20z"), "face.svg")])
    assert (again.changed, again.added, again.command) == ([], [], None)


def test_a_file_of_another_name_can_be_the_new_version() -> None:
    documents, puppet = puppet_of(face(), "face.svg")
    new = read_file(face(mouth="M0 0h5v5h-5z"), "face-final.svg")
    assert len(renew(documents.production, puppet, [new]).added) == 2
    assert renew(documents.production, puppet, [new], "face.svg").changed == ["mouth"]


def test_more_drawings_for_a_piece_keep_their_place_or_are_laid_on_it() -> None:
    _, puppet = puppet_of(face(), "face.svg")
    mouth = next(p for p in puppet.pieces.values() if p.name == "mouth")
    over = read_file(svg('<g id="wide"><path d="M30 58h40v9h-40z"/></g>'), "wide.svg")
    apart = read_file(png(patch(10, 10, (0, 0, 4, 4), RED)), "small.png")
    added = drawings_for("a", mouth, [over, apart])
    assert added is not None
    wide, small = added.drawings
    assert wide.pivot == mouth.shown().pivot
    # The small picture's middle comes to lie on the mouth's.
    px, py = mouth.shown().pivot
    assert (2 - small.pivot[0], 2 - small.pivot[1]) == (50 - px, 63 - py)


def test_an_import_tells_how_far_it_has_come() -> None:
    told: list[float] = []
    parts = "".join(f'<g id="p{i}"><rect x="{i}" width="3" height="3"/></g>' for i in range(20))
    read_file(svg(parts), "many.svg", progress=told.append)
    done = [part for part in told if part]
    assert len(done) == 20 and told == sorted(told) and told[-1] == 1
    layers: list[float] = []
    read_file(ARM, "arm.ora", progress=layers.append)
    assert layers[-1] == 1


def test_margins_are_trimmed_without_moving_and_can_be_kept() -> None:
    data = png(patch(40, 30, (7, 4, 20, 22), BLUE))
    trimmed, whole = read_file(data, "a.png"), read_file(data, "a.png", whole=True)
    assert trimmed.pieces[0].art.bounds == (7, 4, 20, 22) and whole.pieces[0].art.bounds == (0, 0, 40, 30)
    assert np.array_equal(drawn(trimmed, 50), drawn(whole, 50))


def many(found: Imported) -> dict[str, Any]:
    return {p.name: p.art for p in found.pieces}


def test_groups_in_groups_stay_and_what_turns_or_clips_them_holds() -> None:
    found = read_file(
        svg(
            '<g id="arm" transform="translate(10 20) rotate(90)"><g id="hand" clip-path="url(#c)" style="fill:#f00">'
            '<rect width="40" height="10"/></g><g id="sleeve"><rect x="40" width="10" height="10" fill="#00f"/></g></g>',
            '<clipPath id="c"><rect width="20" height="10"/></clipPath>',
        ),
        "arm.svg",
    )
    assert [(p.name, p.groups) for p in found.pieces] == [("hand", ("arm",)), ("sleeve", ("arm",))]
    pixels = drawn(found)
    # Turned by 90° about (10, 20): the hand runs down from there, cut off after 20.
    assert pixels[30, 5].tolist() == [255, 0, 0, 255] and pixels[45, 5, 3] == 0
    assert pixels[65, 5].tolist() == [0, 0, 255, 255]
    assert set(many(found)) == {"hand", "sleeve"}


def test_more_shapes_than_can_be_pieces_are_one_or_refused_in_a_sentence() -> None:
    far = "".join(f'<rect x="{n % 50 * 20}" y="{n // 50 * 20}" width="9" height="9"/>' for n in range(2001))
    found = read_file(svg(far), "wall.svg", True)
    (wall,) = found.pieces
    assert wall.name == "wall" and len(wall.art.nodes) == 2001
    assert "falls into 2,001 loose shapes, and at most 2,000 can be pieces" in " ".join(found.notes)
    # What has names is meant to be apart.
    stones = "".join(f'<g id="stone {n}a"><rect x="{n}" width="9" height="9"/></g>' for n in range(2001))
    with pytest.raises(Refusal, match="falls into 2,001 pieces; at most 2,000"):
        bring_in(Production(id="p", name="Quay"), "a", [read_file(svg(stones), "wall.svg", True)])


def test_small_drawings_are_made_to_fit_and_files_that_come_together_keep_one_scale() -> None:
    production = Production(id="p", name="Quay")
    small, wide = (
        read_file(svg(PART, attributes=f'width="{w}" height="{h}"'), f"{w}.svg") for w, h in ((24, 24), (96, 48))
    )
    scale = 0.94 * 720 / 24
    assert [p.scale for p in bring_in(production, "a", [small]).pieces] == pytest.approx([scale])
    together = bring_in(production, "a", [small, wide])
    assert {round(p.scale, 6) for p in together.pieces} == {round(0.94 * 1280 / 96, 6)}
    for size in ((1280, 720), (700, 500)):
        page = read_file(svg(PART, attributes=f'width="{size[0]}" height="{size[1]}"'), "page.svg")
        assert [p.scale for p in bring_in(production, "a", [page]).pieces] == [1.0]
    # Pixels are never blown up.
    dot = read_file(png(patch(24, 24, (0, 0, 9, 9), RED)), "dot.png")
    assert [p.scale for p in bring_in(production, "a", [dot]).pieces] == [1.0]
    result = brought(
        [("24.svg", svg(PART, attributes='width="24" height="24"'))], production, Puppet(id="a", name="Lamp")
    )
    assert result.sized == "24.svg: 24 × 24 units; it is brought in 28.2 times as large, to fit the stage."


PART = '<g id="lamp"><rect width="9" height="9"/></g>'


def test_what_a_new_version_adds_stands_as_large_as_what_was_there() -> None:
    production = Production(id="p", name="Quay")
    small = 'width="24" height="24"'
    documents = Documents({"p": production, "a": Puppet(id="a", name="Lamp")})
    documents = bring_in(production, "a", [read_file(svg(PART, attributes=small), "lamp.svg")]).apply(documents)
    more = read_file(svg(PART + '<g id="post"><rect x="9" width="9" height="9"/></g>', attributes=small), "lamp.svg")
    found = renew(production, documents.puppet("a"), [more])
    assert found.added == ["post"] and found.command is not None
    after = found.command.apply(documents).puppet("a")
    assert {round(p.fit.sx, 6) for p in after.pieces.values()} == {28.2}


def test_a_group_of_layers_that_is_mixed_is_told_of_and_what_is_not_known_is_shown_plainly() -> None:
    stack = (
        '<stack><stack name="glow" composite-op="svg:screen"><layer name="halo" src="a.png"/></stack>'
        '<layer name="odd" src="a.png" composite-op="svg:dst-out"/></stack>'
    )
    found = read_file(openraster(stack, {"a.png": png(patch(20, 20, (0, 0, 9, 9), RED))}, (20, 20)), "a.ora")
    by_name = {p.name: p.art.nodes[0] for p in found.pieces}
    assert by_name["halo"].blend == "screen" and by_name["odd"].kind == "picture"  # type: ignore[union-attr]
    assert any("glow: its blend mode" in note for note in found.notes)
    assert any("“odd” is mixed as dst-out; it is shown plainly" in note for note in found.notes)
