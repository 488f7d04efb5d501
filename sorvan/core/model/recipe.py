"""Recipes: what made keys, kept with its parameters so that it can be done again."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field, field_validator, model_validator

from sorvan.core.model.base import Id, Name, Number, Value
from sorvan.core.model.shown import Shown
from sorvan.core.model.times import At, Frame, Last, Moving, Time, fields_moved

Amount = Annotated[float, Field(ge=0, le=300)]
Swings = Annotated[float, Field(ge=0.2, le=12)]
Damping = Annotated[float, Field(ge=0, le=4)]
Joints = Annotated[tuple[Id, ...], Field(min_length=1, max_length=24)]
Channels = Annotated[tuple[str, ...], Field(min_length=1, max_length=400)]


class RecipeBase(Value):
    """What every recipe has: the keys that it wrote name it by its id.

    `left_out` are the slots, `channel@slot`, whose keys the hand took away; `said` is what it had to
    say when it was last done. The slot of a key is its number on its channel, or where it is known again by it
    the frame (`by_frame`). One that has its `own_channels` leaves no room on them for anything but its own and what the
    hand puts among that.
    """

    by_frame: ClassVar[bool] = False
    own_channels: ClassVar[bool] = False
    id: Id
    name: Name
    left_out: tuple[str, ...] = ()
    said: tuple[str, ...] = ()

    @property
    def goes_by(self) -> str | None:
        """The sound on the motion that it goes by, if it does."""
        found: str | None = getattr(self, "sound", None)
        return found

    def moved(self, moving: Moving) -> Self:
        """This recipe with all its times where they go."""
        found = fields_moved(self, moving)
        if not self.by_frame or not self.left_out:
            return found
        slots = (slot.rpartition("@") for slot in self.left_out)
        return found.changed(left_out=tuple(f"{id}@{moving.place(int(frame))}" for id, _, frame in slots))


class Follow(RecipeBase):
    """Follow-through: a chain of joints dragged behind what carries it, each a damped spring.

    `frequency` is how fast the first joint swings by itself (swings a second), `damping` how much of
    a swing is lost (1 just does not swing past), `slower` how many times slower each further joint
    is, `pull` how strongly the movement of the joint's place sets it swinging (percent). A key is
    written on every n-th frame.
    """

    kind: Literal["follow"] = "follow"
    joints: Joints
    start: At = 0
    end: Last = 0
    frequency: Annotated[
        Swings, Shown("Swings", "a second", 0.2, 8, 0.1, tip="How often the first of them swings by itself")
    ] = 1.6
    damping: Annotated[
        Damping, Shown("Damping", "", 0, 2, 0.05, tip="How much of a swing is lost: at 1 it just does not swing past")
    ] = 0.3
    slower: Annotated[
        float,
        Field(ge=0.5, le=3),
        Shown(
            "Slower down the chain",
            "×",
            0.5,
            3,
            0.05,
            tip="How many times slower each further joint swings than the one before it",
        ),
    ] = 1.2
    pull: Annotated[
        Amount, Shown("Drag", "%", 0, 300, 5, tip="How strongly the movement of what carries it sets it swinging")
    ] = 100.0
    every: Annotated[int, Field(ge=1, le=24), Time.LASTS, Shown("A key every", "fr", 1, 12)] = 2


class Settle(RecipeBase):
    """Overshoot and settle: channels that come to rest at a frame go past it and swing until they stand.

    `amount` is how far they go past (percent of the move that ends there), `swings` how often they
    swing, `frames` how long one swing takes, `damping` how much of each swing is lost (percent).
    """

    kind: Literal["settle"] = "settle"
    channels: Channels
    frame: At
    amount: Annotated[
        Amount,
        Shown(
            "Past it by",
            "% of the move",
            0,
            100,
            tip="How far it goes past the place where the move ends, before it comes back",
        ),
    ] = 15.0
    swings: Annotated[int, Field(ge=1, le=12), Shown("Swings", "", 1, 8)] = 2
    frames: Annotated[int, Field(ge=2, le=96), Time.LASTS, Shown("A swing takes", "fr", 2, 24)] = 6
    damping: Annotated[
        float,
        Field(ge=0, le=95),
        Shown("Lost each swing", "%", 0, 95, 5, tip="How much smaller each swing is than the one before"),
    ] = 55.0


class Anticipate(RecipeBase):
    """Anticipation: before channels go from the key at a frame to their next, they go back by an `amount`
    (percent of the move) over some `frames`."""

    kind: Literal["anticipate"] = "anticipate"
    channels: Channels
    frame: At
    amount: Annotated[Amount, Shown("Back by", "% of the move", 0, 100, tip="How far it first goes the other way")] = (
        15.0
    )
    frames: Annotated[int, Field(ge=1, le=96), Time.LASTS, Shown("For", "fr", 1, 24)] = 4


class Squash(RecipeBase):
    """Squash and stretch of one joint by how it moves up and down: flat where it strikes and turns,
    long where it is fastest, its area always the same. Both in percent of its height."""

    kind: Literal["squash"] = "squash"
    joint: Id
    start: At = 0
    end: Last = 0
    squash: Annotated[
        float, Field(ge=0, le=80), Shown("Squash", "%", 0, 80, tip="How flat it is where it strikes and turns")
    ] = 30.0
    stretch: Annotated[
        float, Field(ge=0, le=150), Shown("Stretch", "%", 0, 100, tip="How long it is where it moves fastest")
    ] = 20.0


class Bounce(RecipeBase):
    """A fall from a `height` (units) that bounces to rest: each bounce keeps a part of the speed
    (percent), the first fall takes some `frames`, and it goes across by `across` units meanwhile."""

    kind: Literal["bounce"] = "bounce"
    joint: Id
    frame: At = 0
    height: Annotated[float, Field(gt=0, le=1e5), Shown("From", "u", 10, 1000, 5)] = 200.0
    frames: Annotated[int, Field(ge=2, le=240), Time.LASTS, Shown("The first fall takes", "fr", 2, 48)] = 10
    keeps: Annotated[
        float,
        Field(ge=0, le=95),
        Shown("Keeps", "% of its speed", 0, 95, tip="How much of its speed is left after it strikes the ground"),
    ] = 60.0
    bounces: Annotated[int, Field(ge=0, le=12), Shown("Bounces", "", 0, 10)] = 4
    across: Annotated[float, Field(ge=-1e5, le=1e5), Shown("Across", "u", -1000, 1000, 5)] = 0.0


class Blink(RecipeBase):
    """Blinks on an irregular rhythm: a dial goes to its `shut` value and back, about every so many
    seconds; another `seed` is another rhythm. `hold` is how many frames the eyes stay shut. By a `sound`
    that is placed on the motion they come seldom while it speaks, and rather at its pauses."""

    kind: Literal["blink"] = "blink"
    dial: Id
    shut: Annotated[float, Field(ge=-1e6, le=1e6), Shown("Shut at", "", -100, 100)] = 100.0
    start: At = 0
    end: Last = 0
    seconds: Annotated[float, Field(ge=0.2, le=30), Shown("About every", "s", 0.5, 12, 0.1)] = 3.0
    uneven: Annotated[
        float, Field(ge=0, le=100), Shown("Irregular", "%", 0, 100, 5, tip="At 0 it blinks like clockwork")
    ] = 50.0
    hold: Annotated[int, Field(ge=1, le=24), Time.LASTS, Shown("Shut for", "fr", 1, 12)] = 2
    seed: Annotated[
        int,
        Field(ge=0, le=9999),
        Shown("Another rhythm", "no.", 0, 999, tip="Any other number is another rhythm of the same kind"),
    ] = 1
    sound: Id | None = None


class Mouths(RecipeBase):
    """Mouths to the words of a `sound` that is placed on the motion, by the puppet's mouth chart.

    They come `lead` frames before what is heard, and stay for `hold` frames at least; on `twos` they change
    on every second frame only. `strength` is how wide they open (percent). `moods` says which of the chart's
    moods holds from a frame on.
    """

    by_frame: ClassVar[bool] = True
    own_channels: ClassVar[bool] = True
    kind: Literal["mouths"] = "mouths"
    sound: Id
    lead: Annotated[
        float,
        Field(ge=-4, le=8),
        Time.LASTS,
        Shown("Ahead of the sound", "fr", -2, 4, 0.25, tip="How long before its sound is heard a mouth is seen"),
    ] = 1.5
    hold: Annotated[int, Field(ge=1, le=6), Time.LASTS, Shown("A mouth stays at least", "fr", 1, 6)] = 2
    twos: bool = False
    strength: Annotated[float, Field(ge=20, le=160), Shown("How wide they open", "%", 20, 160, 5)] = 100.0
    moods: Annotated[dict[Frame, Name], Time.FILED] = {}

    @field_validator("moods")
    @classmethod
    def _in_order(cls, moods: dict[int, str]) -> dict[int, str]:
        return dict(sorted(moods.items()))


class Accents(RecipeBase):
    """The face on the stressed words of a `sound` that is placed on the motion: the `head` nods by so many
    degrees (it tilts back where a question ends), `brows` rise by so many units (`lift`), `lead` frames before
    the word is heard."""

    by_frame: ClassVar[bool] = True
    kind: Literal["accents"] = "accents"
    sound: Id
    head: Id | None = None
    nod: Annotated[float, Field(ge=-45, le=45), Shown("The head nods by", "°", -20, 20, 0.5)] = 5.0
    brows: Annotated[tuple[Id, ...], Field(max_length=8)] = ()
    lift: Annotated[float, Field(ge=-200, le=200), Shown("Brows rise by", "u", 0, 30, 0.5)] = 4.0
    lead: Annotated[
        int,
        Field(ge=0, le=12),
        Time.LASTS,
        Shown("Ahead of the word", "fr", 0, 8, tip="How long before the word is heard the face moves"),
    ] = 3


Sample = tuple[Annotated[float, Field(ge=0, le=1e6)], Number, Number]


class Capture(RecipeBase):
    """The movement of a pointer recorded into a joint's place or turn, or into the whole puppet's.

    `samples` are the raw recording: when (frames since it began, at full speed) and where on the stage
    (units). Of it the part from `first` to `last` (percent) is laid from `start` on, at so many percent of
    the `speed` it was recorded at; it is smoothed over so many frames, and keyed on `every` n-th frame, or
    on the fewest that come within the `tolerance` (units or degrees). Over its last frames (`closing`) it is led back to
    where it began, for a loop.
    """

    kind: Literal["capture"] = "capture"
    joint: Id
    what: Literal["place", "turn"] = "place"
    samples: Annotated[tuple[Sample, ...], Field(min_length=2, max_length=40_000), Time.TRACK]
    thin: Annotated[
        Literal["every", "fewest"],
        Shown("Keys", choices=(("fewest", "as few as will do"), ("every", "on every n-th frame"))),
    ] = "fewest"
    start: Annotated[At, Shown("At frame (from 0)", "fr", 0, 400)] = 0
    first: Annotated[float, Field(ge=0, le=100), Shown("From", "% of it", 0, 100)] = 0.0
    last: Annotated[float, Field(ge=0, le=100), Shown("To", "% of it", 0, 100)] = 100.0
    speed: Annotated[float, Field(ge=5, le=1000), Shown("Speed", "%", 10, 400, 5)] = 100.0
    smooth: Annotated[
        float,
        Field(ge=0, le=24),
        Time.LASTS,
        Shown("Smoothed over", "fr", 0, 12, 0.5, tip="Shorter trembling of the hand than this is taken out"),
    ] = 1.0
    every: Annotated[
        int, Field(ge=1, le=48), Time.LASTS, Shown("A key every", "fr", 1, 24, where=("thin", "every"))
    ] = 2
    tolerance: Annotated[
        float,
        Field(ge=0.01, le=500),
        Shown(
            "Within",
            "u or °",
            0.1,
            60,
            0.1,
            where=("thin", "fewest"),
            tip="How far the keys may miss what was recorded",
        ),
    ] = 1.5
    closing: Annotated[float, Field(ge=0, le=400), Time.LASTS, Shown("Led back to its start over", "fr", 0, 48)] = 0.0

    @model_validator(mode="after")
    def _in_time(self) -> Self:
        times = [t for t, _, _ in self.samples]
        if any(b < a for a, b in pairwise(times)):
            raise ValueError("the samples of a recording come one after the other")
        if self.first > self.last:
            raise ValueError("the part of a recording that is used ends after it begins")
        return self


PresetName = Literal[
    "walk", "stroll", "brisk", "tired", "proud", "heavy", "sneak", "limp", "run", "sprint", "skip", "trot", "gallop"
]  # fmt: skip
GaitName = Literal["walk", "run", "sneak", "limp", "skip", "trot", "gallop"]
Degrees = Annotated[float, Field(ge=-90, le=90)]


class Gait(RecipeBase):
    """A walk, run or other gait as a cycle of `frames`.

    `step` is the length of a step (units), `lift` how high the feet are carried, `knee` how much
    further, `bounce` how far the body rises and falls (all in percent of the leg), `lean` forward,
    `arms` how far they swing to each side of hanging, `elbow` how far they are bent, `twist` of hips
    and shoulders (degrees); `roll` how much of heel strike and toe-off the feet have (percent),
    `lag` how many frames the head comes late; `weight` from light (-100) to heavy (100), `uneven`
    how much the two sides differ (percent). On the spot the ground runs under the puppet; `forward`
    it goes on by its stride in each cycle. On a puppet that can be turned it is planned in the view `seen` from so many
    degrees; untold, in the one nearest to the side.
    """

    kind: Literal["gait"] = "gait"
    gait: GaitName = "walk"
    travel: Annotated[
        Literal["spot", "forward"],
        Shown("Goes", choices=(("spot", "on the spot"), ("forward", "forward"))),
    ] = "spot"
    frames: Annotated[int, Field(ge=8, le=48), Time.LASTS, Shown("Frames a cycle", "fr", 8, 48)] = 24
    step: Annotated[
        Annotated[float, Field(ge=0, le=1e4)] | None, Shown("Step (0 is natural)", "u", 0, 400, untold=0.0)
    ] = None
    lift: Annotated[
        float, Field(ge=0, le=60), Shown("Foot lift", "% of leg", 0, 40, tip="How high a foot is carried forward")
    ] = 6.0
    knee: Annotated[
        float,
        Field(ge=0, le=60),
        Shown("Knee lift", "% of leg", 0, 40, tip="How much further the knee is brought up on the way"),
    ] = 0.0
    bounce: Annotated[
        float,
        Field(ge=0, le=30),
        Shown("Bounce", "% of leg", 0, 20, 0.5, tip="How far the body rises and falls with each step"),
    ] = 5.0
    lean: Annotated[Degrees, Shown("Lean", "°", -20, 30)] = 2.0
    arms: Annotated[float, Field(ge=0, le=90), Shown("Arm swing", "°", 0, 80)] = 24.0
    elbow: Annotated[float, Field(ge=0, le=130), Shown("Elbow bend", "°", 0, 120)] = 14.0
    twist: Annotated[
        float, Field(ge=0, le=30), Shown("Twist", "°", 0, 20, tip="How far hips and shoulders turn against each other")
    ] = 5.0
    roll: Annotated[
        float,
        Field(ge=0, le=150),
        Shown(
            "Foot roll",
            "%",
            0,
            150,
            5,
            tip="How much the foot strikes with the heel and leaves with the toes; at 0 it comes down flat",
        ),
    ] = 100.0
    lag: Annotated[
        float,
        Field(ge=0, le=8),
        Time.LASTS,
        Shown("Head lag", "fr", 0, 6, 0.5, tip="How many frames after the body the head comes"),
    ] = 1.0
    weight: Annotated[
        float,
        Field(ge=-100, le=100),
        Shown(
            "Light to heavy",
            "",
            -100,
            100,
            5,
            tip="Light lifts its feet more and its body less, heavy its feet less and its body more",
        ),
    ] = 0.0
    uneven: Annotated[
        float, Field(ge=0, le=50), Shown("Unevenness", "%", 0, 50, tip="How much the steps of the two sides differ")
    ] = 0.0
    facing: Literal["auto", "left", "right"] = "auto"
    seen: Annotated[float, Field(ge=0, lt=360)] | None = None


AnyRecipe = Gait | Capture | Follow | Settle | Anticipate | Squash | Bounce | Blink | Mouths | Accents
Recipe = Annotated[AnyRecipe, Field(discriminator="kind")]
