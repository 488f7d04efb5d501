"""Reading documents that were written down, also by a Sorvan that let through what no longer may be.

What can't stand is taken out or cut to what fits, so that a production always opens again.
"""

from __future__ import annotations

import copy
from collections.abc import Iterable, Mapping
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.channel import CHOICES, OF_PIECES
from sorvan.core.model.documents import DOCUMENT, AnyDocument, Documents
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import motions_of
from sorvan.core.model.voice import Voice

Body = dict[str, Any]
MOST_MENDS = 2000
"""Mends tried on one document before it is given up."""


def read(bodies: Iterable[Mapping[str, Any]]) -> Documents:
    """The documents with these bodies, in this order. Raises `Refusal` if one can't be made sense of."""
    return tidied(Documents({d.id: d for d in map(document, bodies)}))


def tidied(found: Documents) -> Documents:
    """The documents without what they say of one another's things that are not there."""
    for puppet in list(found.puppets()):
        found = _with_swatches_there(found.swept(puppet.id), puppet)
    for motion in list(found.motions()):
        sounds = {id: p for id, p in motion.sounds.items() if isinstance(found.by_id.get(p.voice), Voice)}
        if len(sounds) != len(motion.sounds):
            found = found.with_(motion.changed(sounds=sounds))
    found = _with_shots_whole(found)
    production = found.production
    if production.backdrop is not None and found.backdrop() is None:
        found = found.with_(production.changed(backdrop=None))
    return found


def _with_shots_whole(found: Documents) -> Documents:
    """The documents with every shot in the order of the film, and no shot that speaks of what is not there."""
    for puppet in {c.puppet for s in found.all_shots() for c in s.cast.values()} - {p.id for p in found.puppets()}:
        found = found.without_cast(puppet)
    motions = {m.id for m in found.motions()}
    for shot in found.all_shots():
        gone = {i for c in shot.cast.values() for i in motions_of(c)} - motions
        for motion in gone:
            found = found.without_motion(motion)
        shot = found.shot(shot.id)
        sounds = {id: p for id, p in shot.sounds.items() if isinstance(found.by_id.get(p.voice), Voice)}
        if len(sounds) != len(shot.sounds):
            found = found.with_(shot.changed(sounds=sounds))
    there = [s.id for s in found.all_shots()]
    named = [id for id in dict.fromkeys(found.production.shots) if id in there]
    order = (*named, *(id for id in there if id not in named))
    return found if order == found.production.shots else found.with_(found.production.changed(shots=order))


def document(body: Mapping[str, Any]) -> AnyDocument:
    """One document from its body, mended where it must be. Raises `Refusal` if it can't be."""
    try:
        return DOCUMENT.validate_python(body)
    except ValidationError:
        pass
    mended = copy.deepcopy(dict(body))
    if mended.get("kind") == "puppet":
        _mend_puppet(mended)
    elif mended.get("kind") == "motion":
        _mend_motion(mended)
    for _ in range(MOST_MENDS):
        try:
            return DOCUMENT.validate_python(mended)
        except ValidationError as error:
            if not _fit(mended, error.errors()[0]):
                raise in_words(error) from None
    raise Refusal("A document is too damaged to be read.", where=str(body.get("name", "")), kind="damaged")


def _fit(body: Body, error: ErrorDetails) -> bool:
    """Cut, or bring within its bounds, the one value that an error is about."""
    place: Any = None
    at: Any = body
    last: Any = None
    steps: list[Any] = [*error["loc"]]
    for step in steps:
        if (isinstance(at, dict) and step in at) or (isinstance(at, list) and isinstance(step, int) and step < len(at)):
            place, last, at = at, step, at[step]
    facts = error.get("ctx", {})
    match error["type"]:
        case "too_long" | "string_too_long":
            place[last] = at[: facts["max_length"]]
        case "less_than_equal" | "less_than":
            place[last] = facts.get("le", facts.get("lt"))
        case "greater_than_equal":
            place[last] = facts["ge"]
        case _:
            return False
    return True


def _mend_puppet(body: Body) -> None:
    """Take out of a puppet what speaks of things that are not there."""
    pieces, joints, groups = (body.setdefault(k, {}) for k in ("pieces", "joints", "groups"))
    for joint in joints.values():
        joint["world"] = bool(joint.get("world")) and joint.get("parent") is None
    for group in groups.values():
        group["parent"] = group.get("parent") if group.get("parent") in groups else None
    for piece in pieces.values():
        if piece.get("group") not in groups:
            piece["group"] = None
        piece["masks"] = [m for m in piece.get("masks", []) if m["piece"] in pieces]
        piece["attach"] = _attach_left(piece.get("attach"), joints)
        if piece.get("shows") not in {d["id"] for d in piece["drawings"]}:
            piece["shows"] = None
    chains = body.get("chains", {})
    body["chains"] = {
        id: c for id, c in chains.items() if {*c["joints"], c["handle"]} <= joints.keys() and len(c["joints"]) <= 24
    }
    for dial in body.get("dials", {}).values():
        for stop in dial.get("stops", []):
            stop["values"] = {c: v for c, v in stop.get("values", {}).items() if _there(c, pieces, joints)}


def _attach_left(attach: Body | None, joints: Body) -> Body | None:
    if attach is None:
        return None
    nodes = "joints" if attach["kind"] == "bend" else "handles"
    left = list(dict.fromkeys(n for n in attach[nodes] if n in joints))
    kept = attach | {nodes: left}
    if attach["kind"] == "bend":
        kept["dabs"] = [d for d in attach.get("dabs", []) if d["joint"] in left]
        kept["reach"] = {j: r for j, r in attach.get("reach", {}).items() if j in left}
    return kept if len(left) >= (2 if attach["kind"] == "bend" else 1) else None


def _there(channel: str, pieces: Body, joints: Body) -> bool:
    owner, _, kind = channel.rpartition(".")
    return owner in (pieces if kind in OF_PIECES else joints)


def _mend_motion(body: Body) -> None:
    channels = body.get("channels", {})
    for channel in channels.values():
        if channel["kind"] in CHOICES and channel.get("outside") == "repeat-and-add":
            channel["outside"] = "repeat"
    body["channels"] = {id: c for id, c in channels.items() if id == f"{c['joint']}.{c['kind']}"}


def _with_swatches_there(documents: Documents, puppet: Puppet) -> Documents:
    known = documents.production.swatches
    kept = {
        p.id: p.changed(swatches={k: s for k, s in p.swatches.items() if s in known})
        for p in puppet.pieces.values()
        if not known.keys() >= set(p.swatches.values())
    }
    return documents.with_(puppet.with_pieces(*kept.values())) if kept else documents
