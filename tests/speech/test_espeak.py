"""The synthesiser's voice: the same text is always said in the same way."""

from __future__ import annotations

import numpy as np

from sorvan.speech.espeak import say


def test_what_was_said_before_is_not_heard_in_what_is_said_next() -> None:
    text = "The last ferry leaves the quay at nine."
    first = say(text, "en-us")
    for before, voice in (("Mind the gull.", "en-us"), ("Die letzte Fähre fährt.", "de"), ("Who blew?", "en-us+f4")):
        say(before, voice, 230, 70)
        again = say(text, "en-us")
        assert np.array_equal(first.samples, again.samples)
        assert (first.sounds, first.words) == (again.sounds, again.words)
