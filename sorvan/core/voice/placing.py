"""Sounds where time is put in or taken out: what is heard from there on is heard so much later, or earlier."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

from sorvan.core.errors import Refusal
from sorvan.core.model.voice import Placed

Sound = TypeVar("Sound", bound=Placed)
NEAR = 1e-9
"""Seconds by which a sound may be off the beginning of a frame and still begin there."""


def put_off(sounds: Mapping[str, Sound], at: float, by: float, lasts: Mapping[str, float]) -> dict[str, Sound]:
    """Sounds where `by` seconds are put in at `at`, or, if less than none, taken out from there on: those that begin there
    or later come so much later; what is heard in the seconds taken out alone goes with them. `lasts` says how long each
    voice is heard (seconds).

    What lies before the beginning of all is heard no more; elsewhere a part of a sound can't be taken out: raises
    `Refusal` for one that begins in what is taken out and is heard longer.
    """
    found: dict[str, Sound] = {}
    for id, sound in sounds.items():
        if sound.at < at - NEAR:
            found[id] = sound
        elif sound.at >= at - min(by, 0.0) - NEAR or (at <= NEAR and sound.at + lasts.get(sound.voice, 0.0) > -by):
            found[id] = sound.changed(at=sound.at + by)
        elif sound.at + lasts.get(sound.voice, 0.0) > at - by + NEAR:
            raise Refusal(
                f"A sound begins {sound.at - at:.2f} s into what would be taken out, and goes on after it.",
                where=id,
                remedy="Take out up to where it begins, or all of it, or move it first.",
            )
    return found
