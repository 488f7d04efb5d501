"""What a window on a motion is told: feet and mistakes, whole poses, paths, and whole cycles as tried."""

from __future__ import annotations

from typing import Any

import httpx
import numpy as np

from sorvan.core.model.documents import Documents
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.scene import InMotion
from sorvan.picture.studio import Studio
from sorvan.service.letters.messages import FROM_PAGE, ToPage
from sorvan.service.windows.views import WatchedScene
from tests.core.walkers import hand_made, key, keyed, planned, walker
from tests.core.worlds import do
from tests.interchange.test_films import film
from tests.service.test_http import bring, documents, gull
from tests.service.test_http import client as client

__all__ = ["gull"]
FIGURE: dict[str, Any] = {"facing": 1, "lean": 10.0, "foot": 0.3}


def watched(made: Documents) -> tuple[WatchedScene, list[ToPage]]:
    view = WatchedScene(made, InMotion(motion="m", backdrop=False), 1, Studio(lambda _: b""))
    return view, view.start()


def of(letters: list[ToPage], kind: str) -> list[dict[str, Any]]:
    return [x.wire() for x in letters if x.type == kind]


def floats(data: bytes, *shape: int) -> np.ndarray:
    return np.frombuffer(data, dtype="<f4").reshape(shape)


def test_feet_and_mistakes_are_told_at_once_and_then_only_what_changed() -> None:
    made = hand_made(FIGURE, 18, 0)
    view, letters = watched(made)
    (report,) = of(letters, "motion-report")
    assert report["slides"] == 0.5
    assert set(report["feet"]) == {"near0-foot", "far0-foot"} and report["ground"] == 650
    assert [f["check"] for f in report["findings"] if f["mend"]].count("foot slide") == 1
    assert all(len(f["slide"]) == 24 * 4 and len(f["stands"]) == 24 for f in report["feet"].values())
    nodded = keyed(made, key("head", "turn", 3, 4))
    assert not of(view.follow(nodded, 2), "motion-report"), "a nod is no news of the feet"
    matched = do(nodded, {"do": "match-travel", "motion": "m"})
    (mended,) = of(view.follow(matched, 3), "motion-report")
    assert "foot slide" not in {f["check"] for f in mended["findings"]}
    near = [id for id, p in matched.motion("m").plants.items() if p.joint == "near0-foot"]
    loose = do(matched, {"do": "remove-plants", "motion": "m", "ids": near})
    (news,) = of(view.follow(loose, 4), "motion-report")
    assert set(news["feet"]) == {"near0-foot"}


def test_frames_beside_a_pose_are_named_with_it() -> None:
    made = keyed(
        do(walker(), {"do": "set-motion", "motion": "m", "length": 20, "cycle": False}), key("head", "turn", 0, 1)
    )
    for f in (0, 10):
        made = do(made, {"do": "set-pose", "motion": "m", "frame": f, "text": "up"})
    view, letters = watched(made)
    assert of(letters, "motion-report")[0]["beside"] == {1: 0, 2: 0, 8: 10, 9: 10, 11: 10, 12: 10}
    more = do(made, {"do": "set-pose", "motion": "m", "frame": 3, "text": "down"})
    assert 2 not in of(view.follow(more, 2), "motion-report")[0]["beside"]


def test_poses_whose_channels_come_late_are_sent_whole() -> None:
    made = keyed(walker(), key("head", "turn", 0, 0), key("head", "turn", 12, 40))
    made = do(made, {"do": "set-pose", "motion": "m", "frame": 12, "text": "up"})
    view, letters = watched(made)
    assert not of(letters, "cards")
    late = do(made, {"do": "set-delay", "motion": "m", "channels": ["head.turn"], "delay": 3})
    (cards,) = of(view.follow(late, 2), "cards")
    assert cards["frames"] == (12,)
    head = made.puppet("a").order.index("head")
    prompt = Evaluation.full(made.puppet("a"), made.motion("m"))
    drawn = floats(cards["matrices"], 1, len(made.puppet("a").order), 6)
    assert np.allclose(drawn[0, head], prompt.pieces[head, :, 12], atol=1e-3)
    (none,) = of(view.follow(made, 3), "cards")
    assert none["frames"] == ()


def test_a_command_is_tried_on_the_whole_cycle_and_leaves_no_trace() -> None:
    made = planned(walker(**FIGURE), frames=24)
    view, _ = watched(made)
    recipe = made.motion("m").recipes["g"].model_dump(mode="json") | {"bounce": 11, "frames": 20}
    letter = {
        "type": "try-command",
        "n": 5,
        "whole": True,
        "command": {"do": "do-recipe", "motion": "m", "recipe": recipe},
    }
    (tried,) = of(view.try_command(FROM_PAGE.validate_python(letter)), "tried")
    assert (tried["n"], tried["frames"]) == (5, 20)
    wanted = do(made, letter["command"])  # type: ignore[arg-type]
    whole = Evaluation.full(wanted.puppet("a"), wanted.motion("m"))
    assert np.allclose(floats(tried["worlds"], 20, len(whole.worlds), 6), whole.worlds.transpose(2, 0, 1), atol=1e-2)
    assert view.documents is made


def test_the_path_that_is_looked_at_is_told_again_when_it_changes() -> None:
    made = keyed(walker(), key("head", "move", 0, 0, 0), key("head", "move", 12, 30, -20))
    view, _ = watched(made)
    (way,) = of(view.look_at_way(FROM_PAGE.validate_python({"type": "look-at-way", "joint": "head"})), "way")
    assert [k["frame"] for k in way["keys"]] == [0, 12] and way["keys"][1]["after"] is not None
    moved = do(made, {"do": "pull-way", "motion": "m", "joint": "head", "frame": 12, "to": [700, 100]})
    (again,) = of(view.follow(moved, 2), "way")
    assert np.allclose(again["keys"][1]["at"], (700, 100), atol=1e-3)
    assert not view.look_at_way(FROM_PAGE.validate_python({"type": "look-at-way"}))


def test_a_film_is_laid_under_the_work_frame_by_frame(gull: tuple[httpx.Client, str]) -> None:
    from fractions import Fraction

    client, production = gull
    done = bring(client, production, "a", film(Fraction(12), 6), "walk.mp4", purpose="reference")
    assert done.status_code == 200, done.text
    laid = documents(client, production)["a"]["reference"]
    # Twelve pictures a second over twenty-four frames: each shows for two.
    assert len(laid["pictures"]) in (11, 12) and laid["pictures"][0] == laid["pictures"][1] != laid["pictures"][2]
    picture = client.get(f"/assets/{laid['pictures'][0]}")
    assert picture.headers["content-type"] == "image/jpeg" and "sandbox" in picture.headers["content-security-policy"]
    wrong = bring(client, production, "a", b"no film", "walk.mp4", purpose="reference")
    assert wrong.status_code == 422 and "can't be read" in wrong.json()["title"] + wrong.json()["detail"]
    whole = client.get(f"/productions/{production}/archive")
    again = client.post("/productions/archive", files={"file": ("again.zip", whole.content)})
    assert again.status_code in (200, 201), again.text
