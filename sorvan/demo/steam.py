"""The steam whistle by itself: a plume in three drawings that become one another, round and round."""

from __future__ import annotations

from itertools import pairwise

from sorvan.core.change.drawings import GatherDrawings, SetDrawing
from sorvan.core.change.keys import KeyAt, NewKey, SetKeys
from sorvan.core.change.morphs import ChangeGaps, MarkGiven, SetMark, SetMorph
from sorvan.core.change.pieces import SetPieces
from sorvan.core.change.production import AddMotion, SetPuppet
from sorvan.core.geometry import Point
from sorvan.core.model.channels import channel_id
from sorvan.core.model.ease import Even
from sorvan.core.model.puppet import Mark, Pairing
from sorvan.demo.builder import Builder
from sorvan.demo.conductor import BRASS
from sorvan.demo.paper import cut, drawing, line, piece, ring

MOUTH = (640.0, 520.0)
"""Where the steam leaves the whistle, in stage units."""
TALL, BILLOWS = 350.0, 3
"""How high the plume rises, and in how many billows on each side."""


FOLDS: tuple[tuple[tuple[int | None, int | None], ...], ...] = (
    ((1, 2), (2, 3), (3, None), (None, 1), (4, 4), (5, 5), (6, 6)),
    ((1, 1), (2, 2), (3, 3), (4, 4), (5, 5), (6, 6)),
    ((1, 1), (2, 2), (3, 3), (4, 5), (5, 6), (6, None), (None, 4)),
)
"""Which fold of a drawing becomes which of the next: they rise, the highest go, and new ones come at the mouth."""


def envelope(s: float) -> tuple[float, float, float]:
    """The middle of the plume so far up (0 to 1), and how wide it is to either side there."""
    x = MOUTH[0] + 92 * s**1.7
    wide = 13 + 92 * s**0.8 - 62 * max(0.0, s - 0.62) ** 1.3 / 0.38**1.3
    return x, MOUTH[1] - TALL * s, wide


def crease(n: float, side: int) -> tuple[float, Point]:
    """Where the n-th and the next billow of one side meet, and how far up that is; on the two sides they rise in turn."""
    s = (n + (0.0 if side < 0 else 0.5)) / (BILLOWS + 0.5)
    x, y, wide = envelope(s)
    return s, (x + side * wide * 0.82, y)


def creases(phase: float, side: int) -> list[Point]:
    """Where the billows of one side meet, from the mouth up: each a third of its way higher in every drawing."""
    return [at for n in range(BILLOWS + 1) for s, at in [crease(n + phase, side)] if 0.05 < s < 0.93]


def plume(phase: float) -> str:
    """The outline of the plume, as path data: up its left side, over the top, and down its right."""
    foot = (MOUTH[0] - 12, MOUTH[1]), (MOUTH[0] + 12, MOUTH[1])
    top = envelope(1.0)
    left, right = creases(phase, -1), creases(phase, 1)
    stops = [foot[0], *left, (top[0], top[1]), *reversed(right), foot[1]]
    path = [f"M{stops[0][0]:.1f} {stops[0][1]:.1f}"]
    for (ax, ay), (bx, by) in pairwise(stops):
        # A billow bulges out to its side by a part of its length.
        dx, dy = bx - ax, by - ay
        nx, ny = dy * 0.42, -dx * 0.42
        path.append(
            f"C{ax + dx * 0.1 + nx:.1f} {ay + dy * 0.1 + ny:.1f} {ax + dx * 0.9 + nx:.1f} {ay + dy * 0.9 + ny:.1f}"
            f" {bx:.1f} {by:.1f}"
        )
    return "".join(path) + "Z"


def steam_svg() -> bytes:
    """The whistle, and the plume in three drawings."""
    plumes = [
        piece(
            f"plume {n + 1}",
            f'<path id="body-{n}" data-name="body" d="{plume(n / 3)}" fill="#fdf6ea" fill-opacity=".94" '
            'stroke="#c9c3ba" stroke-width="2"/>',
            *(line(curl(at, side), "#cfc8bd", 4) for side in (-1, 1) for at in creases(n / 3, side)),
        )
        for n in range(3)
    ]
    whistle = piece(
        "whistle",
        cut("M622 548H658L664 640H616Z", BRASS, lift=3),
        cut("M616 560H664V572H616Z", "#8a6526", lift=1.5),
        cut("M626 516H654L658 548H622Z", BRASS, lift=2),
        line("M664 596H716V566", "#5b3f2a", 6),
        cut(ring(716, 560, 9, 9), "#b33c2e", lift=2),
    )
    return drawing(*plumes, whistle)


def curl(at: Point, side: int) -> str:
    """A fold that runs in from where two billows meet, as path data."""
    wide = envelope((MOUTH[1] - at[1]) / TALL)[2]
    x, y = at[0] - side * 2, at[1]
    return f"M{x:.1f} {y:.1f}Q{x - side * wide * 0.3:.1f} {y - 8:.1f} {x - side * wide * 0.42:.1f} {y + 16:.1f}"


def add_steam(build: Builder) -> None:
    """The whistle whose steam rises: three drawings, four marks from each to the next, a loop."""
    found = build.bring(
        "steam", "Steam whistle", steam_svg(), {"plume 1": MOUTH, "whistle": (640.0, 640.0)}, {"plume 1": "whistle"}
    )
    build.do(SetPuppet(puppet="steam", origin=(640.0, 640.0)))
    held = found["plume 1"]
    build.do(GatherDrawings(puppet="steam", piece=held, others=(found["plume 2"], found["plume 3"])))
    drawings = build.documents.puppet("steam").pieces[held].drawings
    for n, d in enumerate(drawings):
        build.do(SetDrawing(puppet="steam", piece=held, drawing=d.id, name=f"plume {n + 1}"))
    build.do(SetPieces(puppet="steam", pieces=(held,), name="steam"))
    for n, d in enumerate(drawings):
        after = drawings[(n + 1) % 3].id
        pairs = tuple(Pairing(first=a, second=b) for a, b in FOLDS[n])
        build.do(SetMorph(puppet="steam", piece=held, first=d.id, second=after, lone="point", pairs=pairs))
        for k, (a, b) in enumerate(marks(n)):
            mark = Mark(id=f"k{k + 1}", first=a, second=b)
            build.do(SetMark(puppet="steam", piece=held, first=d.id, second=after, mark=MarkGiven.whole(mark)))
    build.do(AddMotion(id="plume", puppet="steam", name="Steam rises", length=36, cycle=True))
    build.do(
        SetKeys(
            motion="plume",
            keys=tuple(
                NewKey(joint=held, kind="show", frame=12 * n, value=(float(d.number),), ease=Even())
                for n, d in enumerate(drawings)
            ),
        )
    )
    keys = tuple(KeyAt(channel=channel_id(held, "show"), frame=12 * n) for n in range(3))
    build.do(ChangeGaps(motion="plume", keys=keys, change="morph"))


def marks(n: int) -> list[tuple[Point, Point]]:
    """What of a drawing becomes what of the next: the mouth stays, and on each side a crease rises. What has risen by
    a whole billow is where the first drawing has the next one."""
    left, right = (MOUTH[0] - 12, MOUTH[1]), (MOUTH[0] + 12, MOUTH[1])
    rising = [(crease(1 + n / 3, side)[1], crease(1 + (n + 1) / 3, side)[1]) for side in (-1, 1)]
    return [(left, left), (right, right), *rising]
