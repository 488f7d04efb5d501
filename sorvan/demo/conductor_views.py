"""The ferry conductor from four more sides, cut from the same paper: three-quarter, side, and both from behind.

Every piece goes by the name of the one that it stands for and by its view. Arms, legs and eyes are the front's own,
placed and turned anew; what looks different is cut anew. She looks to the right of the picture.
"""

from __future__ import annotations

from collections.abc import Iterable

from sorvan.core.geometry import Point
from sorvan.demo import conductor_side as side
from sorvan.demo.conductor import BLUSH, BOOT, BRASS, CREAM, DEEP, HAIR, LINKS, NAVY, RUST, SKIN, TEAL
from sorvan.demo.paper import cut, dot, drawing, flat, line, piece, ring

PartsByView = dict[str, tuple[str, ...]]
DARK, SHADE, BUN, STRAP, SOLE, WRAP = "#182c42", "#74321f", "#9c4b39", "#7d4f33", "#6d4c41", "#27766d"
AT = {"three-quarter": 45.0, "side": 90.0, "three-quarter back": 135.0, "back": 180.0}
"""From where each view is seen, in degrees."""
UNSEEN: dict[str, tuple[str, ...]] = {
    "three-quarter": (),
    "side": ("left eye", "left pupil", "left lid"),
    "three-quarter back": ("left eye", "left pupil", "left lid", "right eye", "right pupil", "right lid", "mouth"),
    "back": ("left eye", "left pupil", "left lid", "right eye", "right pupil", "right lid", "mouth"),
}
"""What is not seen in a view, beside what has no drawing for it."""
SIZES: dict[str, dict[str, float]] = {
    "three-quarter": {
        "left eye": 0.8, "left pupil": 0.85, "left lid": 0.84, "right eye": 0.95, "right lid": 0.96, "mouth": 0.86,
    },
    "side": {"right eye": 0.84, "right pupil": 0.94, "right lid": 0.86, "mouth": 0.5},
    "three-quarter back": {},
    "back": {"left hand": -1.0, "right hand": -1.0},
}  # fmt: skip
"""How wide what is not cut anew looks in a view."""


def _limbs(right: tuple[Point, ...], left: tuple[Point, ...]) -> dict[str, Point]:
    """Shoulder, elbow, wrist, hip, knee, ankle, heel and toe of both sides."""
    names = ("upper arm", "forearm", "hand", "thigh", "shin", "shoe", "heel", "toe")
    both = (("right", right), ("left", left))
    return {f"{of} {name}": at for of, places in both for name, at in zip(names, places, strict=True)}


def _eyes(right: float, left: float) -> dict[str, Point]:
    return {
        f"{of} {part}": (x, 176.0 if part == "lid" else 197.0)
        for of, x in (("right", right), ("left", left))
        for part in ("eye", "pupil", "lid")
    }


PLACES: dict[str, dict[str, Point]] = {
    "three-quarter": {
        "head": (644, 252), "brows": (660, 178), "mouth": (662, 229), "cap": (644, 150), "fringe": (644, 160),
        **_eyes(643, 675), "satchel": (620, 300),
        "right skirt": (616, 404), "right skirt hem": (610, 462), "left skirt": (664, 404), "left skirt hem": (670, 462),
        **_limbs(
            ((604, 290), (597, 364), (595, 436), (626, 428), (627, 522), (624, 612), (610, 641), (664, 641)),
            ((676, 290), (685, 362), (690, 433), (656, 428), (659, 522), (660, 612), (646, 641), (700, 641)),
        ),
        "lantern": (595, 458),
    },
    "side": {
        "brows": (668, 178), "mouth": (677, 230), "hair": (624, 214), **_eyes(669, 669), "satchel": (640, 300),
        "right skirt": (640, 404), "right skirt hem": (642, 462), "left skirt": (640, 404), "left skirt hem": (642, 462),
        **_limbs(
            ((640, 292), (638, 366), (640, 434), (642, 430), (645, 524), (639, 612), (622, 641), (690, 641)),
            ((636, 292), (634, 366), (636, 434), (638, 430), (641, 524), (635, 612), (618, 641), (686, 641)),
        ),
        "lantern": (642, 457),
    },
    "three-quarter back": {
        "head": (638, 252), "cap": (638, 150), "satchel": (660, 300),
        "right skirt": (664, 404), "right skirt hem": (670, 462), "left skirt": (616, 404), "left skirt hem": (610, 462),
        **_limbs(
            ((677, 290), (685, 364), (688, 436), (656, 428), (659, 522), (656, 612), (640, 641), (694, 641)),
            ((603, 290), (596, 362), (592, 432), (624, 428), (622, 522), (622, 612), (606, 641), (658, 641)),
        ),
        "lantern": (690, 458),
    },
    "back": {
        "satchel": (668, 300),
        "right skirt": (662, 404), "right skirt hem": (674, 462), "left skirt": (618, 404), "left skirt hem": (606, 462),
        **_limbs(
            ((692, 288), (716, 364), (728, 436), (664, 428), (668, 522), (670, 612), (656, 641), (690, 641)),
            ((588, 288), (564, 364), (552, 436), (616, 428), (612, 522), (610, 612), (590, 641), (624, 641)),
        ),
        "lantern": (730, 458),
    },
}  # fmt: skip
"""Where joints lie in a view, in stage units; those that are not told lie where they do from the front."""
BONES = {f"{of} {a}": f"{of} {b}" for of in ("left", "right") for a, b in (
    ("upper arm", "forearm"), ("forearm", "hand"), ("thigh", "shin"), ("shin", "shoe"),
)}  # fmt: skip
"""For each joint that is turned in a view so that its own drawing fits, the next."""
FAR_LANTERN: dict[float, Point] = {315.0: (692.0, 455.0), 270.0: (638.0, 457.0), 225.0: (590.0, 454.0)}
"""In the mirror the hand with the lantern is the far one: where the lantern hangs there, drawn to the right."""


def _cap(badge: float | None, visor: str | None, lean: float) -> tuple[str, ...]:
    """A cap whose crown leans so far to the side, with its badge at `badge` across."""
    x = 640 + lean
    parts = [] if visor is None or badge is not None else [cut(visor, DARK, lift=2.5)]
    parts += [
        cut(f"M{x - 54} 157Q{x - 61} 112 {x} 104Q{x + 61} 110 {x + 52} 154Q{x} 141 {x - 54} 157Z", NAVY),
        cut(f"M{x - 52} 151Q{x} 133 {x + 51} 149L{x + 52} 163Q{x} 148 {x - 53} 165Z", DEEP, lift=1.5),
        line(f"M{x - 51} 164Q{x} 147 {x + 50} 162", BRASS, 2.6),
    ]
    if badge is not None and visor is not None:
        parts += [cut(visor, DARK, lift=2.5), cut(ring(badge, 131, 10.5, 12), BRASS, lift=1.5),
                  line(f"M{badge} 124V138M{badge - 6} 134Q{badge} 141 {badge + 6} 134", DEEP, 2.2)]  # fmt: skip
    return tuple(parts)


def _shoe(x: float, front: float, up: float) -> tuple[str, ...]:
    """A shoe under an ankle at `x`, its tip so far in front of it and so far above the ground."""
    end = 642 - up
    d = (
        f"M{x - 16} 599L{x + 16} 599Q{x + 18} {614 - up / 2} {x + 0.6 * front + 6} {622 - up / 2}"
        f"Q{x + front} {628 - up} {x + front} {end}L{x - 17} 642Q{x - 22} 620 {x - 16} 599Z"
    )
    return cut(d, BOOT), line(f"M{x - 16} 639.4L{x + front - 2} {end - 2.6}", SOLE, 3.8), dot(x + 2, 612, 3.2, BRASS)


def _heel(x: float) -> tuple[str, ...]:
    """A shoe seen from behind."""
    d = (f"M{x - 18} 599L{x + 18} 599Q{x + 18} 620 {x + 21} 632Q{x + 23} 642 {x + 17} 642L{x - 17} 642"
         f"Q{x - 23} 642 {x - 21} 632Q{x - 18} 620 {x - 18} 599Z")  # fmt: skip
    return cut(d, BOOT), line(f"M{x - 16} 639L{x + 16} 639", SOLE, 4), line(f"M{x} 606V626", SOLE, 2.2, 0.7)


def _skirt(left: float, top: tuple[float, float], right: float, low: float, seam: str) -> tuple[str, ...]:
    """A half of the coat's skirt, from its waist `top` (left, right) down to its hem."""
    a, b = top
    shape = (
        f"M{a} 400Q{(a + b) / 2} 411 {b} 400Q{(b + right) / 2 + 3} 440 {right} {low}"
        f"Q{(left + right) / 2} {low + 15} {left} {low + 4}Q{(a + left) / 2} 448 {a} 400Z"
    )
    hem = line(f"M{left + 5} {low - 5}Q{(left + right) / 2} {low + 6} {right - 4} {low - 10}", BRASS, 3, 0.85)
    return cut(shape, NAVY), hem, line(seam, DEEP, 2.4, 0.7)


def _belt(left: float, right: float, y: float, end: float) -> str:
    middle = (left + right) / 2
    d = f"M{left} {y}Q{middle} {y + 18} {right} {y}L{right - 2} {end}Q{middle} {end + 18} {left + 2} {end}Z"
    return cut(d, DARK, lift=1.5)


def _half_belt(left: float, right: float, *buttons: float) -> tuple[str, ...]:
    middle = (left + right) / 2
    strap = cut(f"M{left} 372Q{middle} 382 {right} 372L{right} 388Q{middle} 398 {left} 388Z", DEEP, lift=1.5)
    return strap, *(dot(x, 382, 4.4, BRASS) + dot(x - 1.2, 380.6, 1.4, "#f8dc96") for x in buttons)


def _bag(x: float, y: float) -> tuple[str, ...]:
    return (
        cut(f"M{x - 25} {y - 22}Q{x} {y - 30} {x + 26} {y - 20}L{x + 22} {y + 24}Q{x} {y + 32} {x - 25} {y + 22}Z", "#9a6440"),
        cut(f"M{x - 26} {y - 22}Q{x} {y - 30} {x + 27} {y - 20}L{x + 20} {y + 2}Q{x} {y + 9} {x - 20} {y}Z", "#84532f", lift=1.5),
        dot(x, y + 2, 4, BRASS),
    )  # fmt: skip


def _three_quarter() -> PartsByView:
    coat = "M600 268Q646 250 682 270Q704 280 702 308L690 408Q644 428 598 408L584 308Q582 278 600 268Z"
    face = (
        "M600 194Q596 146 646 146Q690 148 689 186Q690 198 694 206Q694 213 688 215"
        "Q690 226 683 237Q672 252 652 252Q626 250 610 234Q600 220 600 194Z"
    )
    buttons = "".join(
        dot(x, y, 4.5, BRASS) + dot(x - 1.2, y - 1.4, 1.4, "#f8dc96") for y in (330, 358, 386) for x in (651, 673)
    )
    return {
        "hair": (cut("M594 188Q584 250 602 268Q632 284 660 270Q676 260 676 236Q660 170 642 150Q600 158 594 188Z", SHADE),),
        "left shoe": _shoe(660, 40, 0),
        "right shoe": _shoe(624, 41, 0),
        "left skirt": _skirt(640, (636, 690), 706, 496, "M674 420Q682 450 684 478"),
        "right skirt": _skirt(573, (592, 648), 654, 502, "M612 422Q606 452 604 484"),
        "torso": (
            cut(coat, NAVY), flat("M642 260Q658 268 673 262L662 306Z", CREAM),
            cut("M640 261L662 312L626 292Z", DEEP, lift=1.5), cut("M675 264L662 312L687 294Z", DEEP, lift=1.5),
            buttons, line("M662 314V400", DEEP, 2.4, 0.7),
            _belt(594, 693, 396, 412), cut("M652 404H671V423H652Z", BRASS, lift=1),
        ),
        "scarf": (
            cut("M664 264Q682 300 676 336L658 331Q660 298 652 270Z", WRAP),
            cut("M608 252Q644 281 680 254Q687 272 672 281Q644 292 616 280Q602 270 608 252Z", TEAL),
            line("M618 268Q646 281 671 267", "#ffffff", 2, 0.3), line("M660 316L675 320", "#ffffff", 2, 0.3),
        ),
        "satchel": (line("M684 278Q646 346 612 402", STRAP, 7), *_bag(606, 420)),
        "head": (
            cut("M628 236L661 236L662 268Q642 276 624 268Z", BLUSH, lift=1), cut(face, SKIN),
            flat(ring(629, 220, 9.5, 6.5), RUST, 0.28), flat(ring(681, 219, 6.5, 6), RUST, 0.28),
            cut(ring(608, 206, 8, 12), SKIN, lift=1), line("M607 199Q612 206 607 212", BLUSH, 2.4),
            line("M663 200Q669 213 661 217", BLUSH, 3.4),
        ),
        "brows": (line("M631 180Q642 172 653 179", HAIR, 4.4), line("M666 179Q675 172 683 179", HAIR, 4.2)),
        "fringe": (cut("M596 204Q588 142 646 140Q694 143 692 184Q686 168 671 163Q660 179 636 178Q624 184 620 202Q612 214 604 213Q597 210 596 204Z", HAIR, lift=2),),
        "cap": _cap(662, "M612 166Q658 150 700 159Q716 167 711 174Q668 184 618 178Q608 172 612 166Z", 4),
    }  # fmt: skip


def _from_the_side() -> PartsByView:
    """The pieces of the puppet that is only seen from the side, by the names of those that they stand for."""
    head, worn = side.head(), side.clothes()
    (x, _), dx = side.ANKLE, side.DX
    wrap = (
        cut("M654 268Q676 300 672 336L655 333Q656 300 646 276Z", WRAP), line("M657 317L672 320", "#ffffff", 2, 0.3),
        cut("M612 250Q640 276 668 252Q676 270 664 280Q640 292 616 280Q606 266 612 250Z", TEAL),
        line("M620 268Q642 280 662 266", "#ffffff", 2, 0.3),
    )  # fmt: skip
    return {
        "hair": worn["hair"],
        "left shoe": _shoe(x + dx, 56, 0),
        "right shoe": _shoe(x, 56, 0),
        "left skirt": worn["skirt"],
        "right skirt": worn["skirt"],
        "torso": worn["torso"],
        "scarf": wrap,
        "satchel": worn["satchel"],
        "head": head["head"],
        "brows": head["brow"],
        "fringe": head["fringe"],
        "cap": head["cap"],
    }


def _three_quarter_back() -> PartsByView:
    coat = "M598 270Q636 250 682 268Q700 278 698 308L684 408Q638 428 592 408L580 308Q578 280 598 270Z"
    face = "M598 196Q596 148 642 146Q686 148 687 190Q692 204 690 213Q688 236 668 246Q650 254 628 248Q602 238 598 196Z"
    back = "M592 186Q586 246 604 266Q634 284 658 266Q667 248 661 226Q655 208 670 184Q664 150 640 147Q598 150 592 186Z"
    return {
        "left shoe": _shoe(622, 36, 5),
        "right shoe": _shoe(656, 38, 5),
        "left skirt": _skirt(573, (590, 640), 644, 498, "M608 422Q602 452 600 482"),
        "right skirt": _skirt(632, (634, 688), 708, 500, "M672 422Q680 452 682 482"),
        "torso": (
            cut(coat, NAVY), line("M622 276Q617 340 620 398", DEEP, 2.4, 0.8), *_half_belt(596, 662, 608, 640),
            _belt(589, 687, 396, 412),
        ),
        "satchel": (line("M604 280Q640 340 668 402", STRAP, 7), *_bag(674, 420)),
        "head": (
            cut("M618 236L664 232L664 270Q640 280 616 270Z", BLUSH, lift=1), cut(face, SKIN),
            flat(ring(681, 220, 5, 6), RUST, 0.28),
        ),
        "scarf": (
            cut("M602 252Q638 279 676 252Q683 270 668 280Q638 291 610 280Q596 270 602 252Z", TEAL),
            line("M612 268Q640 280 666 266", "#ffffff", 2, 0.3),
        ),
        "hair": (
            cut(back, HAIR), line("M612 182Q606 222 616 254M634 176Q630 214 638 246", SHADE, 2.4, 0.7),
            cut(ring(614, 238, 17, 18), BUN, lift=1.5), line("M604 232Q614 226 624 234", SHADE, 2.4),
            cut(ring(673, 205, 8, 12), SKIN, lift=1), line("M674 198Q669 205 674 211", BLUSH, 2.4),
        ),
        "cap": _cap(None, "M680 154Q704 152 716 166Q700 174 678 167Z", -2),
    }  # fmt: skip


def _back() -> PartsByView:
    coat = "M594 268Q640 250 686 268Q708 276 706 304L688 408Q640 428 592 408L574 304Q572 276 594 268Z"
    back = "M590 186Q584 246 602 266Q640 284 678 266Q696 246 690 186Q684 150 640 146Q596 150 590 186Z"
    return {
        "left shoe": _heel(610),
        "right shoe": _heel(670),
        "left skirt": _skirt(570, (591, 646), 642, 500, "M610 420Q602 450 600 480"),
        "right skirt": _skirt(638, (634, 689), 710, 500, "M670 420Q678 450 680 480"),
        "torso": (
            cut(coat, NAVY), line("M640 276V398", DEEP, 2.4, 0.8), *_half_belt(604, 676, 616, 664),
            _belt(590, 690, 396, 412),
        ),
        "satchel": (line("M592 282Q640 350 680 402", STRAP, 7), *_bag(680, 420)),
        "head": (
            cut("M624 236L656 236L658 268Q640 276 622 268Z", BLUSH, lift=1),
            cut(ring(595, 204, 8, 12), SKIN, lift=1), cut(ring(685, 204, 8, 12), SKIN, lift=1),
            cut("M596 196Q594 148 640 146Q686 148 684 196Q683 238 640 252Q597 238 596 196Z", SKIN),
        ),
        "scarf": (
            cut("M604 252Q640 280 676 252Q682 272 668 280Q640 292 612 280Q598 272 604 252Z", TEAL),
            line("M614 268Q640 282 666 268", "#ffffff", 2, 0.3),
        ),
        "hair": (
            cut(back, HAIR), line("M612 178Q604 222 612 256M640 172V216M668 178Q676 222 668 256", SHADE, 2.4, 0.7),
            cut(ring(640, 238, 18, 18), BUN, lift=1.5), line("M629 232Q640 224 651 233", SHADE, 2.4),
        ),
        "cap": _cap(None, None, 0),
    }  # fmt: skip


STRAPS: dict[float, tuple[str, tuple[str, ...]]] = {
    315.0: ("strap across", (line("M596 280Q642 344 692 398", STRAP, 7),)),
    270.0: ("strap from the left", (line("M640 268Q668 300 684 346", STRAP, 7), line("M634 268Q612 306 601 350", STRAP, 7))),
    225.0: ("strap behind", (line("M680 280Q638 336 594 398", STRAP, 7),)),
}  # fmt: skip
"""In the mirror her satchel hangs on the far side, and only its strap is seen: what it is called, and how it is drawn to
the right."""


def _cut() -> dict[str, PartsByView]:
    """What is cut anew, by view and by what it stands for."""
    return {
        "three-quarter": _three_quarter(), "side": _from_the_side(),
        "three-quarter back": _three_quarter_back(), "back": _back(),
    }  # fmt: skip


def cut_anew(view: str) -> list[str]:
    """What is cut anew for a view, each before what hangs on it."""
    return _in_order(_cut()[view])


def conductor_views_svg() -> bytes:
    """The conductor's pieces in four more views, each over where she stands, from back to front within a view."""
    named = [piece(f"{name} {view}", *parts) for view, pieces in _cut().items() for name, parts in pieces.items()]
    return drawing(*named, *(piece(name, *parts) for name, parts in STRAPS.values()))


def below(view: str) -> list[str]:
    """The joints that are placed in a view, each before what hangs on it."""
    return _in_order(PLACES[view])


def _in_order(names: Iterable[str]) -> list[str]:
    def depth(name: str) -> int:
        return 0 if name not in LINKS else 1 + depth(LINKS[name])

    return sorted(names, key=depth)
