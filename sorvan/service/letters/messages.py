"""The letters of the live socket, both ways: MessagePack maps with a `type`.

The page's types are made from these two lists, `FromPage` and `ToPage`. Blocks of numbers are
little-endian bytes: float32, or int16 and int32 where it says so.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from sorvan.core.change.commands import AnyCommand
from sorvan.core.film.film import InFilm
from sorvan.core.geometry import Place
from sorvan.core.model.base import LATER, Value
from sorvan.core.model.documents import Document
from sorvan.core.model.times import Frame
from sorvan.core.motion.limb import Pull
from sorvan.core.plan.scene import AtRest, InMotion
from sorvan.core.rig.blinks import BlinkParts
from sorvan.core.shot.scene import InShot
from sorvan.service.letters.drawn import Drawn, ItemView, Letter, Posed
from sorvan.service.letters.morphs import LookAtMorph, MorphLetter
from sorvan.service.letters.shots import FilmLess, FilmLetter, ShotChanged, ShotLetter, ShotPart
from sorvan.store.renders import RenderState

Watchable = Annotated[AtRest | InMotion | InShot | InFilm, Field(discriminator="kind")]
"""What can be looked at."""
TriedChannels = dict[str, tuple[float, ...]]
"""Values tried, by channel id."""


# From the page


FilmFrame = Annotated[int, Field(ge=0)]
"""A frame of what is watched; a film can be longer than anything in it."""


class Watch(Value):
    """What a window asks to see, and to follow from then on. Of what is sent piece by piece the frames about
    `frame` come first."""

    type: Literal["watch"] = "watch"
    target: Watchable
    frame: FilmFrame = 0


class Grab(Value):
    """The hand closes on a joint at a stage point, with other values already tried.

    If it closes on a `piece`, the core says which joint is meant; `joint` is a first guess.
    """

    type: Literal["grab"] = "grab"
    frame: Frame = 0
    joint: str
    piece: str | None = None
    pull: Pull
    at: tuple[float, float]
    tried: TriedChannels = {}
    snap: bool = False
    begins: str | None = None
    """The joint at which a limb that is pulled begins; told by the core if none."""
    cast: str | None = None
    """In a shot, whom it closes on; `at` is then in units of the picture."""


class Drag(Value):
    """The hand moves. Of several that wait, only the newest counts."""

    type: Literal["drag"] = "drag"
    n: int
    at: tuple[float, float]
    whole_steps: bool = False


class TryPose(Value):
    """Look at one frame with some channel values tried, or at the puppet at rest with nothing but these. Of
    several that wait, only the newest counts."""

    type: Literal["try-pose"] = "try-pose"
    n: int
    frame: Frame = 0
    tried: TriedChannels = {}
    at_rest: bool = False
    cast: str | None = None
    """In a shot, who is posed."""


class TryCommand(Value):
    """Look at the puppet at rest as a command would leave it, without doing it; at a frame, if it is a
    command on the motion that is watched, or in all its frames. Of several that wait, only the newest counts."""

    type: Literal["try-command"] = "try-command"
    n: int
    command: AnyCommand
    frame: Frame = 0
    whole: bool = False


class LookAtMesh(Value):
    """Look at the mesh of a piece that bends, and at how much one joint moves each place of it."""

    type: Literal["look-at-mesh"] = "look-at-mesh"
    piece: str
    joint: str | None = None


class LookAtWay(Value):
    """Look at the path of a joint, or of the puppet as a whole, and follow it; of none, if none is named."""

    type: Literal["look-at-way"] = "look-at-way"
    joint: str | None = None


class Playhead(Value):
    """Where the page is in the film, or in a motion that is sent in parts: what is about there comes first."""

    type: Literal["playhead"] = "playhead"
    frame: FilmFrame


FromPage = Annotated[
    Watch | Grab | Drag | TryPose | TryCommand | LookAtMesh | LookAtWay | LookAtMorph | Playhead,
    Field(discriminator="type"),
]
FROM_PAGE: TypeAdapter[FromPage] = TypeAdapter(FromPage, config=LATER)


# To the page


class StepView(Value):
    """A change that undo or redo would touch, and where people sign in who did it."""

    seq: int
    label: str
    who: str = ""


class WriteView(Value):
    """One place in one document and what stands there now. An empty path is the whole document;
    unset `has` means that there is nothing any more. What is new among others stands before the one named `next`;
    last, if there is none."""

    document: str
    path: tuple[str, ...]
    has: bool
    after: Any = None
    next: str | None = None


class Snapshot(Letter):
    """Everything a window that has just come needs to know, as of change number `seq`, and what of the production could
    not be read."""

    type: Literal["snapshot"] = "snapshot"
    seq: int
    documents: tuple[Document, ...]
    undo: StepView | None
    redo: StepView | None
    left_out: tuple[str, ...] = ()

    def wire(self) -> dict[str, Any]:
        return self.model_dump(mode="json")


class Changed(Letter):
    """Change number `seq` is on disk, and wrote this. They come in order, none left out."""

    type: Literal["changed"] = "changed"
    seq: int
    writes: tuple[WriteView, ...]
    undo: StepView | None
    redo: StepView | None


class Behind(Drawn):
    """What stands behind a motion, in one frame."""

    items: tuple[ItemView, ...]


class PlanLetter(Letter, Posed):
    """All frames of what the window watches: its lead, the lead's puppet at rest, and what stands behind.

    Of what is very long only the frames from the first up to the second of `sent` come with it; others follow.
    """

    type: Literal["plan"] = "plan"
    seq: int
    target: Watchable
    puppet: str
    frames: int
    items: tuple[ItemView, ...]
    joints: tuple[str, ...]
    rest: Posed
    behind: Behind | None = None
    sent: tuple[int, int] | None = None
    places: dict[str, Place] = {}
    limbs: dict[str, str] = {}
    """The limb that each thing that can be keyed belongs to."""


class PlanPart(Letter, Posed):
    """Frames `start` up to `stop`, worked out anew."""

    type: Literal["part"] = "part"
    seq: int
    start: int
    stop: int


class SpacedView(Value):
    """A channel as evaluated: for each gap its first frame, its last and the progress of each frame
    between; and the channel's values, number by number over so many `frames`, as float64: what is typed for one
    of them must leave the others as they are."""

    gaps: tuple[tuple[int, int, tuple[float, ...]], ...]
    frames: int
    values: bytes


class Spacing(Letter):
    """Where the in-betweens of some channels really fall, and which channels are gone."""

    type: Literal["spacing"] = "spacing"
    channels: dict[str, SpacedView]
    gone: tuple[str, ...]


class PoseLetter(Letter, Posed):
    """One frame as tried, the answer to question `n`. `items`, `joints` and `places` are given where
    they may differ from the plan's; `limits` are those of joints whose limits a tried command changes."""

    type: Literal["pose"] = "pose"
    n: int
    frame: int
    tried: TriedChannels
    items: tuple[ItemView, ...] = ()
    joints: tuple[str, ...] = ()
    places: dict[str, Place] = {}
    limits: dict[str, tuple[float, float]] = {}
    cast: str | None = None
    """In a shot, who is posed."""


class TriedLetter(Letter, Posed):
    """All frames of the watched motion as a tried command would leave it, the answer to question `n`."""

    type: Literal["tried"] = "tried"
    n: int
    frames: int


class CardsLetter(Letter, Drawn):
    """The poses of a motion whose channels come late, each whole as it is keyed, at these frames; none, if
    no channel does."""

    type: Literal["cards"] = "cards"
    frames: tuple[int, ...]


class WayKeyView(Value):
    """A key of a place on the stage, and the ends of its handles where the path is smooth."""

    frame: int
    at: tuple[float, float]
    before: tuple[float, float] | None = None
    after: tuple[float, float] | None = None


class WayLetter(Letter):
    """The keys on the path of a joint."""

    type: Literal["way"] = "way"
    joint: str
    keys: tuple[WayKeyView, ...]

    def wire(self) -> dict[str, Any]:
        return self.model_dump()


class Grabbed(Letter):
    """The hand that closed on a piece holds this joint of it."""

    type: Literal["grabbed"] = "grabbed"
    joint: str


class FindingView(Value):
    """A likely mistake, and the command that mends it."""

    check: str
    text: str
    joints: tuple[str, ...]
    pieces: tuple[str, ...]
    mend: AnyCommand | None
    mending: str
    frame: int | None = None
    keys: tuple[tuple[str, int], ...] = ()
    """In a motion, the frame where it is seen, and the keys (channel and frame) that it is about."""


class BendView(Value):
    """How fine a bending drawing is, and what a frame of it costs here and now (milliseconds)."""

    piece: str
    drawing: int
    points: int
    milliseconds: float
    triangles: int | None = None
    smallest_angle: float | None = None


class ViewView(Value):
    """A view of a turnaround with all that it holds: what channels hold in it, to which part arms and legs swing, and
    where joints lie on the stage."""

    at: float
    values: dict[str, tuple[float, ...]]
    arms: float
    legs: float
    places: dict[str, tuple[float, float]]


class TurnView(Value):
    """A puppet's turnaround: its views, and whether a second half could be made of the first."""

    dial: str
    views: tuple[ViewView, ...]
    to_flip: bool


class RigLetter(Letter):
    """What the program makes of a puppet's rig. `turn` is its turnaround, if it has one; `named_views` are the views that
    pieces are named by and that could be made of them."""

    type: Literal["rig"] = "rig"
    puppet: str
    findings: tuple[FindingView, ...]
    roles: dict[str, str]
    twins: dict[str, str]
    middles: dict[str, float]
    """By piece the upright line in which its other side would be made (stage units)."""
    bends: tuple[BendView, ...]
    colours: dict[str, tuple[str, ...]]
    directions: dict[str, float]
    """Where each joint's bone points at rest, seen from what it hangs on, in degrees."""
    standing: tuple[str, ...]
    """The joints of feet, which stand on the ground."""
    turn: TurnView | None = None
    named_views: tuple[str, ...] = ()
    loose: int = 0
    """How many pieces hang on nothing yet."""
    blinks: BlinkParts = BlinkParts()
    """What of it blinks, by its names."""

    def wire(self) -> dict[str, Any]:
        return self.model_dump(mode="json")


class FootView(Value):
    """A foot over the frames of a motion: how far it slides on the ground up to the next frame (units,
    float32), and whether it stands (one byte a frame)."""

    slide: bytes
    stands: bytes


class MotionReport(Letter):
    """What the program makes of a motion: how far down its ground lies, by how many units a frame a foot may
    slide before it is a mistake, the feet that changed since it was last told, by joint, and the likely
    mistakes, if these changed."""

    type: Literal["motion-report"] = "motion-report"
    motion: str
    ground: float
    slides: float
    feet: dict[str, FootView]
    beside: dict[int, int] | None = None
    """The frames where a key would lie just beside a pose, and that pose's frame; left out if as before."""
    findings: tuple[FindingView, ...] = ()
    tangles: dict[str, bytes] | None = None
    """By channel of drawings that become others: how bad the worst is in each frame (float32, 0 to 1); left out if as
    before."""

    def wire(self) -> dict[str, Any]:
        sent = self.model_dump(exclude={"findings"}, exclude_unset=True) | {"type": self.type}
        if "findings" in self.model_fields_set:
            sent["findings"] = [f.model_dump(mode="json") for f in self.findings]
        return sent


class MeshLetter(Letter):
    """The mesh over a piece's drawing at rest; `triangles` int32; `weights` one a vertex, of `joint`."""

    type: Literal["mesh"] = "mesh"
    piece: str
    joint: str | None
    vertices: bytes
    triangles: bytes
    weights: bytes | None = None


class Settled(Letter):
    """The plan on the stage has taken up change number `seq`."""

    type: Literal["settled"] = "settled"
    seq: int


class Importing(Letter):
    """How far an import that a window asked for has come, 0 to 1."""

    type: Literal["import"] = "import"
    window: str
    part: float


class Aligning(Letter):
    """How far finding the sounds of a voice line has come, 0 to 1, and with what; or how it ended."""

    type: Literal["aligning"] = "aligning"
    voice: str
    part: float = 0.0
    what: str = ""
    over: Literal["done", "refused", "failed", "cancelled"] | None = None
    message: str = ""


class RenderView(Value):
    """A render as the page shows it; those with a lower `place` are drawn first, `seconds_left` is worked out from
    the pace so far."""

    id: str
    title: str
    state: RenderState
    done: int
    total: int
    message: str
    settings: dict[str, Any]
    ready: bool
    at: str
    place: int = 0
    seconds_left: float | None = None


class RenderLetter(Letter):
    """How a render stands."""

    type: Literal["render"] = "render"
    render: RenderView


class DatabaseLetter(Letter):
    """Whether the database is there."""

    type: Literal["database"] = "database"
    here: bool


class Gone(Letter):
    """What the window watches is gone, as of change number `seq`."""

    type: Literal["gone"] = "gone"
    seq: int


class Removed(Letter):
    """The production is gone."""

    type: Literal["removed"] = "removed"


class Refused(Letter):
    """What was asked can't be done; `n` is the number of the question, if it had one."""

    type: Literal["refused"] = "refused"
    what: str
    where: str
    remedy: str
    n: int | None = None


class PassedOver(Letter):
    """Question `n` was not looked at, since a newer one had come."""

    type: Literal["passed-over"] = "passed-over"
    n: int


ToPage = (
    Snapshot | Changed | PlanLetter | ShotLetter | ShotPart | ShotChanged | FilmLetter | FilmLess | PlanPart | Spacing | PoseLetter | TriedLetter | WayLetter | CardsLetter | Grabbed | RigLetter | MotionReport | MeshLetter | MorphLetter | Settled
    | Importing | Aligning | RenderLetter | DatabaseLetter | Gone | Removed | Refused | PassedOver
)  # fmt: skip
TO_PAGE: TypeAdapter[ToPage] = TypeAdapter(Annotated[ToPage, Field(discriminator="type")], config=LATER)
