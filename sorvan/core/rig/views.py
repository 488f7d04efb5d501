"""Pieces that are named by the view they are drawn for, in the habits there are."""

from __future__ import annotations

import re
from collections.abc import Mapping, Set

from sorvan.core.model.puppet import Puppet

_QUARTER = r"(?:three[\s_-]*quarters?|3\s*/\s*4|3[\s_-]?4|34|quarter|tq)"
_PATTERNS: tuple[tuple[float, str, str], ...] = (
    (135.0, "three-quarter back", rf"(?:{_QUARTER}[\s_.-]*(?:back|rear)|(?:back|rear)[\s_.-]*{_QUARTER})"),
    (45.0, "three-quarter", rf"(?:(?:front[\s_.-]*)?{_QUARTER}(?:[\s_.-]*front)?)"),
    (0.0, "front", r"(?:front|face)"),
    (90.0, "side", r"(?:side|profile)"),
    (180.0, "back", r"(?:back|rear)"),
)
_VIEWS = [
    (at, view, re.compile(rf"(?:^|[\s_./\-()])(?P<word>{words})(?=$|[\s_./\-()])", re.IGNORECASE))
    for at, view, words in _PATTERNS
]


def view_of(name: str) -> tuple[float, str, str] | None:
    """The view that a name speaks of: its degrees, what it is called, and the name without it; None if it speaks of
    none. “head side”, “side_head”, “head.3/4” and “Head (back)” are all understood."""
    for at, view, pattern in _VIEWS:
        match = pattern.search(name)
        if match is None:
            continue
        rest = re.sub(r"[\s_./\-()]+", " ", f"{name[: match.start('word')]} {name[match.end('word') :]}").strip()
        return at, view, rest
    return None


def drawn_by_view(puppet: Puppet) -> dict[str, dict[float, str]]:
    """Pieces that are the same thing in several views: by what it is called, a piece's id for each view's degrees. A
    name tells the view itself, or that of a group it is in does; what is named without a view beside others that are is
    as seen from the front."""
    told: list[tuple[float, str, str]] = []
    plain: dict[str, str] = {}
    for id in puppet.order:
        piece = puppet.pieces[id]
        own = view_of(piece.name)
        if own is not None and own[2]:
            told.append((own[0], own[2].lower(), id))
            continue
        around = (view_of(group.name) for group in puppet.around(piece))
        group = next((view for view in around if view is not None), None)
        if group is not None:
            told.append((group[0], piece.name.lower(), id))
        else:
            plain.setdefault(piece.name.lower(), id)
    found: dict[str, dict[float, str]] = {}
    for at, name, id in told:
        elsewhere = {other for view, other, _ in told if view != at} | plain.keys()
        found.setdefault(_shared(name, elsewhere), {}).setdefault(at, id)
    for name in found.keys() & plain.keys():
        found[name].setdefault(0.0, plain[name])
    return {name: by for name, by in found.items() if len(by) > 1}


def offered_views(puppet: Puppet) -> dict[str, dict[float, str]]:
    """Of what is drawn in several views what is offered unasked: parts of which another has two of the same views, or
    that are drawn in three or more, or whose front is called so too. “Hair” and “hair back” alone are two hairs, and nothing that is seen from all round."""
    several = drawn_by_view(puppet)

    def called(by: dict[float, str]) -> bool:
        return 0.0 in by and view_of(puppet.pieces[by[0.0]].name) is not None

    return {
        name: by
        for name, by in several.items()
        if called(by)
        or len(by) > 2
        or any(len(by.keys() & its.keys()) > 1 for other, its in several.items() if other != name)
    }


def _shared(name: str, elsewhere: Set[str]) -> str:
    """What a thing is called in all views, of which others have these names. Where two groups hold a “head” each, the
    second came in as “head 2”."""
    bare = re.sub(r"[\s_-]+\d+$", "", name)
    return bare if name not in elsewhere and bare in elsewhere else name


def boxes(
    by_name: Mapping[str, Mapping[float, str]], at: Mapping[str, tuple[float, float, float, float]]
) -> dict[float, tuple[float, float, float, float]]:
    """For each view the box around all that is drawn for it, from the boxes of pieces on the stage."""
    found: dict[float, tuple[float, float, float, float]] = {}
    for by in by_name.values():
        for view, id in by.items():
            l, t, r, b = at[id]
            if view in found:
                m = found[view]
                l, t, r, b = min(l, m[0]), min(t, m[1]), max(r, m[2]), max(b, m[3])
            found[view] = (l, t, r, b)
    return found
