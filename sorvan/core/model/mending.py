"""Mending documents that a Sorvan before this one let through: what can't stand is taken out, or cut to what fits."""

from __future__ import annotations

import contextlib
import copy
from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from sorvan.core.errors import Refusal, in_words
from sorvan.core.model.channels import CHOICES, ChannelId, belongs_to
from sorvan.core.model.documents import DOCUMENT, AnyDocument
from sorvan.core.model.puppet import ROOT

Body = dict[str, Any]
MOST_MENDS = 2000
"""Mends tried on one document before it is given up."""


def document(body: Mapping[str, Any]) -> AnyDocument:
    """One document from its body, mended where it must be. Raises `Refusal` if it can't be."""
    try:
        return DOCUMENT.validate_python(body)
    except ValidationError:
        return mended(body)


def mended(body: Mapping[str, Any]) -> AnyDocument:
    """A document from a body that is not sound. Raises `Refusal` if too little of it is."""
    left = copy.deepcopy(dict(body))
    _mend(left)
    for _ in range(MOST_MENDS):
        try:
            return DOCUMENT.validate_python(left)
        except ValidationError as error:
            first = error.errors()[0]
            if not (_fit(left, first) or _leave_out(left, first) or _mend(left)):
                raise in_words(error) from None
    raise Refusal("A document is too damaged to be read.", where=str(body.get("name", "")), kind="damaged")


def _way(body: Any, error: ErrorDetails) -> list[tuple[Any, Any]]:
    """The places that lead to what an error is about, as far as they are there: each what holds it, and where in it."""
    found: list[tuple[Any, Any]] = []
    at = body
    for step in error["loc"]:
        # What it says of unions and of keys names no place.
        held: Any = at
        if (isinstance(at, dict) and step in at) or (isinstance(at, list) and isinstance(step, int) and step < len(at)):
            found.append((held, step))
            at = held[step]
    return found


def _fit(body: Body, error: ErrorDetails) -> bool:
    """Cut, or bring within its bounds, the one value that an error is about."""
    facts = error.get("ctx", {})
    way = _way(body, error)
    if not way:
        return False
    place, last = way[-1]
    match error["type"]:
        case "too_long" | "string_too_long":
            place[last] = place[last][: facts["max_length"]]
        case "less_than_equal":
            place[last] = facts["le"]
        case "greater_than_equal":
            place[last] = facts["ge"]
        case _:
            return False
    return True


def _leave_out(body: Body, error: ErrorDetails) -> bool:
    """Take out the innermost thing that an error is about, or that lacks what it must have."""
    way = _way(body, error)
    if not way:
        return False
    place, last = way[-1]
    del place[last]
    return True


def _mend(body: Body) -> bool:
    """Take out of a document what speaks of things that are not there. Says whether anything was."""
    before = copy.deepcopy(body)
    # What is no such thing at all is found by the checks, and left out first.
    with contextlib.suppress(KeyError, TypeError, AttributeError, ValueError):
        match body.get("kind"):
            case "puppet":
                _mend_puppet(body)
            case "motion":
                _mend_motion(body)
            case "shot" | "voice" | "production":
                for values in body.values():
                    _file(values)
    return before != body


def _file(values: Any) -> None:
    """Take out what is filed under another id than its own."""
    if isinstance(values, dict):
        for id in [id for id, value in values.items() if isinstance(value, dict) and value.get("id", id) != id]:
            del values[id]


def _mend_puppet(body: Body) -> None:
    """Take out of a puppet what speaks of things that are not there."""
    pieces, joints, groups = (body.setdefault(k, {}) for k in ("pieces", "joints", "groups"))
    for field in ("pieces", "joints", "groups", "chains", "dials", "book"):
        _file(body.get(field))
    joints.pop(ROOT, None)
    for piece in pieces.values():
        joints.setdefault(piece["joint"], {"id": piece["joint"], "name": piece["name"]})
    for tree in (joints, groups):
        for thing in tree.values():
            if thing.get("parent") not in tree:
                thing["parent"] = None
        _cut_circles(tree)
    for joint in joints.values():
        joint["world"] = bool(joint.get("world")) and joint.get("parent") is None
    for piece in pieces.values():
        if piece.get("group") not in groups:
            piece["group"] = None
        piece["masks"] = [m for m in piece.get("masks", []) if m["piece"] in pieces]
        piece["attach"] = _attach_left(piece.get("attach"), joints)
        if piece.get("shows") not in {d["id"] for d in piece["drawings"]}:
            piece["shows"] = None
    _unmask_circles(pieces)
    order = [id for id in dict.fromkeys(body.get("order", [])) if id in pieces]
    body["order"] = [*order, *(id for id in pieces if id not in order)]
    chains = body.get("chains", {})
    body["chains"] = {
        id: c for id, c in chains.items() if {*c["joints"], c["handle"]} <= joints.keys() and len(c["joints"]) <= 24
    }
    for dial in body.get("dials", {}).values():
        for stop in dial.get("stops", []):
            stop["values"] = {c: v for c, v in stop.get("values", {}).items() if _there(c, pieces, joints)}
    mouths = body.get("mouths") or {}
    for field, there in (("piece", pieces), ("dial", body.get("dials", {}))):
        if mouths.get(field) is not None and mouths[field] not in there:
            mouths[field] = None


def _cut_circles(tree: Body) -> None:
    """Let nothing hang on itself: the first in each circle hangs on nothing."""
    for start in tree:
        seen, at = {start}, tree[start].get("parent")
        while at is not None and at not in seen:
            seen.add(at)
            at = tree[at].get("parent")
        if at is not None:
            tree[at]["parent"] = None


def _unmask_circles(pieces: Body) -> None:
    """Let nothing mask itself: a piece in a circle of masks has none."""
    for start, piece in pieces.items():
        waiting, seen = [m["piece"] for m in piece["masks"]], set[str]()
        while waiting and piece["masks"]:
            at = waiting.pop()
            if at == start:
                piece["masks"] = []
            elif at not in seen:
                seen.add(at)
                waiting.extend(m["piece"] for m in pieces[at].get("masks", []))


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
    owner, kind = ChannelId.of(channel)
    return owner in (pieces if belongs_to(kind) == "piece" else joints)


def _mend_motion(body: Body) -> None:
    for field in ("recipes", "plants", "sounds"):
        _file(body.get(field))
    channels = body.get("channels", {})
    for channel in channels.values():
        if channel["kind"] in CHOICES and channel.get("outside") == "repeat-and-add":
            channel["outside"] = "repeat"
    body["channels"] = {id: c for id, c in channels.items() if id == f"{c['joint']}.{c['kind']}"}
