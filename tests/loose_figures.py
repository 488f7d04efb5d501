"""Puppets in loose pieces, of different builds and habits of naming, with the rigs that they are made for."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

Point = tuple[float, float]


@dataclass
class Loose:
    """A drawing whose groups are pieces. `hangs` says of each piece, by name, what it hangs on; `pins` where."""

    parts: list[str] = field(default_factory=list)
    hangs: dict[str, str] = field(default_factory=dict)
    pins: dict[str, Point] = field(default_factory=dict)
    sizes: dict[str, float] = field(default_factory=dict)
    alone: set[str] = field(default_factory=set)
    """What is no part of the figure, and hangs on nothing."""

    def limb(self, name: str, a: Point, b: Point, wide: float, on: str = "") -> None:
        """A limb that turns at `a` and ends at `b`, round at both."""
        x, y = b[0] - a[0], b[1] - a[1]
        far = math.hypot(x, y)
        nx, ny = -y / far * wide / 2, x / far * wide / 2
        r = wide / 2
        self.shape(
            name,
            f'<path d="M{a[0] + nx:.2f} {a[1] + ny:.2f}A{r} {r} 0 0 1 {a[0] - nx:.2f} {a[1] - ny:.2f}'
            f'L{b[0] - nx:.2f} {b[1] - ny:.2f}A{r} {r} 0 0 1 {b[0] + nx:.2f} {b[1] + ny:.2f}Z"/>',
            on,
            a,
            wide,
        )

    def box(self, name: str, box: tuple[float, float, float, float], on: str = "", pin: Point | None = None) -> None:
        """A block with round corners, by left, top, right and bottom."""
        l, t, r, b = box
        round_ = 0.25 * min(r - l, b - t)
        shape = f'<rect x="{l}" y="{t}" width="{r - l}" height="{b - t}" rx="{round_}"/>'
        self.shape(name, shape, on, pin, min(r - l, b - t))

    def round(self, name: str, at: Point, radius: float, on: str = "", pin: Point | None = None) -> None:
        """A disc."""
        self.shape(name, f'<circle cx="{at[0]}" cy="{at[1]}" r="{radius}"/>', on, pin, 2 * radius)

    def shape(self, name: str, shape: str, on: str, pin: Point | None, size: float) -> None:
        """A piece of any form."""
        self.parts.append(f'<g id="{name}" fill="#{len(self.parts) * 7 % 10}6{len(self.parts) % 10}">{shape}</g>')
        self.sizes[name] = size
        if on:
            self.hangs[name] = on
        if pin:
            self.pins[name] = pin

    def svg(self, named: bool = True) -> bytes:
        """The drawing; unless `named`, nothing in it is."""
        parts = self.parts if named else [p[: p.index(" id=")] + p[p.index(" fill=") :] for p in self.parts]
        head = '<svg xmlns="http://www.w3.org/2000/svg" width="600" height="700" viewBox="0 0 600 700">'
        return f"{head}{''.join(parts)}</svg>".encode()


Names = Callable[[str, str], str]
"""What a habit calls a part (“upper arm”) of a side (“left”, “right”, or none)."""


def biped(name: Names, spread: float = 1.0, feet: int = 0, held: float = 10, toes: float = 0) -> Loose:
    """A figure of fifteen parts; seen from the front, or, with `feet`, from the side, facing that way, with the elbows `held`
    out; with `toes` the feet of one seen from the front point that way, as from three quarters."""
    made = Loose()
    hips = {"left": (300 + 28 * spread, 400), "right": (300 - 28 * spread, 400)}
    if feet:
        _arm(made, name, "left", (300, 230), held)
        _leg(made, name, "left", hips["left"], feet)
    made.box(name("pelvis", ""), (255, 370, 345, 425), name("torso", ""), (300, 385))
    made.box(name("torso", ""), (250, 200, 350, 395))
    made.limb(name("neck", ""), (300, 208), (300, 180), 34, name("torso", ""))
    made.round(name("head", ""), (300, 130), 58, name("neck", ""), (300, 182))
    for side in ("left", "right"):
        out = 1 if side == "left" else -1
        if not feet:
            _arm(made, name, side, (300 + 46 * out, 225), 40 * out)
        elif side == "right":
            _arm(made, name, side, (300, 230), -held)
        if not feet or side == "right":
            _leg(made, name, side, hips[side], feet or toes or out)
    return made


def _arm(made: Loose, name: Names, side: str, at: Point, out: float) -> None:
    x, y = at
    elbow, wrist = (x + out, y + 95), (x + 1.4 * out, y + 180)
    made.limb(name("upper arm", side), at, elbow, 36, name("torso", ""))
    made.limb(name("lower arm", side), elbow, wrist, 30, name("upper arm", side))
    made.round(name("hand", side), (wrist[0], wrist[1] + 14), 20, name("lower arm", side), wrist)


def _leg(made: Loose, name: Names, side: str, at: Point, toe: float) -> None:
    x, y = at
    made.limb(name("thigh", side), at, (x, y + 110), 46, name("pelvis", ""))
    made.limb(name("shin", side), (x, y + 110), (x, y + 215), 38, name("thigh", side))
    made.limb(name("foot", side), (x, y + 218), (x + 40 * toe, y + 226), 30, name("shin", side))


def told(words: Mapping[str, str], sides: Mapping[str, str], order: str = "{side} {part}") -> Names:
    """A habit of naming: words for the parts, words for the sides, and how they are put together."""

    def name(part: str, side: str) -> str:
        said = order.format(part=words.get(part, part), side=sides.get(side, ""))
        return " ".join(said.split()).strip(" _.-")

    return name


ENGLISH = {"left": "left", "right": "right"}
PARTS = ("torso", "pelvis", "neck", "head", "upper arm", "lower arm", "hand", "thigh", "shin", "foot")


def spoken(parts: str) -> dict[str, str]:
    """The parts of a body in other words, one after the other."""
    return dict(zip(PARTS, parts.split(", "), strict=True))


GERMAN = spoken("Oberkörper, Becken, Hals, Kopf, Oberarm, Unterarm, Hand, Oberschenkel, Unterschenkel, Fuß")
FRENCH = spoken("torse, bassin, cou, tête, bras, avant-bras, main, cuisse, tibia, pied")
SPANISH = spoken("torso, cadera, cuello, cabeza, brazo, antebrazo, mano, muslo, pantorrilla, pie")
ITALIAN = spoken("torso, bacino, collo, testa, braccio, avambraccio, mano, coscia, polpaccio, piede")
DUTCH = spoken("romp, bekken, nek, hoofd, bovenarm, onderarm, hand, bovenbeen, onderbeen, voet")
FINNISH = spoken("vartalo, lantio, kaula, pää, olkavarsi, kyynärvarsi, käsi, reisi, sääri, jalkaterä")
COUNTED = {
    "upper arm": "arm 1",
    "lower arm": "arm 2",
    "hand": "arm 3",
    "thigh": "leg 1",
    "shin": "leg 2",
    "foot": "leg 3",
}


def ferryman() -> Loose:
    """One piece an arm and a leg, a face, and what is worn."""
    made = Loose()
    made.limb("leg_l", (325, 420), (330, 620), 50, "body")
    made.limb("leg_r", (275, 420), (270, 620), 50, "body")
    made.box("body", (235, 220, 365, 450))
    made.limb("arm_l", (350, 250), (400, 400), 40, "body")
    made.limb("arm_r", (250, 250), (200, 400), 40, "body")
    made.round("head", (300, 150), 75, "body", (300, 220))
    for side, x in (("l", 325), ("r", 275)):
        made.round(f"eye_{side}", (x, 140), 15, "head")
        made.round(f"pupil_{side}", (x, 142), 6, f"eye_{side}")
        made.box(f"brow_{side}", (x - 18, 112, x + 18, 120), "head")
    made.box("mouth", (280, 180, 320, 192), "head")
    made.box("hat", (215, 50, 385, 105), "head")
    made.box("button", (294, 300, 306, 312), "body")
    return made


def dog() -> Loose:
    """Four legs of three parts each, two of them on each side."""
    made = Loose()
    made.limb("torso", (200, 300), (440, 300), 110)
    for end, x in (("front", 215), ("hind", 430)):
        for side, off in (("left", 12), ("right", -12)):
            called = f"{end} {side}"
            at = (x + off, 330)
            made.limb(f"{called} upper leg", at, (x + off, 420), 36, "torso")
            made.limb(f"{called} lower leg", (x + off, 420), (x + off, 510), 28, f"{called} upper leg")
            made.limb(f"{called} paw", (x + off, 512), (x + off - 25, 518), 24, f"{called} lower leg")
    made.limb("neck", (205, 280), (150, 210), 50, "torso")
    made.round("head", (130, 180), 55, "neck", (150, 215))
    made.limb("ear", (140, 140), (165, 200), 22, "head")
    made.limb("tail", (450, 280), (530, 200), 18, "torso")
    return made


def gull() -> Loose:
    """A bird in its own words."""
    made = Loose()
    made.limb("tail", (380, 340), (470, 370), 34, "body")
    made.limb("body", (230, 300), (370, 330), 120)
    made.round("head", (190, 230), 50, "body", (205, 262))
    made.limb("beak", (148, 235), (95, 245), 20, "head")
    made.round("eye", (178, 220), 9, "head")
    made.limb("left wing", (290, 290), (420, 220), 50, "body")
    made.limb("right wing", (280, 300), (410, 260), 46, "body")
    for side, x in (("left", 300), ("right", 280)):
        made.limb(f"{side} thigh", (x, 370), (x, 420), 24, "body")
        made.limb(f"{side} shin", (x, 420), (x, 490), 14, f"{side} thigh")
        made.limb(f"{side} foot", (x, 492), (x - 35, 498), 12, f"{side} shin")
    return made


def robot() -> Loose:
    """Parts that do not touch, and a chest plate."""
    made = Loose()
    made.box("torso", (230, 220, 370, 400))
    made.box("panel", (260, 250, 340, 310), "torso")
    made.box("head", (250, 120, 350, 205), "torso", (300, 212))
    made.limb("antenna", (300, 120), (300, 80), 8, "head")
    for side, out in (("L", 1), ("R", -1)):
        x = 300 + 85 * out
        made.box(f"arm_upper_{side}", (x - 15, 230, x + 15, 310), "torso")
        made.box(f"arm_lower_{side}", (x - 14, 318, x + 14, 390), f"arm_upper_{side}", (x, 316))
        made.round(f"hand_{side}", (x, 415), 18, f"arm_lower_{side}")
        x = 300 + 40 * out
        made.box(f"leg_upper_{side}", (x - 18, 408, x + 18, 500), "torso")
        made.box(f"leg_lower_{side}", (x - 16, 506, x + 16, 600), f"leg_upper_{side}", (x, 506))
        made.box(f"foot_{side}", (x - 22, 606, x + 22, 630), f"leg_lower_{side}")
    return made


def whistle() -> Loose:
    """A thing: nothing in it is a body."""
    made = Loose()
    made.box("boiler", (220, 300, 400, 520))
    made.limb("pipe", (310, 310), (310, 180), 40, "boiler")
    made.box("bell", (280, 110, 340, 185), "pipe", (310, 175))
    made.limb("lever", (330, 240), (420, 230), 14, "pipe")
    made.limb("chain", (416, 232), (420, 420), 8, "lever")
    made.round("gauge", (310, 400), 40, "boiler")
    made.limb("needle", (310, 400), (330, 380), 5, "gauge")
    return made


def schoolboy() -> Loose:
    """From the side, in plain words: a face and a cap instead of a head, a seat instead of hips."""
    made = Loose()
    for depth, x in (("far", 306), ("near", 294)):
        if depth == "near":
            made.box("seat", (258, 375, 342, 440), "body", (300, 388))
            made.box("body", (255, 215, 345, 400))
            made.limb("neck", (300, 225), (300, 185), 30, "body")
            made.round("face", (305, 135), 55, "neck", (300, 184))
            made.round("eye", (335, 125), 9, "face")
            made.box("brow", (322, 100, 348, 106), "face")
            made.box("mouth", (330, 155, 352, 162), "face")
            made.box("cap", (245, 70, 365, 112), "face")
        made.limb(f"{depth} upper arm", (x, 240), (x - 6, 320), 30, "body")
        made.limb(f"{depth} forearm", (x - 6, 320), (x + 8, 400), 26, f"{depth} upper arm")
        made.limb(f"{depth} upper leg", (x, 425), (x, 515), 40, "seat")
        made.limb(f"{depth} lower leg", (x, 515), (x, 610), 32, f"{depth} upper leg")
        made.limb(f"{depth} shoe", (x - 6, 618), (x + 42, 622), 24, f"{depth} lower leg")
    return made


def horse(words: tuple[str, str, str, str] = ("thigh", "shin", "cannon", "hoof")) -> Loose:
    """From the side, its legs of four parts."""
    made = Loose()

    def leg(called: str, x: float) -> None:
        upper, lower, cannon, hoof = (f"{called} {w}" for w in words)
        made.limb(upper, (x, 330), (x + 6, 400), 44, "body")
        made.limb(lower, (x + 6, 400), (x - 4, 470), 32, upper)
        made.limb(cannon, (x - 4, 470), (x, 540), 22, lower)
        made.limb(hoof, (x, 544), (x + 22, 556), 26, cannon)

    leg("far front", 412)
    leg("far hind", 200)
    made.limb("tail", (170, 290), (120, 420), 26, "body")
    made.limb("body", (190, 290), (420, 290), 110)
    made.limb("neck", (425, 260), (490, 170), 60, "body")
    made.limb("head", (485, 165), (550, 215), 50, "neck")
    made.limb("ear", (480, 150), (470, 115), 14, "head")
    made.round("eye", (505, 165), 7, "head")
    leg("near front", 428)
    leg("near hind", 216)
    return made


def beetle() -> Loose:
    """Six legs of two parts each, from above."""
    made = Loose()
    for side, out in (("left", 1), ("right", -1)):
        for n, y in enumerate((230, 300, 370), 1):
            at, knee = (300 + 50 * out, y), (300 + 130 * out, y - 20 + 20 * n)
            made.limb(f"{side} leg {n} upper", at, knee, 16, "body")
            made.limb(f"{side} leg {n} lower", knee, (knee[0] + 60 * out, knee[1] + 40), 12, f"{side} leg {n} upper")
        made.limb(f"{side} antenna", (300 + 20 * out, 120), (300 + 60 * out, 50), 8, "head")
    made.box("body", (225, 180, 375, 450))
    made.round("head", (300, 150), 48, "body", (300, 190))
    return made


def caterpillar() -> Loose:
    """A row of parts, each on the one before."""
    made = Loose()
    made.round("head", (140, 400), 50, "segment 1", (185, 400))
    for n in range(1, 7):
        on = f"segment {n - 1}" if n > 1 else ""
        made.round(f"segment {n}", (140 + 70 * n, 400), 45, on, (105 + 70 * n, 400) if on else None)
    made.round("eye", (125, 390), 8, "head")
    return made


def lady() -> Loose:
    """From the front, in a skirt over her legs, with hair before and behind, a hat, brows, lids and a mouth."""
    made = Loose()
    made.round("hair back", (300, 140), 78, "head")
    for side, out in (("left", 1), ("right", -1)):
        _arm(made, told({}, ENGLISH), side, (300 + 42 * out, 228), 30 * out)
        made.limb(f"{side} thigh", (300 + 24 * out, 400), (300 + 24 * out, 500), 40, "skirt")
        made.limb(f"{side} shin", (300 + 24 * out, 500), (300 + 24 * out, 600), 32, f"{side} thigh")
        made.limb(f"{side} foot", (300 + 24 * out, 606), (300 + 60 * out, 612), 24, f"{side} shin")
    made.box("torso", (255, 205, 345, 380))
    made.box("skirt", (230, 360, 370, 480), "torso", (300, 370))
    made.limb("neck", (300, 212), (300, 190), 28, "torso")
    made.round("head", (300, 140), 60, "neck", (300, 192))
    for side, x in (("left", 322), ("right", 278)):
        made.round(f"{side} eye", (x, 140), 13, "head")
        made.round(f"{side} pupil", (x, 141), 6, f"{side} eye")
        made.box(f"{side} lid", (x - 14, 126, x + 14, 140), "head")
        made.box(f"{side} brow", (x - 16, 108, x + 16, 114), "head")
    made.box("mouth", (284, 166, 316, 176), "head")
    made.box("hair", (245, 84, 355, 112), "head")
    made.box("hat", (230, 52, 370, 118), "head")
    return made


def strider(legs: str, apart: float) -> Loose:
    """Somebody seen from the side, legs one behind the other; of those parts named with a capital neither side is told."""
    made, parts = Loose(), {"U": "upper leg", "C": "calf", "S": "shoe"}
    named = {
        (part, far): f"{parts[part]}{'' if far else ' 2'}"
        if part in legs
        else f"{'far' if far else 'near'} {parts[part]}"
        for part in parts
        for far in (True, False)
    }

    def leg(far: bool, x: float) -> None:
        made.limb(named["U", far], (300 + x, 380), (306 + x, 480), 44, "body")
        made.limb(named["C", far], (306 + x, 480), (298 + x, 580), 38, named["U", far])
        made.box(named["S", far], (276 + x, 572, 356 + x, 604), named["C", far])

    leg(True, apart)
    made.box("body", (250, 200, 350, 400))
    made.round("head", (300, 150), 60, "body", (300, 204))
    leg(False, 0)
    return made


def before_a_wall(make: Callable[[], Loose], wall: str) -> Loose:
    """A figure with what stands behind it among its pieces."""
    made, figure = Loose(), make()
    made.box(wall, (0, 0, 600, 700))
    made.parts += figure.parts
    made.hangs |= figure.hangs
    made.pins |= figure.pins
    made.sizes |= figure.sizes
    made.alone.add(wall)
    return made


def stall() -> Loose:
    """Things for sale, called by their sizes."""
    made = Loose()
    made.box("table", (100, 400, 500, 430))
    made.box("table leg left", (120, 425, 140, 560), "table")
    made.box("table leg right", (460, 425, 480, 560), "table")
    for name, x, size in (("crate L", 130, 110), ("crate M", 270, 80), ("crate S", 390, 50)):
        made.box(name, (x, 404 - size, x + size, 404), "table")
    return made


def wagon() -> Loose:
    """A cart on two wheels with spokes."""
    made = Loose()
    made.box("cart", (180, 260, 460, 380))
    for end, x in (("front", 410), ("back", 230)):
        made.round(f"{end} wheel", (x, 400), 62, "cart", (x, 400))
        made.box(f"{end} hub", (x - 10, 390, x + 10, 410), f"{end} wheel")
    made.limb("handle", (455, 280), (560, 220), 16, "cart")
    made.box("lamp", (190, 228, 220, 268), "cart")
    return made


def angler() -> Loose:
    """From the side, holding something long, with a bag on a strap."""
    made = biped(told({}, {"left": "far", "right": "near"}), 0.1, 1)
    made.limb("rod", (288, 424), (520, 250), 8, "near hand")
    made.box("bag", (262, 330, 318, 392), "torso")
    made.box("cap", (240, 68, 365, 104), "head")
    return made


PUPPETS: dict[str, tuple[Callable[[], Loose], bool]] = {
    "conductor, front": (lambda: biped(told({}, ENGLISH)), True),
    "conductor, side, near and far": (lambda: biped(told({}, {"left": "far", "right": "near"}), 0.1, 1), True),
    "upperArmL": (
        lambda: biped(
            told({"upper arm": "upperArm", "lower arm": "lowerArm"}, {"left": "L", "right": "R"}, "{part}{side}")
        ),
        True,
    ),
    "arm 1, arm 2, arm 3": (lambda: biped(told(COUNTED, ENGLISH, "{part} {side}")), True),
    "German": (lambda: biped(told(GERMAN, {"left": "links", "right": "rechts"}, "{part} {side}")), True),
    "French": (lambda: biped(told(FRENCH, {"left": "gauche", "right": "droite"}, "{part} {side}")), True),
    "Finnish": (lambda: biped(told(FINNISH, {"left": "vasen", "right": "oikea"}, "{side} {part}")), True),
    "ferryman, whole limbs and a face": (ferryman, True),
    "dog": (dog, True),
    "gull": (gull, True),
    "robot, nothing touches": (robot, True),
    "steam whistle": (whistle, True),
    "conductor, no names": (lambda: biped(told({}, ENGLISH)), False),
    "conductor, three quarters, no names": (lambda: biped(told({}, ENGLISH), 0.8, toes=0.8), False),
    "gull, no names": (gull, False),
    "schoolboy, side": (schoolboy, True),
    "schoolboy in a classroom": (lambda: before_a_wall(schoolboy, "classroom"), True),
    "horse": (horse, True),
    "horse, metatarsus": (lambda: horse(("upper leg", "lower leg", "metatarsus", "hoof")), True),
    "beetle": (beetle, True),
    "caterpillar": (caterpillar, True),
    "caterpillar, no names": (caterpillar, False),
    "lady": (lady, True),
    "lady, no names": (lady, False),
    "lady before a wall": (lambda: before_a_wall(lady, "wall"), True),
    "stall": (stall, True),
    "wagon": (wagon, True),
    "wagon, no names": (wagon, False),
    "angler": (angler, True),
    "Spanish": (lambda: biped(told(SPANISH, {"left": "izquierdo", "right": "derecho"}, "{part} {side}")), True),
    "Italian": (lambda: biped(told(ITALIAN, {"left": "sinistro", "right": "destro"}, "{part} {side}")), True),
    "Dutch": (lambda: biped(told(DUTCH, {"left": "linker", "right": "rechter"}, "{side} {part}")), True),
    "Part_L": (lambda: biped(told({}, {"left": "L", "right": "R"}, "{part}_{side}")), True),
    "L.part": (lambda: biped(told({}, {"left": "L", "right": "R"}, "{side}.{part}")), True),
    "German, side": (lambda: biped(told(GERMAN, {"left": "hinterer", "right": "vorderer"}), 0.1, -1), True),
    "French, side": (lambda: biped(told(FRENCH, {"left": "gauche", "right": "droit"}, "{part} {side}"), 0.1, 1), True),
    "arm 1, side": (lambda: biped(told(COUNTED, {"left": "far", "right": "near"}), 0.1, 1), True),
    "conductor, narrow": (lambda: biped(told({}, ENGLISH), 0.6), True),
    "conductor, wide": (lambda: biped(told({}, ENGLISH), 1.4), True),
    "conductor, arms held out": (lambda: biped(told({}, {"left": "far", "right": "near"}), 0.1, 1, 70), True),
    "conductor, narrow, no names": (lambda: biped(told({}, ENGLISH), 0.8), False),
    "conductor before a wall": (lambda: before_a_wall(lambda: biped(told({}, ENGLISH)), "station"), True),
}
