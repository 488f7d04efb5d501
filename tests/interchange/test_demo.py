"""The demo production: no likely mistakes in it, and motions that do what they are shown for."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from sorvan.core.change.reusing import BringPuppet
from sorvan.core.checks.motion import findings
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.checks.rig import findings as rig_findings
from sorvan.core.model.documents import Documents
from sorvan.core.model.kit import Kit
from sorvan.core.model.production import Production
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.ready_morphs import made_ready
from sorvan.core.reuse.carrying import carried
from sorvan.core.reuse.fitting import fitted
from sorvan.core.reuse.links import linked
from sorvan.core.reuse.pins import pins_for
from sorvan.core.rig.anatomy import anatomy
from sorvan.core.rig.skeleton import rest_worlds
from sorvan.demo.quay import build
from sorvan.interchange.archive import KeptFiles
from sorvan.picture.studio import Studio
from tests.loose import stripped


@pytest.fixture(scope="module")
def built() -> tuple[Documents, KeptFiles]:
    return build()


@pytest.fixture(scope="module")
def quay(built: tuple[Documents, KeptFiles]) -> Documents:
    return built[0]


@pytest.fixture(scope="module")
def studio(built: tuple[Documents, KeptFiles]) -> Studio:
    return Studio(lambda id: built[1][id][1])


def test_the_steam_rises_and_nothing_goes_wrong_on_its_way(quay: Documents, studio: Studio) -> None:
    documents = quay
    found = Evaluation.full(documents.puppet("steam"), documents.motion("plume"), False, documents.production, studio)
    row = found.puppet.order.index("s-plume-1")
    assert len(found.places.becoming[row].pairs) == 3, "round the loop"
    seen = MotionSeen(found, documents.motion("plume"))
    assert not findings(seen, documents)
    piece = found.puppet.pieces["s-plume-1"]
    assert [len(m.marks) for m in piece.morphs.values()] == [4, 4, 4]
    # What is marked never sinks: the mouth stays, and folds are higher in every frame than in the one before.
    for pair, moving in zip(found.places.becoming[row].pairs, found.going.values(), strict=True):
        ready, _ = made_ready(piece, pair, documents.production, studio)
        steps = [np.diff(moving.points[m.point, 1]) for m in ready.met]
        assert [bool((s < -1).all()) for s in steps] == [False, False, True, True]
        assert all(np.abs(s).max() < 1e-9 for s in steps[:2])


def test_no_check_finds_anything_in_it(quay: Documents) -> None:
    found = [f"{p.name}: {f.text}" for p in quay.puppets() for f in rig_findings(p)]
    for motion in quay.motions():
        seen = MotionSeen(Evaluation.full(quay.puppet(motion.puppet), motion), motion)
        found += [f"{motion.name}: {f.text}" for f in findings(seen, quay)]
    assert not found


@pytest.mark.parametrize("name", ["walk", "tired", "run"])
def test_the_conductor_walks_on_the_ground_with_cards_and_swing(quay: Documents, name: str) -> None:
    motion, puppet = quay.motion(name), quay.puppet("conductor-side")
    labels = {p.label for p in motion.poses.values()}
    assert {"contact", "down", "up"} < labels
    evaluation = Evaluation.full(puppet, motion)
    level = motion.ground.level
    assert level is not None
    for track in tracks(evaluation, anatomy(puppet).legs):
        assert track.lowest.max() < level + 0.01
    scarf = evaluation.keyed["tail-end.turn"][0]
    assert np.ptp(scarf) > 4, "the scarf swings"


def test_the_lantern_comes_to_rest_and_keeps_its_area(quay: Documents) -> None:
    evaluation = Evaluation.full(quay.puppet("lantern"), quay.motion("drop"))
    world = evaluation.worlds[evaluation.rig.row["l-lantern"]]
    assert np.abs(world[0] * world[3] - world[1] * world[2] - 1).max() < 0.01
    height = world[5].max() - world[5]
    assert height[0] > 300 and height[-6:].max() < 0.5
    strikes = np.flatnonzero((height[1:-1] < 1) & (height[:-2] > 3))
    assert len(strikes) >= 3


def test_the_pennant_swings_later_and_later_towards_its_tip(quay: Documents) -> None:
    evaluation = Evaluation.full(quay.puppet("pennant"), quay.motion("wind"))
    angles = [
        np.unwrap(np.arctan2(*evaluation.worlds[evaluation.rig.row[id], [1, 0]]))
        for id in ("p-pennant", "flag-2", "flag-4")
    ]
    phase = [np.angle(np.fft.rfft(a - a.mean())[2]) for a in angles]
    late = [(phase[0] - p) % (2 * np.pi) for p in phase]
    assert 0.15 < late[1] < late[2] < np.pi


@pytest.mark.parametrize("name", ["conductor", "conductor-side", "gull", "pennant", "ferry"])
def test_every_rig_goes_back_on_its_own_bare_art_in_another_size(quay: Documents, studio: Studio, name: str) -> None:
    source = quay.puppet(name)
    bare = stripped(source, 0.6, (100, 50))
    joints = linked(source, bare).joints
    assert all(other == f"{one}x" for one, other in joints.items())
    pins = pins_for(source, bare, joints, studio)
    made = fitted(source, bare, joints, pins)
    assert not made.lacking
    worlds, own = rest_worlds(made.puppet), rest_worlds(source)
    there = made.links.joints
    assert there.keys() == source.joints.keys()
    for one, other in there.items():
        x, y = own[one].at
        assert worlds[other].at == pytest.approx((0.6 * x + 100, 0.6 * y + 50), abs=0.05)
        above = source.joints[one].parent
        assert made.puppet.joints[other].parent == (there[above] if above else None)
        assert made.puppet.joints[other].limits == source.joints[one].limits
    assert len(made.puppet.chains) == len(source.chains)
    assert len(made.puppet.dials) == len(source.dials)
    assert (made.puppet.mouths is None) == (source.mouths is None)
    assert {p.id for p in made.puppet.pieces.values() if p.attach} == {
        f"{p.id}x" for p in source.pieces.values() if p.attach
    }
    assert {e.name for e in made.puppet.book.values()} == {e.name for e in source.book.values()}
    assert sum(len(p.masks) for p in made.puppet.pieces.values()) == sum(len(p.masks) for p in source.pieces.values())
    # What it does then is what the first does, in its own size.
    for motion in quay.motions(name):
        if any(c.kind == "dial" and source.dials[c.joint].turns for c in motion.channels.values()):
            continue  # in other views the art of those views is wanted, which bare art does not have
        done = carried(motion, source, made.puppet, made.links, "new", Fraction(24), quay.lines_on(motion))
        before, after = Evaluation.full(source, motion), Evaluation.full(made.puppet, done.motion)
        for row, id in enumerate(before.skeleton.ids[1:], 1):
            now = after.worlds[after.skeleton.ids.index(there[id]), 4:6]
            want = 0.6 * before.worlds[row, 4:6] + np.array([[100.0], [50.0]])
            assert np.abs(now - want).max() < 1.0, (motion.name, id)
        # The same drawings, mouths to the words among them.
        assert np.array_equal(after.shown, before.shown), motion.name


def test_a_puppet_that_speaks_is_taken_along_twice_and_its_lines_and_swatches_once(quay: Documents) -> None:
    there = Documents({"pier": Production(id="pier", name="Pier")})
    kit = Kit.of(quay, "conductor")
    assert kit.voices and kit.swatches
    counts = []
    for turn in "ab":
        ids = {id: f"{turn}-{id}"[:40] for id in ("conductor", *(m.id for m in kit.motions))}
        there = BringPuppet(kit=kit, ids=ids).apply(there)
        counts.append((len(list(there.voices())), len(there.production.swatches)))
        spoken = [m for m in there.motions(ids["conductor"]) if m.sounds]
        assert spoken and all(p.voice in there.by_id for m in spoken for p in m.sounds.values())
    assert counts == [(len(kit.voices), len(kit.swatches))] * 2


@pytest.mark.parametrize(
    ("wide", "high", "size", "shift"), [(1920, 1080, 1.5, (0, 0)), (1000, 900, 0.78125, (0, 168.75))]
)
def test_on_a_stage_of_another_size_every_puppet_does_the_same_in_that_size(
    quay: Documents, wide: int, high: int, size: float, shift: tuple[float, float]
) -> None:
    there = Documents({"pier": Production(id="pier", name="Pier", width=wide, height=high)})
    for own in quay.puppets():
        kit = Kit.of(quay, own.id)
        ids = {id: id for id in (own.id, *(m.id for m in kit.motions))}
        there = BringPuppet(kit=kit, ids=ids).apply(there)
        puppet = there.puppet(own.id)
        assert puppet.origin == pytest.approx(np.array(own.origin) * size + shift)
        for motion in (None, *quay.motions(own.id)):
            now = there.motion(motion.id) if motion else None
            before, after = Evaluation.full(own, motion), Evaluation.full(puppet, now)
            want = before.worlds[1:] * size + np.array([0, 0, 0, 0, *shift])[:, None]
            assert np.abs(after.worlds[1:] - want).max(initial=0) < 0.02, (own.name, motion and motion.name)
            assert np.array_equal(after.shown, before.shown)
    # And home again it is as it was, as far as it fits.
    ids = {id: f"{id}-b"[:40] for id in ("conductor", *(m.id for m in quay.motions("conductor")))}
    home = BringPuppet(kit=Kit.of(there, "conductor"), ids=ids).apply(quay)
    back, conductor = home.puppet(ids["conductor"]), quay.puppet("conductor")
    left = 1.0 if size > 1 else 0.78125 * 0.8
    for id, world in rest_worlds(conductor).items():
        assert rest_worlds(back)[id][:4] == pytest.approx(np.array(world[:4]) * left, abs=1e-6)
