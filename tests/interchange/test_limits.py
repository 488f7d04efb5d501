"""What the README says of limits is what holds."""

from __future__ import annotations

import re

from sorvan.interchange import limits
from sorvan.store.sweep import GRACE
from tests.conftest import ROOT


def test_the_readme_tells_the_limits_that_hold() -> None:
    readme = (ROOT / "README.md").read_text()
    told = readme[readme.index("## What comes in") : readme.index("## More")]
    numbers = [int(n.replace(",", "")) for n in re.findall(r"\d[\d,]*", told)]
    assert numbers == [
        limits.MEMORY >> 20,
        limits.LONGEST,
        limits.STANDSTILL,
        limits.BYTES >> 20,
        limits.PIXELS // 1_000_000,
        limits.SIDE,
        limits.ALL_PIXELS // 1_000_000,
        limits.ELEMENTS,
        limits.DEPTH,
        limits.SHAPES,
        limits.CLIPS,
    ]
    assert GRACE == 24 * 3600 and "after a day" in told
