"""The aligner's process: a sound and a text come in, a phoneme chart goes out.

It reads one line of JSON (what is wanted) and the sound as it is kept (FLAC) from standard input, and writes a
line of JSON whenever it has come on, and at the end the chart, or why there is none. It ends when whoever
started it does, or kills it; nothing is stored by it.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import SOUND_RATE
from sorvan.interchange.sounds import resampled
from sorvan.picture.sound import samples_of
from sorvan.speech.charts import Wanted, chart
from sorvan.speech.english import RATE


def mono_of(sound: bytes) -> NDArray[np.float32]:
    """A sound as it is kept, as aligners take it: one channel at 16,000 samples a second."""
    return resampled(samples_of(sound).mean(axis=1, keepdims=True), SOUND_RATE, RATE)[:, 0]


def run(source: BinaryIO, tell: Callable[[dict[str, Any]], None]) -> None:
    """Read an order, and tell how far it is and what came of it."""
    head = json.loads(source.readline())
    last = -1.0

    def progress(part: float, what: str) -> None:
        nonlocal last
        if part - last >= 0.01 or part < last:
            last = part
            tell({"part": round(part, 3), "what": what})

    try:
        mono = mono_of(source.read())
        found = chart(Wanted(mono, head["text"], head["language"], head["spoken"]), progress)
        tell({"chart": found.model_dump(mode="json")})
    except Refusal as refusal:
        tell({"refused": {"what": refusal.what, "where": refusal.where, "remedy": refusal.remedy}})


def main() -> None:
    """The process."""

    def tell(line: dict[str, Any]) -> None:
        sys.stdout.write(json.dumps(line) + "\n")
        sys.stdout.flush()

    run(sys.stdin.buffer, tell)


if __name__ == "__main__":
    main()
