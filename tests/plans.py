"""Plans of still pictures, put together by hand."""

from __future__ import annotations

from typing import Any

import numpy as np

from sorvan.core.plan.plan import Cel, Item, Plan, Points

AS_DRAWN = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def still(
    size: tuple[int, int],
    items: tuple[Item, ...],
    points: Points | None = None,
    matrix: tuple[float, ...] = AS_DRAWN,
    paper: str = "#ffffffff",
    **given: Any,
) -> Plan:
    """A plan of one frame with one cel, all items under the same matrix and showing their first drawing."""
    matrices = np.tile(np.array(matrix, dtype=np.float64)[None, :, None], (len(items), 1, 1))
    cel = Cel(items, matrices, np.zeros((len(items), 1), dtype=np.int16), points or {}, **given)
    return Plan(*size, paper, 1, (cel,))
