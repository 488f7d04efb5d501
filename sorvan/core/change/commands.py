"""The closed list of commands. Whatever changes a production is one of these."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, TypeAdapter

from sorvan.core.change.keys import MoveKeys, RemoveKeys, SetEase, SetKeys, SetOutside
from sorvan.core.change.pieces import (
    AddPieces,
    GroupPieces,
    MirrorPieces,
    OrderPieces,
    PlacePiece,
    PullPiece,
    RemovePieces,
    SetPieces,
    SetPivot,
    ShiftPieces,
)
from sorvan.core.change.production import (
    AddMotion,
    AddPuppet,
    RemoveMotion,
    RemovePuppet,
    SetMotion,
    SetProduction,
    SetPuppet,
)
from sorvan.core.change.rig import LinkJoint

AnyCommand = Annotated[
    SetProduction
    | AddPuppet
    | SetPuppet
    | RemovePuppet
    | AddMotion
    | SetMotion
    | RemoveMotion
    | AddPieces
    | SetPieces
    | ShiftPieces
    | PlacePiece
    | PullPiece
    | SetPivot
    | OrderPieces
    | GroupPieces
    | MirrorPieces
    | RemovePieces
    | LinkJoint
    | SetKeys
    | RemoveKeys
    | MoveKeys
    | SetEase
    | SetOutside,
    Field(discriminator="do"),
]
COMMAND: TypeAdapter[AnyCommand] = TypeAdapter(AnyCommand)
