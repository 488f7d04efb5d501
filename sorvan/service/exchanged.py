"""What requests and answers carry."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Exchanged(BaseModel):
    """The base of what a request or an answer carries. It is made ready to be read when one first comes: together they
    are hundreds, and the service answers sooner without."""

    model_config = ConfigDict(defer_build=True)
