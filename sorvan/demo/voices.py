"""What the conductor says at the quay, and how it sounds.

The two recordings that ship in `sounds/` were made with espeak-ng by this module,

    python -m sorvan.demo.voices

and so were their charts, which the aligner found from sound and text.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from sorvan.core.change.charting import SetChart
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.mouths import ProposeMouths
from sorvan.core.change.poses import SetPose
from sorvan.core.change.production import AddMotion
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.change.voices import AddVoice
from sorvan.core.model.ease import Slow
from sorvan.core.model.recipe import Accents, Blink, Mouths
from sorvan.core.model.voice import Voice
from sorvan.core.voice.loudness import loudness, with_loudness
from sorvan.demo.builder import Builder
from sorvan.interchange.charts import read_chart, write_chart
from sorvan.interchange.sounds import mono_of, read_sound, resampled
from sorvan.picture.sound import flac, samples_of

SOUNDS = Path(__file__).parent / "sounds"
MOTION = "call"


@dataclass(frozen=True)
class DemoLine:
    """One line: what it is called, what is said, when it begins on the motion (seconds), and how the voice is set."""

    id: str
    name: str
    text: str
    at: float
    speed: int
    pitch: int


LINES = (
    DemoLine("call", "The last ferry", "Last ferry at nine! All aboard, please, and mind the gull.", 0.35, 140, 62),
    DemoLine("sigh", "Nobody comes", "Oh well. Nobody wants to leave the quay tonight.", 5.95, 125, 48),
)
SPEAKER = "en-us+f3"


def add_voices(made: Builder, joints: dict[str, str], mouth: str) -> None:
    """A motion on which the conductor says both lines: mouths, blinks, brows and head; the second line sadly."""
    do = made.do
    do(ProposeMouths(puppet="conductor", piece=mouth))
    do(AddMotion(id=MOTION, puppet="conductor", name="Call the last ferry", length=246))
    do(SetKeys(motion=MOTION, keys=tuple(_acting(joints))))
    for frame, label in ((1, "at ease"), (9, "call"), (58, "point"), (132, "sink"), (170, "shrug"), (246, "at ease")):
        do(SetPose(motion=MOTION, frame=frame - 1, text=label))
    for line in LINES:
        read = read_sound((SOUNDS / f"{line.id}.flac").read_bytes(), f"{line.id}.flac")
        made.kept |= read.assets
        do(
            AddVoice(
                id=f"line-{line.id}", name=line.name, text=line.text, sound=read.recording.changed(said=()),
                motion=MOTION, placed=line.id, at=line.at,
            )
        )  # fmt: skip
        chart = read_chart((SOUNDS / f"{line.id}.TextGrid").read_bytes(), f"{line.id}.TextGrid", read.recording.seconds)
        samples = samples_of(read.assets[read.recording.asset][1]).mean(axis=1)
        louder = with_loudness(chart, loudness(samples, 48_000), read.recording.seconds)
        do(SetChart(voice=f"line-{line.id}", chart=louder.changed(source="text", note="")))
        moods = {round(line.at * 24) - 4: "sad"} if line.id == "sigh" else {}
        recipe = Mouths(id=f"mouths-{line.id}", name=f"Mouths: {line.name}", sound=line.id, moods=moods)
        do(DoRecipe(motion=MOTION, recipe=recipe))
        accents = Accents(
            id=f"accents-{line.id}", name=f"Accents: {line.name}", sound=line.id, head=joints["head"],
            nod=4.5 if line.id == "call" else 3.0, brows=(joints["brows"],), lift=4.0 if line.id == "call" else 2.0,
        )  # fmt: skip
        do(DoRecipe(motion=MOTION, recipe=accents))
    do(
        DoRecipe(
            motion=MOTION,
            recipe=Blink(id="blinks", name="Blinks", dial="blink", seconds=2.4, hold=1, seed=4, sound="call"),
        )
    )


def _acting(j: dict[str, str]) -> list[NewKey]:
    """What the body does under the words: she draws herself up and calls, points at the gull, and sinks."""
    rows: dict[str, tuple[tuple[int, float], ...]] = {
        "torso": ((1, 0), (9, -3.5), (52, -2.5), (62, 2.5), (118, 2), (134, 5.5), (170, 6.5), (220, 4), (246, 0)),
        "head": ((1, 0), (9, -5), (52, -3), (64, 4), (118, 2), (136, 11), (170, 8), (186, 13), (220, 6), (246, 0)),
        "right upper arm": ((1, 0), (8, -6), (18, 60), (50, 56), (66, 10), (134, 2), (246, 0)),
        "right forearm": ((1, 0), (8, -4), (20, 62), (50, 58), (68, 14), (136, 4), (246, 0)),
        "lantern": ((1, 0), (10, 14), (20, -120), (27, -102), (34, -116), (50, -110), (68, -20), (78, -30), (134, -6), (246, 0)),
        "left upper arm": ((1, 0), (54, -2), (66, -70), (112, -66), (132, -6), (166, -10), (174, -24), (198, -20), (246, 0)),
        "left forearm": ((1, 0), (56, -8), (68, -18), (112, -14), (134, -4), (166, -10), (176, -62), (200, -50), (246, 0)),
        "left hand": ((1, 0), (58, -10), (70, 6), (114, 2), (136, 0), (176, 24), (202, 10), (246, 0)),
        "satchel": ((1, 0), (12, -3), (24, 2), (70, 3), (138, -3), (180, 1), (246, 0)),
    }  # fmt: skip
    ease = Slow(out=45, into=60)
    keys = [
        NewKey(joint=j[name], kind="turn", frame=f - 1, value=(float(v),), ease=ease)
        for name, pairs in rows.items()
        for f, v in pairs
    ]
    look = ((1, 0), (10, 0), (56, 0), (64, 80), (114, 70), (128, -20), (170, -50), (220, -10), (246, 0))
    return [*keys, *(NewKey(joint="look", kind="dial", frame=f - 1, value=(float(v),), ease=ease) for f, v in look)]


def make() -> None:
    """Say the lines, find their sounds, and write both to `sounds/`."""
    from sorvan.speech.charts import Wanted, chart
    from sorvan.speech.espeak import say

    for line in LINES:
        said = say(line.text, SPEAKER, line.speed, line.pitch)
        samples = resampled(said.samples[:, None], said.rate, 48_000)
        loudest = float(np.abs(samples).max())
        data = flac(samples * (0.7 / loudest))
        (SOUNDS / f"{line.id}.flac").write_bytes(data)
        found = chart(Wanted(mono_of(data), line.text))
        recording = read_sound(data, f"{line.id}.flac").recording
        voice = Voice(id=line.id, name=line.name, sound=recording, chart=found)
        (SOUNDS / f"{line.id}.TextGrid").write_bytes(write_chart(voice, "long"))


if __name__ == "__main__":
    make()
