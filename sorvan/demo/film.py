"""“The last ferry”: six shots at the quay, made with the same commands as a hand on the Shots bench.

The conductor comes along the quay; the ferry waits and steams; she calls it out, and nobody comes; the whistle blows,
she runs; and the quay is left to the gull. Frames are counted from 0 here.
"""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.casting import AddCast, SetShake, ShakeGiven
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.production import AddMotion, SetPuppet
from sorvan.core.change.shot_keys import KeyInShot, PoseInShot
from sorvan.core.change.shots import AddShot, HeardGiven, PlaceHeard, SetShot
from sorvan.core.change.spans import SetSpan, SpanGiven
from sorvan.core.change.voices import AddVoice
from sorvan.core.geometry import Point
from sorvan.core.model.channels import ChannelKind
from sorvan.core.model.ease import Ease, Even, Slow
from sorvan.core.model.shot import Close, Copies, Heard, Join, Member, Shake, Span, Travel
from sorvan.core.voice.warp import Samples
from sorvan.demo import noises
from sorvan.demo.builder import Builder
from sorvan.demo.harbour import (
    FERRY,
    PUFF,
    SIGN,
    dusk_svg,
    ferry_svg,
    puff_svg,
    quay_svg,
    ropes_svg,
    shore_svg,
    sign_svg,
    water_svg,
)
from sorvan.interchange.sounds import read_sound
from sorvan.picture.sound import flac

RATE = 24.0
GROUND = 668.0
"""How far down on the stage she walks on the planks."""
SOFT = Slow(out=50, into=50)
STOPS = 78
"""The frame at which she stops on the quay and begins to turn."""


def add_film(build: Builder) -> None:
    """The harbour's layers, its sounds, and the film."""
    _sets(build)
    _sounds(build)
    for make in (_arriving, _along, _calling, _sighing, _running, _leaving):
        make(build)


def _sets(build: Builder) -> None:
    bring = build.bring
    bring("dusk", "Evening sky", dusk_svg(), {}, {})
    bring("shore", "Far shore", shore_svg(), {}, {})
    w = bring("water", "Water", water_svg(), {}, {})
    build.do(AddMotion(id="drift", puppet="water", name="Waves drift", length=96, cycle=True))
    rows = ((w["waves 1"], 9.0, 2.0), (w["waves 2"], -14.0, 3.0), (w["waves 3"], 20.0, 5.0))
    build.do(SetKeys(motion="drift", keys=tuple(
        NewKey(joint=id, kind="move", frame=f, value=(x * s, y * s), ease=SOFT)
        for id, x, y in rows for f, s in ((0, -1.0), (48, 1.0))
    )))  # fmt: skip
    _ferry(build)
    bring("boards", "Planks and lamps", quay_svg(), {}, {})
    bring("ropes", "Ropes in front", ropes_svg(), {}, {})
    _sign(build)
    p = bring("puff", "Puff of steam", puff_svg(), {"puff": PUFF}, {})
    build.do(SetPuppet(puppet="puff", origin=PUFF))
    build.do(AddMotion(id="rise", puppet="puff", name="Rise and drift", length=72))
    id = p["puff"]
    rising = (
        NewKey(joint=id, kind="move", frame=0, value=(0.0, 0.0), ease=Slow(out=0, into=45)),
        NewKey(joint=id, kind="move", frame=71, value=(110.0, -210.0)),
        NewKey(joint=id, kind="scale", frame=0, value=(0.28, 0.28), ease=Slow(out=0, into=55)),
        NewKey(joint=id, kind="scale", frame=71, value=(1.5, 1.4)),
        NewKey(joint=id, kind="turn", frame=0, value=(-14.0,), ease=Even()),
        NewKey(joint=id, kind="turn", frame=71, value=(34.0,)),
    )
    build.do(SetKeys(motion="rise", keys=rising))


def _sign(build: Builder) -> None:
    """The title: a painted board comes down on its ropes, swings itself still, and is pulled up again."""
    id = build.bring("sign", "Painted sign", sign_svg(), {"sign": SIGN}, {})["sign"]
    build.do(SetPuppet(puppet="sign", origin=SIGN))
    build.do(AddMotion(id="hang", puppet="sign", name="Come down and swing", length=84))
    falls, up = Slow(out=70, into=0), Slow(out=0, into=60)
    down = ((0, -330.0, falls), (12, 16.0, up), (16, -6.0, SOFT), (20, 3.0, SOFT), (24, 0.0, None), (66, 0.0, SOFT),
            (70, 12.0, falls), (83, -350.0, None))  # fmt: skip
    swing = ((0, 2.5), (12, -2.6), (22, 1.8), (33, -1.2), (45, 0.7), (58, -0.3), (70, 0.0), (83, -1.5))
    keys = [NewKey(joint=id, kind="move", frame=f, value=(0.0, y), ease=ease) for f, y, ease in down]
    keys += [NewKey(joint=id, kind="turn", frame=f, value=(turn,), ease=SOFT) for f, turn in swing]
    build.do(SetKeys(motion="hang", keys=tuple(keys)))


def _ferry(build: Builder) -> None:
    """The ferry rides on the water: everything hangs on its hull, which heaves and rolls."""
    parts = ("chimney", "mast", "cabin", "deck", "reflection")
    f = build.bring(
        "ferry", "Ferry", ferry_svg(), {"hull": (640, 470), "mast": (800, 414)}, dict.fromkeys(parts, "hull")
    )
    build.do(SetPuppet(puppet="ferry", origin=FERRY))
    build.do(AddMotion(id="ride", puppet="ferry", name="Ride on the water", length=72, cycle=True))
    hull, mast = f["hull"], f["mast"]
    rides = [
        (hull, "move", 0, (0.0, -3.0)),
        (hull, "move", 36, (0.0, 3.5)),
        (hull, "turn", 9, (-0.7,)),
        (hull, "turn", 45, (0.8,)),
    ]
    rides += [(mast, "turn", 16, (-1.4,)), (mast, "turn", 52, (1.6,))]
    build.do(SetKeys(motion="ride", keys=tuple(
        NewKey(joint=id, kind=kind, frame=at, value=value, ease=SOFT)  # type: ignore[arg-type]
        for id, kind, at, value in rides
    )))  # fmt: skip


def _sounds(build: Builder) -> None:
    walk, run = _contacts(build, "stroll", (STOPS + 4) / RATE), _contacts(build, "run", 2.4)
    made: tuple[tuple[str, str, Samples], ...] = (
        ("whistle", "Steam whistle", noises.whistle()),
        ("lapping", "Water at the piles", noises.water(6.0)),
        ("walking", "Footsteps on planks", noises.steps(walk, 5.0)),
        ("running", "Running on planks", noises.steps(run, 2.4, 1.25)),
        ("cry", "A gull cries", noises.cry()),
        ("creak", "Ropes creak", noises.creak()),
    )
    for id, name, samples in made:
        read = read_sound(flac(samples), f"{id}.flac")
        build.kept |= read.assets
        build.do(AddVoice(id=id, name=name, sound=read.recording.changed(said=())))


def _contacts(build: Builder, motion: str, seconds: float) -> list[float]:
    """When feet come down in a gait that is done round and round (seconds)."""
    held = build.documents.motion(motion)
    frames = [f for f, pose in held.poses.items() if pose.label.startswith("contact") and f < held.length]
    rounds = int(seconds * RATE / held.length) + 1
    return [
        (n * held.length + f) / RATE for n in range(rounds) for f in frames if (n * held.length + f) / RATE < seconds
    ]


class _Stage:
    """A shot while it is being made."""

    def __init__(self, build: Builder, id: str, name: str, length: int, note: str) -> None:
        self.build, self.id, self.length = build, id, length
        build.do(AddShot(id=id, name=name, length=length))
        if "backdrop" in build.documents.shot(id).cast:
            build.documents = build.documents.with_(build.documents.shot(id).without("backdrop"))
        build.do(SetShot(shot=id, stage="final", note=note))
        self._row = 0

    def sea(self, ferry: Point | None = None, size: float = 1.0) -> None:
        """Sky, shore and water with the ferry on it, and the quay in front."""
        for layer, share in (("dusk", 12.0), ("shore", 30.0), ("water", 45.0)):
            self.cast(layer, layer, (640.0, 648.0) if layer != "water" else None, share=share)
        self.does("water", "drift")
        if ferry is not None:
            self.cast("ferry", "ferry", ferry, scale=size, share=60.0)
            self.does("ferry", "ride")
            self.steam("ferry", (ferry[0] + 36 * size, ferry[1] - 272 * size), size, share=60.0)
        self.cast("boards", "boards", None)

    def steam(self, along: str, at: Point, size: float, share: float, count: int = 9) -> None:
        """Steam over a chimney, which goes along with what it is on."""
        steam = Copies(
            id="steam", puppet="puff", motion="rise", along=along, name="Steam", count=count, seed=4, at=at, share=share,
            spread=(14.0 * size, 6.0 * size), scale=0.85 * size, size=30, turn=16, opacity=35, tint="#f6c893ff", tinted=45,
            fade_in=8, fade_out=55,
        )  # fmt: skip
        self.build.do(AddCast(shot=self.id, cast=steam))

    def blast(self, along: str, at: Point) -> None:
        """The steam of the whistle: thick, and low over the chimney."""
        blast = Copies(
            id="blast", puppet="puff", motion="rise", along=along, name="Whistle steam", count=14, seed=9, at=at,
            share=60.0, spread=(46.0, 10.0), scale=0.7, size=45, turn=40, opacity=60, tint="#ffffffff", tinted=20,
            fade_in=4, fade_out=70,
        )  # fmt: skip
        self.build.do(AddCast(shot=self.id, cast=blast))

    def poses(self, cast: str, frame: int, more: dict[str, tuple[float, ...]], over: int) -> None:
        """Pose somebody in this shot alone: so much more than what is there."""
        self.build.do(PoseInShot(shot=self.id, cast=cast, frame=frame, values=more, over=over, added=True))

    def cast(self, id: str, puppet: str, at: Point | None, **given: object) -> None:
        """Put a puppet in, in front of all."""
        origin = self.build.documents.puppet(puppet).origin
        member = Member.model_validate({"id": id, "puppet": puppet, "at": at or origin, **given})
        self.build.do(AddCast(shot=self.id, cast=member))

    def does(
        self,
        cast: str,
        motion: str,
        start: int = 0,
        frames: int | None = None,
        play: Literal["once", "loop", "hold"] = "loop",
        blend: int = 0,
        first: float = 0.0,
        match: bool = False,
    ) -> None:
        """Let one of the cast do a motion from a frame on."""
        spans = self.build.documents.shot(self.id).members()[cast].spans
        span = Span(
            id=f"{motion}-{len(spans)}", motion=motion, start=start, frames=frames or self.length - start, play=play,
            blend=blend, first=first,
        )  # fmt: skip
        self.build.do(SetSpan(shot=self.id, cast=cast, span=SpanGiven.whole(span), match=match))

    def keys(
        self, cast: str | None, kind: ChannelKind, *keys: tuple[int, tuple[float, ...]], ease: Ease = SOFT
    ) -> None:
        """Key the camera, or somebody's place."""
        joint = "camera" if cast is None else "place"
        made = tuple(NewKey(joint=joint, kind=kind, frame=f, value=v, ease=ease) for f, v in keys)
        self.build.do(KeyInShot(shot=self.id, cast=cast, keys=made))

    def hear(self, voice: str, at: float, level: float = 0.0, fade_in: float = 0.0, fade_out: float = 0.0) -> None:
        """Let something be heard, on a row of its own."""
        sound = Heard(
            id=f"heard-{self._row}", voice=voice, at=at, level=level, fade_in=fade_in, fade_out=fade_out, row=self._row
        )
        self._row += 1
        self.build.do(PlaceHeard(shot=self.id, sound=HeardGiven.whole(sound)))

    def set(self, **given: object) -> None:
        """How it begins, and so on."""
        self.build.do(SetShot.model_validate({"shot": self.id, **given}))


def _arriving(build: Builder) -> None:
    """Wide: the ferry steams at the quay; the camera comes down from the sky to it."""
    shot = _Stage(build, "dusk-falls", "Dusk at the quay", 120, "From the sky down to the ferry. Quiet, warm.")
    shot.sea((520.0, 556.0), 1.0)
    shot.cast("gull", "gull", (60.0, 350.0), scale=0.42, share=34.0)
    shot.does("gull", "flap")
    shot.keys("gull", "move", (0, (-60.0, 60.0)), (119, (820.0, -150.0)), ease=Even())
    shot.cast("gull-again", "gull", (-60.0, 420.0), scale=0.3, share=28.0)
    shot.does("gull-again", "flap", first=7.0)
    shot.keys("gull-again", "move", (0, (0.0, 30.0)), (119, (700.0, -130.0)), ease=Even())
    shot.cast("ropes", "ropes", None, share=170.0)
    shot.keys(None, "move", (0, (90.0, -250.0)), (92, (0.0, 0.0)))
    shot.keys(None, "scale", (0, (1.2, 1.2)), (92, (1.0, 1.0)))
    shot.cast("sign", "sign", None, share=0.0)
    shot.does("sign", "hang", 12, 108, "once")
    shot.set(join=Join(kind="fade", frames=18))
    shot.hear("lapping", 0.0, fade_in=1.0)
    shot.hear("creak", 0.62, -9.0)
    shot.hear("cry", 1.1)
    shot.hear("whistle", 3.2, -8.0)


def _along(build: Builder) -> None:
    """She walks in from the left, the camera goes along, and she stops and turns to us."""
    shot = _Stage(
        build, "along", "Along the quay", 120, "Walk in; the camera goes with her, until she stops and turns."
    )
    shot.sea((980.0, 540.0), 0.8)
    shot.cast("she", "conductor", (-250.0, GROUND), travel=Travel())
    shot.does("she", "stroll", 0, STOPS + 10)
    shot.does("she", "face", STOPS, play="once", blend=10)
    shot.cast("ropes", "ropes", None, share=180.0)
    shot.keys(
        None, "move", (0, (-420.0, 30.0)), (20, (-360.0, 30.0)), (STOPS + 12, (200.0, 26.0)), (119, (216.0, 24.0))
    )
    shot.keys(None, "scale", (0, (1.12, 1.12)), (119, (1.2, 1.2)))
    shot.hear("lapping", 0.0, -4.0)
    shot.hear("walking", 0.0)


def _calling(build: Builder) -> None:
    """Close: she calls the last ferry."""
    shot = _Stage(build, "calls", "Last ferry at nine!", 138, "Close on her face for the call; a slow push in.")
    shot.sea((330.0, 540.0), 0.75)
    shot.cast("she", "conductor", (640.0, GROUND))
    shot.does("she", "call", play="once")
    shot.keys(None, "move", (0, (6.0, -120.0)), (137, (6.0, -150.0)))
    shot.keys(None, "scale", (0, (1.55, 1.55)), (137, (1.85, 1.85)))
    shot.hear("lapping", 0.0, -7.0)


def _sighing(build: Builder) -> None:
    """Wider: nobody comes."""
    shot = _Stage(build, "sighs", "Nobody comes", 104, "Hold still. Let the silence work; only the water moves.")
    shot.sea((1020.0, 545.0), 0.75)
    shot.cast("she", "conductor", (420.0, GROUND))
    shot.does("she", "call", play="once", first=140.0)
    shot.keys(None, "move", (0, (-60.0, 20.0)), (103, (-84.0, 0.0)))
    shot.keys(None, "scale", (0, (1.06, 1.06)), (103, (1.2, 1.2)))
    # The whistle: she starts, and looks up to the ferry.
    started = {"c-head.turn": (-7.0,), "c-torso.turn": (-3.0,), "c-brows.move": (0.0, -7.0)}
    still = {"c-head.turn": (0.0,), "c-torso.turn": (0.0,), "c-brows.move": (0.0, 0.0)}
    shot.poses("she", 92, still, over=0)
    shot.poses("she", 95, {"c-head.turn": (4.0,), "c-brows.move": (0.0, 2.0)}, over=0)
    shot.poses("she", 99, started, over=0)
    shot.hear("lapping", 0.0, -3.0)
    shot.hear("whistle", 3.85, 0.0)


def _running(build: Builder) -> None:
    """The whistle: the ferry casts off, and she runs for it, out of the picture."""
    shot = _Stage(build, "runs", "It leaves at nine", 84, "The whistle wakes her. Off to the right, and out.")
    shot.sea((620.0, 545.0), 0.85)
    shot.keys("ferry", "move", (0, (0.0, 0.0)), (83, (760.0, 0.0)), ease=Slow(out=45, into=0))
    shot.blast("ferry", (620.0 + 36 * 0.85, 545.0 - 272 * 0.85))
    shot.cast("she", "conductor-side", (-120.0, GROUND), travel=Travel())
    shot.does("she", "run")
    shot.cast("ropes", "ropes", None, share=170.0)
    shot.keys(None, "move", (0, (0.0, 10.0)), (83, (170.0, 10.0)))
    shot.keys(None, "scale", (0, (1.05, 1.05)), (83, (1.1, 1.1)))
    build.do(
        SetShake(
            shot=shot.id, shake=ShakeGiven.whole(Shake(size=5.0, turn=0.25, times=4.0, seed=2, start=2, frames=52))
        )
    )
    shot.hear("running", 0.0)
    shot.hear("lapping", 0.0, -6.0)


def _leaving(build: Builder) -> None:
    """Far out: the ferry is small, the quay is empty, and the pennant blows."""
    shot = _Stage(build, "leaves", "The quay is left to the gull", 120, "Long and still. Fade out on the light.")
    shot.sea((300.0, 486.0), 0.34)
    shot.keys("ferry", "move", (0, (0.0, 0.0)), (119, (260.0, -6.0)), ease=Even())
    shot.cast("pennant", "pennant", (940.0, 640.0), scale=0.62)
    shot.does("pennant", "wind")
    shot.cast("gull", "gull", (200.0, 330.0), scale=0.5, share=90.0)
    shot.does("gull", "glide", 8, 60, "once")
    shot.does("gull", "flap", 68, blend=8)
    shot.keys("gull", "move", (0, (0.0, 0.0)), (68, (0.0, 0.0)), (119, (560.0, -160.0)), ease=Slow(out=40, into=0))
    shot.keys(None, "move", (0, (40.0, 10.0)), (119, (0.0, -60.0)))
    shot.keys(None, "scale", (0, (1.16, 1.16)), (119, (1.0, 1.0)))
    shot.set(join=Join(kind="dissolve", frames=16), close=Close(frames=30))
    shot.hear("lapping", 0.0, -2.0, 0.6, 1.4)
    shot.hear("cry", 2.6, -5.0)
    shot.hear("whistle", 3.0, -19.0)
