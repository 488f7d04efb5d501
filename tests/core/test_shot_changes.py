"""Whatever is done to shots is undone exactly, and what follows a change is what working everything out anew gives."""

from __future__ import annotations

from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.change.writes import difference, patched
from sorvan.core.errors import Refusal
from sorvan.core.film.film import film
from sorvan.core.model.documents import DOCUMENT, Documents
from sorvan.core.model.shot import Member
from sorvan.core.shot.scene import InShot, ShotScene
from tests.core.staging import on_stage, strolling
from tests.core.test_shots import drawn, shot_keys, spans, staged
from tests.core.walkers import key
from tests.core.worlds import do, in_order, numbers

frames = st.integers(0, 95)
LEAN = {
    "id": "lean",
    "name": "lean",
    "low": -50,
    "high": 50,
    "stops": [{"at": at, "values": {"chest.turn": [at]}} for at in (-50, 0, 50)],
}


@st.composite
def shot_command(draw: st.DrawFn, documents: Documents, tag: int) -> dict[str, Any]:
    """Any command on a shot of these documents; it may be one that is refused."""
    id = draw(st.sampled_from([s.id for s in documents.all_shots()]))
    held = documents.shot(id)
    members = sorted(held.members())
    cast = draw(st.sampled_from(members)) if members else "nobody"
    member = held.cast.get(cast)
    own = sorted(member.spans) if isinstance(member, Member) else []
    span = draw(st.sampled_from(own)) if own else "none"
    pose = {"chest.turn": [draw(numbers)], "head.scale": [draw(st.floats(0.5, 2)), 1.1]}
    fade = {"frames": draw(st.integers(1, 40)), "colour": "#20304080"}
    some: list[dict[str, Any]] = [
        {"do": "pose-in-shot", "cast": cast, "frame": draw(frames), "values": pose, "over": draw(st.integers(0, 9)), "added": draw(st.booleans())},
        {"do": "split-span", "cast": cast, "span": span, "at": draw(frames), "id": f"q{tag}"},
        {
            "do": "nudge-span",
            "cast": cast,
            "span": span,
            "end": draw(st.sampled_from(["start", "end", "both"])),
            "by": draw(st.integers(-30, 30)),
        },
        {"do": "nudge-cast", "cast": cast, "by": [draw(st.integers(-9, 9)), 4], "frame": draw(frames)},
        {"do": "add-span", "cast": cast, "id": f"a{draw(frames)}", "motion": "m", "frame": draw(frames)},
        {"do": "repeat-span", "cast": cast, "span": span, "id": f"r{draw(frames)}"},
        {"do": "set-span", "cast": cast, "span": {"id": f"n{tag}", "motion": "m", **draw(spans)}},
        {"do": "remove-spans", "cast": cast, "spans": [span]},
        {"do": "set-shot", "close": draw(st.sampled_from([None, fade])), "stage": draw(st.sampled_from(["blocking", "breakdown", "final"]))},
        {"do": "set-shot", "join": {"kind": draw(st.sampled_from(["cut", "fade", "dissolve"])), **fade}},
        {"do": "set-cast", "cast": cast, "at": [draw(numbers), draw(numbers)], "mirror": draw(st.booleans()), "hidden": draw(st.booleans())},
        {"do": "order-cast", "cast": cast, "behind": draw(st.sampled_from([None, *held.order]))},
        {"do": "duplicate-cast", "cast": cast, "id": f"c{tag}"},
        {"do": "remove-cast", "cast": [cast]},
        {"do": "insert-shot-time", "at": draw(frames), "frames": draw(st.integers(-20, 20).filter(bool))},
        {"do": "split-shot", "at": draw(frames), "id": f"s{tag}"},
        {"do": "duplicate-shot", "id": f"s{tag}"},
        {"do": "set-dial", "puppet": "a", "dial": LEAN | {"rest": draw(st.floats(-30, 30))}},
        {"do": "move-joints", "puppet": "a", "joints": ["chest"], "dx": draw(st.floats(-9, 9)), "dy": 4},
        {"do": "set-look", "puppet": "a", "pieces": ["chest"], "opacity": draw(st.floats(0, 1))},
        {"do": "set-production", "width": draw(st.integers(300, 900))},
        {"do": "set-motion", "motion": "m", "length": draw(st.integers(8, 30))},
        {"do": "set-keys", "motion": "m", "keys": [key("head", "turn", draw(st.integers(0, 7)), draw(numbers))]},
        {"do": "set-shake", "shake": draw(st.sampled_from([None, {"size": 5.0}]))},
    ]  # fmt: skip
    made = draw(st.one_of(st.sampled_from(some), shot_keys()))
    ours = made["do"] not in (
        "key-in-shot",
        "set-dial",
        "move-joints",
        "set-look",
        "set-production",
        "set-motion",
        "set-keys",
    )
    return {**made, "shot": id} if ours else made


def leaning(documents: Documents) -> Documents:
    """The documents with a dial that one of the cast leans by for a while."""
    documents = do(documents, {"do": "set-dial", "puppet": "a", "dial": LEAN})
    leant = [{"joint": "lean", "kind": "dial", "frame": f, "value": [v]} for f, v in ((0, 10), (6, 40))]
    documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "lean", "length": 12})
    documents = do(documents, {"do": "set-keys", "motion": "n", "keys": leant})
    over = {"id": "l0", "motion": "n", "start": 20, "frames": 12, "row": 1}
    documents = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": over})
    return documents


def alike(one: ShotScene, other: ShotScene) -> None:
    for mine, theirs in zip(drawn(one).items(), drawn(other).items(), strict=True):
        assert mine[0] == theirs[0]
        for a, b in zip(mine[1], theirs[1], strict=True):
            np.testing.assert_allclose(a, b, atol=1e-9, err_msg=mine[0])


@given(staged(), st.data())
def test_any_list_of_changes_to_shots_is_followed_as_if_anew_and_undone_exactly(
    documents: Documents, data: st.DataObject
) -> None:
    documents = leaning(documents)
    states, done = [documents], []
    target = InShot(shot="s", seen_as=data.draw(st.sampled_from([None, "final", "blocking"])))
    scene = ShotScene.full(documents, target)
    for tag in range(data.draw(st.integers(2, 7))):
        command = data.draw(shot_command(states[-1], tag))
        try:
            states.append(do(states[-1], command))
        except Refusal:
            continue
        done.append(difference(states[-2], states[-1]))
        for document in states[-1].by_id.values():
            assert DOCUMENT.validate_python(document.model_dump(mode="json")) == document
        followed = scene.after(states[-1], target)
        anew = ShotScene.full(states[-1], target)
        scene = anew if followed is None else followed[0]
        alike(scene, anew)
        whole = film(states[-1])
        assert whole.frames == sum(p.frames for p in whole.parts) - sum(p.over for p in whole.parts)
    now = states[-1]
    for before, writes in zip(reversed(states[:-1]), reversed(done), strict=True):
        now = patched(now, [w.reversed() for w in reversed(writes)])
        assert in_order(now) == in_order(before)


def test_a_dial_that_rests_elsewhere_is_seen_in_a_shot_that_is_open() -> None:
    documents = leaning(on_stage(strolling(), {}))
    scene = ShotScene.full(documents, InShot(shot="s"))
    after = do(documents, {"do": "set-dial", "puppet": "a", "dial": LEAN | {"rest": 30.0}})
    followed = scene.after(after, InShot(shot="s"))
    assert followed is not None
    (one,) = (a.evaluation.keyed["lean.dial"][0] for a in followed[0].acted)
    np.testing.assert_allclose(one[[0, 95]], 30)
    alike(followed[0], ShotScene.full(after, InShot(shot="s")))
