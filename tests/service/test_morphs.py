"""Drawings that become others, as the page is told of them, and in-betweens that become drawings."""

from __future__ import annotations

from typing import Any

import httpx
import numpy as np
import pytest

from sorvan.core.model.art import Art, Linear, Outline, Picture, Radial, Shape, Stop
from sorvan.core.model.documents import Documents
from sorvan.core.plan.scene import InMotion
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import FROM_PAGE, ToPage
from sorvan.service.windows.views import WatchedScene
from tests.core.shelf import Shelf
from tests.core.test_becoming import steam
from tests.core.worlds import do
from tests.service.test_http import bring, change, documents, gull
from tests.service.test_http import client as client

__all__ = ["gull"]


def watched(made: Documents, shelf: Shelf) -> tuple[WatchedScene, list[ToPage]]:
    studio = Studio(lambda id: shelf.art(id).model_dump_json().encode())
    blank = shelf.keep(Art(bounds=(0, 0, 1, 1), nodes=()))
    other = made.puppet("a").pieces["q1"]
    puppet = made.puppet("a").with_pieces(other.changed(drawings=(other.drawings[0].changed(art=blank),)))
    view = WatchedScene(made.with_(puppet), InMotion(motion="m", backdrop=False), 1, studio)
    return view, view.start()


def of(letters: list[ToPage], kind: str) -> list[dict[str, Any]]:
    return [x.wire() for x in letters if x.type == kind]


def floats(data: bytes, *shape: int) -> np.ndarray:
    return np.frombuffer(data, dtype="<f4").reshape(shape)


def going(letter: dict[str, Any]) -> list[tuple[int, list[int], np.ndarray]]:
    """The drawings on their way in a letter: which, in which frames, and how far up each lies there."""
    found = []
    for bent in letter.get("points", ()):
        frames = np.frombuffer(bent["frames"], dtype="<i4").tolist()
        points = floats(bent["data"], len(frames), bent["count"], 2)
        assert len(bent["looks"]) % (4 * len(frames)) == 0 if frames else not bent["looks"]
        found.append((bent["drawing"], frames, points[:, :, 1].min(axis=1)))
    return found


def ask(**more: Any) -> Any:
    asked = {"type": "look-at-morph", "n": 7, "piece": "q0", "first": "d0", "second": "d1", **more}
    return FROM_PAGE.validate_python(asked)


def test_a_plan_has_the_points_of_the_frames_in_which_a_drawing_becomes_another() -> None:
    view, letters = watched(*steam("morph", "morph", None))
    (plan,) = of(letters, "plan")
    first, second = going(plan)
    assert (first[0], first[1]) == (3, [*range(1, 8)])
    assert (second[0], second[1]) == (4, [*range(9, 16)])
    # Seen from the pivots (3, 4): from 4 units up to 54.
    assert first[2] == pytest.approx([-4 - 50 * k / 8 for k in range(1, 8)], abs=1e-4)
    assert len(plan["items"][0]["arts"]) == 5
    later = do(view.documents, {
        "do": "ease-gaps", "motion": "m", "keys": [{"channel": "q0.show", "frame": 8}], "ease": {"kind": "slow", "out": 60},
    })  # fmt: skip
    (part,) = of(view.follow(later, 2), "part")
    told = going(part)
    assert [d for d, frames, _ in told if frames] == [4]
    eased = next(up for d, _, up in told if d == 4)
    assert eased[0] > second[2][0], "slow out, so that it has not come as far up"
    held = do(
        later, {"do": "change-gaps", "motion": "m", "keys": [{"channel": "q0.show", "frame": 8}], "change": "hold"}
    )
    # There is a drawing less: all is told anew.
    (whole,) = of(view.follow(held, 3), "plan")
    assert len(whole["items"][0]["arts"]) == 4


def test_how_a_drawing_becomes_another_is_told_as_it_is_and_as_it_is_tried() -> None:
    view, _ = watched(*steam("morph", None))
    (found,) = of(view.attend(ask(parts=[0, 0.5, 1], measure=True, advise=True)), "morph")
    assert (found["n"], found["first"], found["second"], found["shapes"]) == (7, "d0", "d1", (1, 1))
    points = floats(found["points"], 3, found["count"], 2)
    ends = floats(found["ends"], 2, found["count"], 2)
    assert np.allclose(points[0], ends[0])
    assert np.allclose(points[2], ends[1])
    assert np.allclose(points[1], ends.mean(axis=0))
    assert found["measured"] and found["troubles"] == () and found["advice"] == ()
    # A mark that turns it round: what is at the left foot comes to the right head.
    mark = {"id": "k", "first": [0, 0], "second": [20, -30]}
    tried = {"id": "t", "first": "d0", "second": "d1", "marks": {"k": mark}}
    (other,) = of(view.attend(ask(parts=[0, 0.5, 1], tried=tried, measure=True)), "morph")
    (met,) = other["met"]
    assert (met["first"], met["second"]) == ((-3.0, -4.0), (17.0, -34.0))
    assert {t["kind"] for t in other["troubles"]} & {"shrinks", "crosses", "turned-over"}
    assert not view.documents.puppet("a").pieces["q0"].morphs, "trying leaves no trace"


def redrawn(first: Art, second: Art) -> WatchedScene:
    """The puff with these as its first two drawings."""
    made, shelf = steam("morph", None)
    puppet = made.puppet("a")
    held = puppet.pieces["q0"]
    drawings = tuple(d.changed(art=shelf.keep(art)) for d, art in zip(held.drawings, (first, second), strict=False))
    view, _ = watched(made.with_(puppet.with_pieces(held.changed(drawings=drawings))), shelf)
    return view


def test_a_mark_on_a_shape_that_fades_into_another_fill_is_told_once() -> None:
    square = Outline(verbs="MLLLZ", points=(0, 0, 20, 0, 20, 20, 0, 20))
    stops = (Stop(at=0, colour="#112233ff"), Stop(at=1, colour="#eeddccff"))
    view = redrawn(
        Art(bounds=(0, 0, 20, 20), nodes=(Shape(outline=square, fill=Linear(start=(0, 0), end=(20, 0), stops=stops)),)),
        Art(
            bounds=(0, 0, 20, 20),
            nodes=(Shape(outline=square, fill=Radial(focus=(9, 9), centre=(9, 9), radius=9, stops=stops)),),
        ),
    )
    tried = {"id": "t", "first": "d0", "second": "d1", "marks": {"k": {"id": "k", "first": [0, 0], "second": [20, 0]}}}
    (found,) = of(view.attend(ask(parts=[0.5], tried=tried)), "morph")
    assert [m["id"] for m in found["met"]] == ["k"]


def test_pictures_are_told_with_a_look_for_every_step() -> None:
    pictures = (Art(bounds=(0, 0, 9, 9), nodes=(Picture(asset=c * 64, box=(0, 0, 9, 9)),)) for c in "ab")
    (found,) = of(redrawn(*pictures).attend(ask(parts=[0, 0.25, 1], measure=True)), "morph")
    assert (found["count"], found["parts"], found["points"], found["troubles"]) == (0, 3, b"", ())
    assert np.allclose(floats(found["looks"], found["parts"], 2), [[1, 0], [0.75, 0.25], [0, 1]])


STEAM = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100">
<g id="low"><path d="M40 90L60 90L64 60L36 60Z" fill="#eeeeee"/></g>
<g id="high"><path d="M40 90L60 90L70 20L30 20Z" fill="#cccccc"/></g></svg>"""


def test_in_betweens_become_drawings_that_show_where_they_were_seen(gull: tuple[httpx.Client, str]) -> None:
    client, production = gull
    assert bring(client, production, "a", STEAM, "steam.svg").status_code == 200
    pieces = documents(client, production)["a"]["pieces"]
    low, high = (next(i for i, p in pieces.items() if p["name"] == name) for name in ("low", "high"))
    assert change(
        client, production, {"do": "gather-drawings", "puppet": "a", "piece": low, "others": [high]}
    ).is_success
    keys = [
        {"joint": low, "kind": "show", "frame": f, "value": [n], "ease": {"kind": "even"}} for n, f in ((0, 0), (1, 8))
    ]
    assert change(client, production, {"do": "set-keys", "motion": "m", "keys": keys}).is_success
    led = [{"channel": f"{low}.show", "frame": 0}]
    assert change(client, production, {"do": "change-gaps", "motion": "m", "keys": led, "change": "morph"}).is_success

    def kept(*frames: int, then: str = "hold", id: str = "between-1") -> httpx.Response:
        asked = {
            "motion": "m",
            "piece": low,
            "frames": frames,
            "then": then,
            "change": id,
            "window": "w",
            "base": client.get(f"/productions/{production}").json()["seq"],
        }
        return client.post(f"/productions/{production}/betweens", json=asked)

    done = kept(2, 4, 6)
    assert done.is_success, done.text
    here = documents(client, production)
    drawings = here["a"]["pieces"][low]["drawings"]
    assert len(drawings) == 5
    shown = {int(f): k for f, k in here["m"]["channels"][f"{low}.show"]["keys"].items()}
    numbers = {d["number"]: d for d in drawings}
    assert sorted(shown) == [0, 2, 4, 6, 8]
    for n, frame in enumerate((2, 4, 6)):
        drawn = numbers[shown[frame]["value"][0]]
        art = Art.model_validate(client.get(f"/assets/{drawn['art']}").json())
        (node,) = art.nodes
        assert isinstance(node, Shape)
        # From 30 units high to 70, in even steps; the line is not there, so that bounds are the outline's.
        tall = art.bounds[3] - art.bounds[1]
        assert tall == pytest.approx(30 + 40 * (n + 1) / 4, abs=0.1)
        assert drawn["shape"] is not None, "one outline in a flat colour has points to edit"
    # Nothing is between the two any more: each is held.
    again = kept(3, id="between-2")
    assert again.status_code == 422
    assert "becomes no other drawing" in again.text
    assert client.post(
        f"/productions/{production}/undo", json={"id": "undo-0001", "window": "w", "target": done.json()["seq"]}
    ).is_success
    assert len(documents(client, production)["a"]["pieces"][low]["drawings"]) == 2
