"""The ferry conductor seen from the side, facing right, cut from the same paper as in front view."""

from __future__ import annotations

from sorvan.demo.conductor import BLUSH, BOOT, BRASS, CREAM, DEEP, HAIR, NAVY, RUST, SKIN, TEAL
from sorvan.demo.paper import cut, dot, drawing, flat, group, limb, line, piece, ring

FAR_NAVY, FAR_DEEP, FAR_SKIN, FAR_BOOT = "#213b57", "#182d44", "#cf9470", "#2e201f"
HIP, KNEE, ANKLE, BALL = (642.0, 430.0), (645.0, 524.0), (639.0, 612.0), (668.0, 632.0)
SHOULDER, ELBOW, WRIST = (640.0, 292.0), (638.0, 366.0), (640.0, 434.0)
DX = -4.0
"""How far behind the near side's joints those of the far side lie, in units."""


def _both(part: str, at: tuple[float, float]) -> dict[str, tuple[float, float]]:
    return {f"near {part}": at, f"far {part}": (at[0] + DX, at[1])}


PIVOTS: dict[str, tuple[float, float]] = {
    "hips": (640, 418),
    "torso": (640, 408),
    "skirt": (640, 404),
    "head": (640, 254),
    "hair": (624, 214),
    "fringe": (640, 160),
    "cap": (640, 150),
    "eye": (668, 197),
    "pupil": (668, 197),
    "lid": (668, 176),
    "brow": (668, 178),
    "mouth": (676, 230),
    "scarf": (640, 262),
    "scarf tail": (620, 270),
    "satchel": (650, 300),
    **_both("thigh", HIP),
    **_both("shin", KNEE),
    **_both("shoe", ANKLE),
    **_both("toe cap", BALL),
    **_both("upper arm", SHOULDER),
    **_both("forearm", ELBOW),
    **_both("hand", WRIST),
}
"""Where each piece turns, in stage units."""

LINKS: dict[str, str] = {
    "torso": "hips",
    "skirt": "hips",
    "head": "torso",
    **dict.fromkeys(("hair", "fringe", "cap", "eye", "pupil", "lid", "brow", "mouth"), "head"),
    "scarf": "torso",
    "scarf tail": "torso",
    "satchel": "torso",
    **{f"{side} {part}": on if on in ("hips", "torso") else f"{side} {on}" for side in ("near", "far") for part, on in (
        ("thigh", "hips"), ("shin", "thigh"), ("shoe", "shin"), ("toe cap", "shoe"),
        ("upper arm", "torso"), ("forearm", "upper arm"), ("hand", "forearm"),
    )},
}  # fmt: skip
"""What each piece hangs on."""

TAIL_BENDS = ((588.0, 294.0), (566.0, 322.0))
"""Where the loose end of the scarf gives, in stage units."""
HEM = (642.0, 462.0)
"""Where the coat's skirt gives, in stage units."""


def _leg(side: str, dx: float, cloth: str, boot: str) -> str:
    def at(*numbers: float) -> str:
        return " ".join(f"{v + (dx if i % 2 == 0 else 0):g}" for i, v in enumerate(numbers))

    shoe = f"M{at(622, 598)}L{at(657, 598)}Q{at(659, 616, 672, 623)}L{at(673, 642)}L{at(621, 642)}Q{at(614, 620, 622, 598)}Z"
    cap = f"M{at(663, 620)}Q{at(690, 626, 694, 636)}Q{at(695, 642, 688, 642)}L{at(664, 642)}Q{at(658, 630, 663, 620)}Z"
    return group(
        f"{side} leg",
        piece(f"{side} toe cap", cut(cap, boot, lift=2), line(f"M{at(666, 639.6)}L{at(690, 639.6)}", "#6d4c41", 3.6)),
        piece(f"{side} shoe", cut(shoe, boot), line(f"M{at(623, 639.6)}L{at(670, 639.6)}", "#6d4c41", 3.6)),
        piece(
            f"{side} shin",
            cut(limb(KNEE[0] + dx, KNEE[1], 19, ANKLE[0] + dx, 606, 14), cloth),
            line(f"M{at(627, 590)}L{at(652, 591)}", BRASS, 3, 0.8),
        ),
        piece(f"{side} thigh", cut(limb(HIP[0] + dx, HIP[1], 27, KNEE[0] + dx, KNEE[1], 19.5), cloth)),
    )


def _arm(side: str, dx: float, cloth: str, skin: str) -> str:
    x = 640 + dx
    fingers = "".join(line(f"M{x + off} 460L{x + off + 1} 471", BLUSH, 2.2, 0.8) for off in (-4, 2.5))
    thumb = cut(limb(x + 5, 444, 6, x + 11, 460, 4.6), skin, lift=1.5)
    return group(
        f"{side} arm",
        piece(f"{side} hand", cut(limb(x, 438, 11, x + 2, 464, 11.5), skin), thumb, fingers),
        piece(
            f"{side} forearm",
            cut(limb(ELBOW[0] + dx, ELBOW[1], 17.5, x, 430, 13.5), cloth),
            line(f"M{x - 12} 422L{x + 12} 422", BRASS, 4),
        ),
        piece(
            f"{side} upper arm",
            cut(limb(x, SHOULDER[1], 21, ELBOW[0] + dx, ELBOW[1], 18), cloth),
            line(f"M{x - 15} 282Q{x} 272 {x + 15} 282", BRASS, 4.5),
        ),
    )


def head() -> dict[str, tuple[str, ...]]:
    """What the head is cut from, from back to front."""
    face = (
        "M602 198Q598 148 644 146Q682 146 685 180L687 194Q701 210 691 215L685 217"
        "Q687 228 683 235Q682 250 662 251Q636 252 620 240Q604 226 602 198Z"
    )
    neck = cut("M626 234L660 236L657 268Q642 276 624 266Z", BLUSH, lift=1)
    ear = cut(ring(632, 206, 8.5, 12.5), SKIN, lift=1) + line("M632 199Q637 206 631 212", BLUSH, 2.4)
    cap = (
        cut("M594 157Q584 110 644 104Q694 106 692 152Q640 140 594 157Z", NAVY),
        cut("M595 151Q642 136 692 148L693 163Q642 150 596 165Z", DEEP, lift=1.5),
        line("M597 164Q642 149 692 162", BRASS, 2.6),
        cut("M664 154Q710 150 728 170Q702 178 666 168Z", "#182c42", lift=2.5),
        cut(ring(674, 131, 8.5, 11), BRASS, lift=1.5),
        line("M674 124V138M669 134Q674 140 679 134", DEEP, 2.2),
    )
    return {
        "head": (neck, cut(face, SKIN), flat(ring(660, 220, 9.5, 6.5), RUST, 0.28), ear,),
        "eye": (flat(ring(669, 197, 7.2, 9.2), "#fffaf0"),),
        "pupil": (dot(671.5, 198.5, 4.8, "#2a3b2f"), dot(673, 196.2, 1.6, "#ffffff"),),
        "lid": (flat("M657 166Q668 160 680 166V180Q669 189 657 180Z", SKIN), line("M657 180Q669 189 680 180", BLUSH, 2.6),),
        "brow": (line("M659 180Q669 172 680 179", HAIR, 4.4),),
        "mouth": (line("M666 231Q675 236 683 229", "#8d3b35", 3.8),),
        "fringe": (cut("M598 200Q594 146 646 140Q688 142 688 184Q680 170 664 166Q652 186 640 190Q640 206 626 214Q616 226 604 222Q598 212 598 200Z", HAIR, lift=2),),
        "cap": (*cap,),
    }  # fmt: skip


def clothes() -> dict[str, tuple[str, ...]]:
    """What the coat, the satchel and the hair behind it are cut from."""
    coat = "M612 274Q634 256 662 268Q684 282 685 320Q687 362 681 410Q644 428 607 410Q602 362 599 322Q598 290 612 274Z"
    buttons = "".join(dot(673, y, 4.4, BRASS) + dot(672, y - 1.4, 1.4, "#f8dc96") for y in (322, 350, 378))
    torso = (
        cut(coat, NAVY),
        cut("M664 268Q684 284 685 316L668 300Z", CREAM, lift=0),
        cut("M654 262L684 316L660 300Z", DEEP, lift=1.5),
        line("M664 314V398", DEEP, 2.4, 0.7),
        buttons,
        cut("M607 398Q644 414 682 398L681 414Q644 430 608 414Z", "#182c42", lift=1.5),
        cut("M666 402H682V420H666Z", BRASS, lift=1),
    )
    skirt = (
        cut("M606 398Q642 414 683 398Q694 440 696 498Q646 516 588 504Q596 450 606 398Z", NAVY),
        line("M592 495Q644 506 692 489", BRASS, 3, 0.85),
        line("M620 424Q616 456 612 482", DEEP, 2.4, 0.7),
    )
    satchel = (
        line("M650 268Q628 340 616 404", "#7d4f33", 7),
        cut("M590 398Q614 390 640 400L636 444Q612 452 590 442Z", "#9a6440"),
        cut("M589 398Q614 390 641 400L634 422Q612 429 594 420Z", "#84532f", lift=1.5),
        dot(614, 421, 4, BRASS),
    )
    hair = (
        cut("M600 190Q592 240 606 262Q626 272 646 256Q634 220 640 190Q630 160 600 190Z", "#74321f"),
        cut(ring(596, 236, 17, 18), HAIR, lift=1.5),
        line("M586 230Q596 224 606 232", "#74321f", 2.4),
    )
    return {"hair": hair, "torso": torso, "skirt": skirt, "satchel": satchel}


def conductor_side_svg() -> bytes:
    """The conductor from the side at rest on the stage, every piece a named group."""
    worn = {name: piece(name, *parts) for name, parts in clothes().items()}
    tail = "M630 260Q598 268 576 290Q560 312 548 346L568 352Q582 322 600 306Q618 290 634 284Z"
    scarf = piece(
        "scarf",
        cut("M612 250Q640 276 668 252Q676 270 664 280Q640 292 616 280Q606 266 612 250Z", TEAL),
        line("M620 268Q642 280 662 266", "#ffffff", 2, 0.3),
    )
    return drawing(
        _arm("far", DX, FAR_NAVY, FAR_SKIN),
        _leg("far", DX, FAR_DEEP, FAR_BOOT),
        piece("scarf tail", cut(tail, "#27766d"), line("M554 336L570 342", "#ffffff", 2, 0.3)),
        worn["hair"],
        piece("hips", cut("M608 404Q642 416 680 404L678 438Q644 458 610 440Z", DEEP)),
        _leg("near", 0, DEEP, BOOT),
        worn["skirt"],
        worn["torso"],
        worn["satchel"],
        group("head group", *(piece(name, *parts) for name, parts in head().items())),
        scarf,
        _arm("near", 0, NAVY, SKIN),
    )  # fmt: skip
