"""What is made of loose pieces, held against the rigs that they are made for."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from sorvan.core.change.proposing import TakeRig, hung_as_proposed
from sorvan.core.geometry import Affine
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Joint, Piece, Placement, Puppet
from sorvan.core.reuse.links import hinted, linked
from sorvan.core.rig.proposal import proposed
from sorvan.core.rig.skeleton import piece_worlds
from sorvan.interchange.files import read_file
from sorvan.interchange.imported import bring_in
from sorvan.picture.studio import Studio
from tests.loose_figures import ENGLISH, PUPPETS, Loose, Point, biped, told


def opened(made: Loose, named: bool = True) -> tuple[Puppet, Studio, dict[str, str]]:
    """The puppet with its pieces brought in, where its art is, and its joints by what the parts are called."""
    found = read_file(made.svg(named), "loose.svg", True)
    production = Production(id="p", name="Quay", width=600, height=700)
    puppet = bring_in(production, "a", [found]).apply(Documents({"p": production, "a": Puppet(id="a", name="Figure")}))
    studio = Studio(lambda id: found.assets[id][1])
    ids = dict(zip(made.sizes, puppet.puppet("a").order, strict=True))
    return puppet.puppet("a"), studio, ids


@dataclass
class Score:
    """How much of a proposed rig is right, wrong, or left open: what hangs on what, and where it turns."""

    right: int = 0
    wrong: list[str] = field(default_factory=list)
    open: list[str] = field(default_factory=list)
    pins_right: int = 0
    pins_wrong: list[str] = field(default_factory=list)


def scored(made: Loose, named: bool = True) -> Score:
    """The proposal for a puppet held against what it is made for."""
    puppet, studio, ids = opened(made, named)
    names = {id: name for name, id in ids.items()}
    hangs = {names[h.joint]: h for h in proposed(puppet, studio).hangs}
    score = Score()
    # Trunk and pelvis may carry one another.
    for name, parent in made.hangs.items():
        found = hangs.get(name)
        its = names.get(found.parent or "") if found else None
        turned = its is None and hangs.get(parent) is not None and hangs[parent].parent == ids[name]
        if turned:
            score.right += 1
            continue
        if found is None or its is None:
            score.open.append(name)
            continue
        # Hips and what is worn on them too.
        carried = made.hangs.get(parent) == its or made.hangs.get(its) == parent
        if its == parent or (carried and {its, parent} in ({"torso", "pelvis"}, {"body", "seat"}, {"torso", "skirt"})):
            score.right += 1
        else:
            score.wrong.append(f"{name} on {its}")
        if name in made.pins and its == parent and found.pin:
            off = math.dist(found.pin, made.pins[name])
            if off <= max(0.5 * made.sizes[name], 9):
                score.pins_right += 1
            else:
                score.pins_wrong.append(f"{name} {off:.0f} off")
    return score


def rigged(made: Loose, named: bool = True) -> tuple[Puppet, dict[str, str]]:
    """The puppet with the rig that is proposed for it, and its joints by what the parts are called."""
    puppet, studio, ids = opened(made, named)
    return TakeRig(puppet=puppet.id, hung=hung_as_proposed(proposed(puppet, studio))).on(puppet), ids


BODIES = [
    name for name in list(PUPPETS)[: [*PUPPETS].index("gull, no names")] if name not in ("dog", "gull", "steam whistle")
]
"""The puppets of one build: two arms, two legs, a head."""


def part_of(name: str, part: str) -> str:
    """What a part of one of these bodies is, in the words of the first."""
    if name.startswith("robot"):
        first, _, side = part.rpartition("_") if part[-2:] in ("_L", "_R") else (part, "", "")
        words = {"arm_upper": "upper arm", "arm_lower": "lower arm", "leg_upper": "thigh", "leg_lower": "shin"}
        return f"{ {'L': 'left ', 'R': 'right '}.get(side, '') }{words.get(first, first)}"
    if name.startswith("ferryman"):
        first, _, side = part.partition("_")
        words = {"arm": "upper arm", "leg": "thigh", "body": "torso"}
        return f"{ {'l': 'left ', 'r': 'right '}.get(side, '') }{words.get(first, first)}"
    order = biped(told({}, ENGLISH), *((0.1, 1) if "side" in name else ()))
    return dict(zip(PUPPETS[name][0]().sizes, order.sizes, strict=True))[part]


@dataclass(frozen=True)
class Reused:
    """The rig of one body looked for on the loose pieces of another: how many parts are found right, which wrong, and which
    are left open."""

    rig: str
    art: str
    right: int
    wrong: list[str]
    open: list[str]


def reused() -> list[Reused]:
    """Each body's rig on the pieces of each other one."""
    found = []
    loose = {name: opened(PUPPETS[name][0](), PUPPETS[name][1]) for name in BODIES}
    for one in BODIES[:-1]:
        source, ids = rigged(PUPPETS[one][0](), PUPPETS[one][1])
        for other in BODIES:
            if other == one:
                continue
            puppet, studio, others = loose[other]
            links = linked(source, hinted(puppet, studio)).joints
            names = {id: name for name, id in others.items()}
            wanted = {part_of(other, name): name for name in others}
            right, wrong, left = 0, [], []
            for part, id in ids.items():
                want, got = wanted.get(part_of(one, part)), names.get(links.get(id, ""))
                if got == want:
                    right += got is not None
                elif got is None:
                    left.append(part)
                else:
                    wrong.append(f"{part} on {got}")
            found.append(Reused(one, other, right, wrong, left))
    return found


def stripped(puppet: Puppet, size: float = 1.0, shift: Point = (0.0, 0.0)) -> Puppet:
    """A puppet's art without its rig, as it would be brought in: every piece loose and turning about the middle of its
    picture; the same on the stage but for its size and place. Ids have an x behind them."""
    worlds, pieces, joints = piece_worlds(puppet), {}, {}
    for held in puppet.pieces.values():
        shown = held.shown()
        l, t, r, b = shown.bounds
        middle = ((l + r) / 2, (t + b) / 2)
        by = (middle[0] - shown.pivot[0], middle[1] - shown.pivot[1])
        x, y = worlds[held.id].place(middle)
        fit = Placement.of((worlds[held.id] @ Affine.shift(*middle))._replace(e=0.0, f=0.0))
        id = f"{held.id}x"
        pieces[id] = Piece(
            id=id,
            name=held.name,
            joint=id,
            drawings=tuple(d.changed(pivot=(d.pivot[0] + by[0], d.pivot[1] + by[1])) for d in held.drawings),
            fit=fit.changed(sx=fit.sx * size, sy=fit.sy * size),
            shows=held.shows,
        )
        rest = Placement(x=x * size + shift[0], y=y * size + shift[1])
        joints[id] = Joint(id=id, name=held.name, rest=rest)
    return Puppet(id="bare", name="Bare", pieces=pieces, joints=joints, order=tuple(f"{id}x" for id in puppet.order))
