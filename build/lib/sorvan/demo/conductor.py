"""The ferry conductor, cut from paper: navy coat, brass buttons, a lantern for the last ferry."""

from __future__ import annotations

from sorvan.demo.mouths import PIECES as MOUTHS
from sorvan.demo.mouths import mouth_art
from sorvan.demo.paper import cut, dot, drawing, flat, group, limb, line, piece, ring

NAVY, DEEP, BRASS, CREAM = "#2b4a6b", "#203a56", "#dca540", "#f5e6c8"
SKIN, BLUSH, HAIR, TEAL, RUST, BOOT = "#e6aa83", "#d98a6b", "#8c3f2f", "#2f8b80", "#c2523c", "#3b2a28"

PIVOTS: dict[str, tuple[float, float]] = {
    "torso": (640, 408),
    "scarf": (640, 262),
    "head": (640, 252),
    "hair": (640, 214),
    "fringe": (640, 160),
    "cap": (640, 150),
    "left upper arm": (692, 288),
    "left forearm": (716, 364),
    "left hand": (728, 436),
    "right upper arm": (588, 288),
    "right forearm": (564, 364),
    "right hand": (552, 436),
    "lantern": (550, 458),
    "left skirt": (662, 404),
    "right skirt": (618, 404),
    "left thigh": (664, 428),
    "left shin": (668, 522),
    "left shoe": (670, 612),
    "right thigh": (616, 428),
    "right shin": (612, 522),
    "right shoe": (610, 612),
    "satchel": (612, 300),
    **{
        f"{side} {part}": (640 + 20 * flip, 197)
        for side, flip in (("left", 1), ("right", -1))
        for part in ("eye", "pupil")
    },
    "left lid": (660, 176),
    "right lid": (620, 176),
    MOUTHS[0]: (640, 227),
    "brows": (640, 178),
}
"""Where each piece turns, in stage units."""

LINKS: dict[str, str] = {
    "scarf": "torso",
    "head": "torso",
    "hair": "head",
    "fringe": "head",
    "cap": "head",
    "left upper arm": "torso",
    "left forearm": "left upper arm",
    "left hand": "left forearm",
    "right upper arm": "torso",
    "right forearm": "right upper arm",
    "right hand": "right forearm",
    "lantern": "right hand",
    "left skirt": "torso",
    "right skirt": "torso",
    "left thigh": "torso",
    "left shin": "left thigh",
    "left shoe": "left shin",
    "right thigh": "torso",
    "right shin": "right thigh",
    "right shoe": "right shin",
    "satchel": "torso",
    **{f"{side} {part}": "head" for side in ("left", "right") for part in ("eye", "pupil", "lid")},
    MOUTHS[0]: "head",
    "brows": "head",
}
"""What each piece hangs on."""


OPEN_HAND = "left hand open"
"""A piece that becomes a second drawing of the left hand."""

SWATCHES: dict[str, str] = {"Coat": NAVY, "Trousers": DEEP, "Brass": BRASS, "Skin": SKIN, "Scarf": TEAL}
"""The palette; every piece cut from one of these colours is linked to it."""


def feet(side: str) -> tuple[tuple[float, float], tuple[float, float]]:
    """Where a shoe's heel and toe stand, in stage units."""
    flip = 1 if side == "left" else -1
    return (640 + 16 * flip, 641), (640 + 74 * flip, 641)


def hem(side: str) -> tuple[float, float]:
    """Where a coat skirt gives, in stage units."""
    return 640 + (34 if side == "left" else -34), 462


def _arm(side: str, flip: int) -> str:
    """Upper arm, forearm and hand; `flip` is 1 for the side at the right of the picture."""

    def x(away: float) -> float:
        return 640 + flip * away

    cuff = line(f"M{x(77)} 424L{x(98)} 420", BRASS, 4)
    fingers = "".join(line(f"M{x(away)} 462L{x(away + 1)} 473", BLUSH, 2.2, 0.8) for away in (83, 90, 97))
    thumb = cut(limb(x(81), 450, 6.5, x(76), 464, 5), SKIN, lift=1.5)
    return group(
        f"{side} arm",
        piece(f"{side} hand", thumb, cut(limb(x(88), 440, 11, x(91), 466, 12.5), SKIN), fingers),
        piece(f"{side} forearm", cut(limb(x(76), 364, 17.5, x(88), 430, 13.5), NAVY), cuff),
        piece(
            f"{side} upper arm",
            cut(limb(x(52), 288, 22, x(76), 364, 18), NAVY),
            line(f"M{x(42)} 277Q{x(56)} 268 {x(68)} 282", BRASS, 4.5),
        ),
    )


def _leg(side: str, flip: int) -> str:
    def x(away: float) -> float:
        return 640 + flip * away

    sole = (
        f"M{x(16)} 600L{x(46)} 600Q{x(48)} 622 {x(72)} 630Q{x(80)} 634 {x(80)} 642L{x(14)} 642Q{x(10)} 618 {x(16)} 600Z"
    )
    return group(
        f"{side} leg",
        piece(
            f"{side} shin",
            cut(limb(x(28), 522, 18, x(30), 606, 13), DEEP),
            line(f"M{x(18)} 590L{x(42)} 590", BRASS, 3, 0.8),
        ),
        piece(
            f"{side} shoe",
            cut(sole, BOOT),
            line(f"M{x(15)} 639L{x(79)} 639", "#6d4c41", 4),
            dot(x(30), 612, 3.4, BRASS),
        ),
        piece(f"{side} thigh", cut(limb(x(24), 428, 25, x(28), 522, 18.5), DEEP)),
    )


def _head() -> str:
    face = "M596 196Q594 148 640 146Q686 148 684 196Q683 238 640 252Q597 238 596 196Z"
    ears = cut(ring(595, 204, 8, 12), SKIN, lift=1) + cut(ring(685, 204, 8, 12), SKIN, lift=1)
    brows = line("M609 180Q619 173 630 179", HAIR, 4.4) + line("M650 179Q661 173 671 180", HAIR, 4.4)
    nose = line("M640 200Q634 214 643 217", BLUSH, 3.4)
    mouths = mouth_art()
    cheeks = flat(ring(609, 219, 9.5, 6.5), RUST, 0.28) + flat(ring(671, 219, 9.5, 6.5), RUST, 0.28)
    neck = cut("M624 236L656 236L658 268Q640 276 622 268Z", BLUSH, lift=1)
    return group(
        "head group",
        piece("head", neck, ears, cut(face, SKIN), cheeks, nose),
        *_eyes(),
        piece("brows", brows),
        *(piece(name, mouths[name]) for name in reversed(MOUTHS)),
        piece(
            "fringe",
            cut(
                "M592 192Q588 146 640 140Q692 146 688 192Q682 168 664 162Q652 178 622 172Q602 172 592 192Z",
                HAIR,
                lift=2,
            ),
        ),
        piece(
            "cap",
            cut("M586 156Q578 112 640 104Q702 112 694 156Q640 140 586 156Z", NAVY),
            cut("M588 150Q640 132 692 150L693 164Q640 147 587 164Z", DEEP, lift=1.5),
            line("M589 163Q640 146 691 163", BRASS, 2.6),
            cut("M592 162Q640 146 688 162Q672 178 640 177Q608 178 592 162Z", "#182c42", lift=2.5),
            cut(ring(640, 131, 12, 12), BRASS, lift=1.5),
            line("M640 124V138M633 134Q640 141 647 134M635 127H645", DEEP, 2.2),
        ),
    )


def _eyes() -> list[str]:
    """For each side the white, the pupil, and a lid that waits above to come down over both."""
    parts: list[str] = []
    for side, x in (("right", 620), ("left", 660)):
        lid = f"M{x - 13} 166Q{x} 160 {x + 13} 166V180Q{x} 189 {x - 13} 180Z"
        parts += [
            piece(f"{side} eye", flat(ring(x, 197, 8.6, 9.6), "#fffaf0")),
            piece(f"{side} pupil", dot(x + 0.5, 198.5, 5.1, "#2a3b2f"), dot(x + 2.2, 196.2, 1.7, "#ffffff")),
            piece(f"{side} lid", flat(lid, SKIN), line(f"M{x - 13} 180Q{x} 189 {x + 13} 180", BLUSH, 2.6)),
        ]
    return parts


def _open_hand() -> str:
    """The left hand spread for a wave."""
    fingers = "".join(
        cut(limb(728, 446, 5.4, x, y, 4.4), SKIN, lift=1) for x, y in ((712, 472), (721, 480), (731, 482), (741, 477))
    )
    thumb = cut(limb(722, 446, 5.6, 704, 456, 4.6), SKIN, lift=1)
    return piece(OPEN_HAND, thumb, fingers, cut(ring(727, 447, 13, 14), SKIN, lift=1.5))


def _torso() -> str:
    coat = "M594 268Q640 250 686 268Q708 276 706 304L688 408Q640 428 592 408L574 304Q572 276 594 268Z"
    lapels = cut("M622 262L640 312L612 292Z", DEEP, lift=1.5) + cut("M658 262L640 312L668 292Z", DEEP, lift=1.5)
    shirt = flat("M624 262Q640 270 656 262L640 308Z", CREAM)
    buttons = "".join(
        dot(x, y, 4.6, BRASS) + dot(x - 1.2, y - 1.4, 1.5, "#f8dc96") for y in (330, 358, 386) for x in (627, 653)
    )
    belt = cut("M590 396Q640 414 690 396L688 412Q640 430 592 412Z", "#182c42", lift=1.5)
    buckle = cut("M630 403H650V423H630Z", BRASS, lift=1)
    return piece("torso", cut(coat, NAVY), shirt, lapels, buttons, line("M640 314V398", DEEP, 2.4, 0.7), belt, buckle)


def _skirt(side: str, flip: int) -> str:
    def x(away: float) -> float:
        return 640 + flip * away

    shape = (
        f"M{x(-6)} 400Q{x(26)} 412 {x(49)} 400Q{x(62)} 440 {x(70)} 500Q{x(34)} 516 {x(-2)} 506Q{x(2)} 450 {x(-6)} 400Z"
    )
    return piece(
        f"{side} skirt",
        cut(shape, NAVY),
        line(f"M{x(2)} 496Q{x(34)} 505 {x(66)} 490", BRASS, 3, 0.85),
        line(f"M{x(30)} 420Q{x(38)} 450 {x(40)} 480", DEEP, 2.4, 0.7),
    )


def _lantern() -> str:
    return piece(
        "lantern",
        flat(ring(550, 510, 46, 46), "#ffd678", 0.2),
        flat(ring(550, 510, 30, 30), "#ffe09a", 0.28),
        line("M538 478Q550 448 562 478", "#4a3730", 3.6),
        cut("M534 488L540 476H560L566 488Z", RUST, lift=2),
        '<path d="M536 488H564L561 530H539Z" fill="url(#flame)"/>',
        line("M543 488L545 530M557 488L555 530", "#7d3a2c", 2.6),
        cut("M533 529H567L563 540H537Z", RUST, lift=2),
    )


def conductor_svg() -> bytes:
    """The conductor at rest on the stage, every piece a named group."""
    satchel = piece(
        "satchel",
        line("M688 282Q640 350 600 402", "#7d4f33", 7),
        cut("M574 396Q600 388 626 398L622 442Q598 450 574 440Z", "#9a6440"),
        cut("M573 396Q600 388 627 398L620 420Q600 427 579 418Z", "#84532f", lift=1.5),
        dot(599, 420, 4, BRASS),
    )
    scarf = piece(
        "scarf",
        cut("M652 264Q668 300 660 336L642 330Q646 298 640 270Z", "#27766d"),
        cut("M604 252Q640 280 676 252Q682 272 668 280Q640 292 612 280Q598 272 604 252Z", TEAL),
        line("M614 268Q640 282 666 268", "#ffffff", 2, 0.3),
        line("M645 316L660 320", "#ffffff", 2, 0.3),
    )
    flame = (
        '<radialGradient id="flame" cx=".5" cy=".55" r=".7"><stop offset="0" stop-color="#fffbe6"/>'
        '<stop offset=".5" stop-color="#ffd978"/><stop offset="1" stop-color="#f0a23c"/></radialGradient>'
    )
    hair = piece("hair", cut("M590 190Q584 258 600 274Q640 288 680 274Q696 258 690 190Q640 150 590 190Z", "#74321f"))
    return drawing(
        hair,
        _open_hand(),
        _arm("left", 1),
        _leg("left", 1),
        _leg("right", -1),
        _skirt("left", 1),
        _skirt("right", -1),
        _torso(),
        scarf,
        satchel,
        _head(),
        _arm("right", -1),
        _lantern(),
        defs=flame,
    )
