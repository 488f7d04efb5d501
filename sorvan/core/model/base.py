"""What every document model shares."""

from __future__ import annotations

import hashlib
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints


class Value(BaseModel):
    """An immutable value that accepts only what it declares and only finite numbers."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Name = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True)]
AssetId = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9a-f]{8}$")]
Number = Annotated[float, Field(ge=-1e6, le=1e6)]
Pair = tuple[Number, Number]


def asset_id(data: bytes) -> str:
    """The name of an asset: the SHA-256 of its bytes (FIPS 180-4), in hex."""
    return hashlib.sha256(data).hexdigest()
