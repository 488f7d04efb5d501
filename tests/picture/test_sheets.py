"""Sheets on paper that are given up half way."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pytest

from sorvan.picture.sheets import Sight, contact_pdf


def sights(count: int, breaks_off: bool) -> Iterator[Sight]:
    for n in range(count):
        yield Sight(np.full((90, 160, 4), 40 * n % 256, np.uint8), f"frame {n + 1}")
    if breaks_off:
        raise ArithmeticError("no more pictures")


def test_a_contact_sheet_that_breaks_off_is_let_go_and_the_next_is_whole() -> None:
    for n in range(200):
        with pytest.raises(ArithmeticError):
            contact_pdf("Quay", sights(1 + n % 30, breaks_off=True))
    assert contact_pdf("Quay", sights(4, breaks_off=False))[:5] == b"%PDF-"
