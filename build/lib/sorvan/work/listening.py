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

from sorvan.core.errors import Refusal
from sorvan.interchange.sounds import mono_of
from sorvan.speech.charts import Wanted, chart


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
        found = chart(Wanted(mono, head["text"], head["language"], head["spoken"], head["spread"]), progress)
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
