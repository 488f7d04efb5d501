"""Made-up puppets that can walk: any proportions, two to six legs, either way round."""

from __future__ import annotations

from typing import Any

from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.rig.anatomy import anatomy
from tests.core.worlds import do


def part(id: str, name: str, at: tuple[float, float], box: tuple[float, float, float, float]) -> dict[str, Any]:
    """A new piece whose pivot is at a place and whose picture reaches so far from there."""
    left, top, right, bottom = box
    drawing = {
        "id": "d",
        "name": id,
        "art": "0" * 64,
        "pivot": [-left, -top],
        "bounds": [0, 0, right - left, bottom - top],
    }
    return {"id": id, "name": name, "drawing": drawing, "at": list(at)}


def walker(
    *,
    height: float = 500.0,
    leg: float = 0.5,
    shin: float = 1.0,
    foot: float = 0.3,
    knees: bool = True,
    hock: bool = False,
    toes: bool = False,
    legs: int = 2,
    facing: int = 1,
    arms: bool = True,
    lean: float = 0.0,
    ankle: float = 0.06,
) -> Documents:
    """A puppet in side view standing at (640, 650). `leg` is its legs' part of its height, `shin` the
    shin's length by the thigh's, `foot` its foot's by the shin's; `lean` tilts its knees at rest (units), `ankle` is how high
    its feet are by its legs."""
    documents = do(Documents({"p": Production(id="p", name="Quay")}), {"do": "add-puppet", "id": "a", "name": "Porter"})
    documents = do(documents, {"do": "set-puppet", "puppet": "a", "origin": [640, 650]})
    tall = height * leg
    ankle = ankle * tall if foot else 0.0
    hip = 650 - tall
    bones = 3 if hock else 2 if knees else 1
    share = [1.0, shin, 0.7][:bones]
    lengths = [(tall - ankle) * s / sum(share) for s in share]
    wide = 0.05 * height
    made = [part("body", "pelvis", (640, hip), (-wide, -0.1 * height, wide, wide))]
    parents: dict[str, str] = {}
    roles = {"body": "pelvis", "chest": "spine", "head": "head"}
    made.append(part("chest", "chest", (640, hip - 0.02 * height), (-wide, -0.3 * height, wide, 0)))
    made.append(part("head", "head", (640, hip - 0.32 * height), (-wide, -2 * wide, wide, 0)))
    parents |= {"chest": "body", "head": "chest"}
    pairs = max(1, legs // 2)
    for n in range(legs):
        side = "near" if n % 2 == 0 else "far"
        pair = n // 2
        x = 640 + (0.0 if pairs == 1 else facing * height * 0.35 * (0.5 - pair / (pairs - 1)))
        x += (3.0 if n % 2 == 0 else -3.0) * facing
        y, above = hip, "body"
        for b, length in enumerate(lengths):
            id = f"{side}{pair}-{('thigh', 'shin', 'cannon')[b]}"
            bend = facing * lean * (0, 1, -0.6)[b] if bones > 1 else 0.0
            made.append(
                part(
                    id,
                    f"{side} {('thigh', 'shin', 'cannon')[b]} {pair + 1}",
                    (x + bend, y),
                    (-0.4 * wide, 0, 0.4 * wide, length),
                )
            )
            parents[id], above = above, id
            roles[id] = ("thigh", "shin", "foot")[b]
            y += length
        if foot:
            id, reach = f"{side}{pair}-foot", max(lengths[min(1, bones - 1)] * foot, 6.0)
            box = (-0.3 * reach, 0, 0.7 * reach, ankle) if facing > 0 else (-0.7 * reach, 0, 0.3 * reach, ankle)
            if toes:
                ball = 0.4 * reach
                cut = (box[0], 0, ball, ankle) if facing > 0 else (-ball, 0, box[2], ankle)
                made.append(part(id, f"{side} foot {pair + 1}", (x, y), cut))
                front = (
                    (0, -0.3 * ankle, 0.3 * reach, 0.4 * ankle)
                    if facing > 0
                    else (-0.3 * reach, -0.3 * ankle, 0, 0.4 * ankle)
                )
                made.append(part(f"{id}-toe", f"{side} toe {pair + 1}", (x + facing * ball, y + 0.6 * ankle), front))
                parents[f"{id}-toe"], roles[f"{id}-toe"] = id, "toe"
            else:
                made.append(part(id, f"{side} foot {pair + 1}", (x, y), box))
            parents[id], roles[id] = above, "toe" if hock else "foot"
    if arms:
        reach = 0.17 * height
        for side, dx in (("near", 2.0), ("far", -2.0)):
            top = hip - 0.28 * height
            for b, word in enumerate(("upper arm", "forearm")):
                id = f"{side}-{word.replace(' ', '-')}"
                made.append(
                    part(
                        id, f"{side} {word}", (640 + dx * facing, top + b * reach), (-0.3 * wide, 0, 0.3 * wide, reach)
                    )
                )
                parents[id] = "chest" if b == 0 else f"{side}-upper-arm"
                roles[id] = ("upper arm", "lower arm")[b]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": made})
    for child, parent in parents.items():
        documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": child, "parent": parent})
    for id, role in roles.items():
        side = "left" if id.startswith("near") else "right" if id.startswith("far") else "centre"
        documents = do(documents, {"do": "set-joints", "puppet": "a", "joints": [id], "role": role, "side": side})
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "walk", "length": 24, "cycle": True})


def planned(documents: Documents, **fields: Any) -> Documents:
    """The documents with a gait done on the motion."""
    recipe = {"kind": "gait", "id": "g", "name": "gait", **fields}
    return do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe})


def key(joint: str, kind: str, frame: int, *value: float) -> dict[str, Any]:
    """A new key as plain data."""
    return {"joint": joint, "kind": kind, "frame": frame, "value": list(value)}


def keyed(documents: Documents, *keys: dict[str, Any]) -> Documents:
    """The documents with these keys set."""
    return do(documents, {"do": "set-keys", "motion": "m", "keys": list(keys)})


def hand_made(figure: dict[str, Any], thigh: float, sway: float) -> Documents:
    """A walk on the spot from four poses: legs swung by turns, knees lifted on the way forward."""
    documents = walker(**figure, height=500.0)
    way, size = figure["facing"], anatomy(documents.puppet("a")).leg
    # A knee gives backwards: the shin of one who faces right turns clockwise.
    turns = []
    for name, first in (("near", 0), ("far", 12)):
        for frame, angle, bend in ((0, thigh, 4), (6, 0, 4), (12, -thigh, 8), (18, 0.2 * thigh, 55)):
            at = (frame + first) % 24
            turns += [key(f"{name}0-thigh", "turn", at, -way * angle), key(f"{name}0-shin", "turn", at, way * bend)]
            turns += [key(f"{name}0-foot", "turn", at, way * (angle - bend))]
    drop = 0.06 * size + 2
    body = [key("body", "move", f, sway, drop + (6 if f % 12 == 0 else 0)) for f in (0, 6, 12, 18)]
    return keyed(documents, *turns, *body)
