"""The closed list of commands. Whatever changes a production is one of these."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, TypeAdapter

from sorvan.core.change.drawings import (
    AddDrawings,
    GatherDrawings,
    OrderDrawings,
    RegisterDrawings,
    RemoveDrawings,
    RenewArt,
    SetDrawing,
    ShareDrawings,
    ShowDrawing,
)
from sorvan.core.change.keys import MoveKeys, RemoveKeys, SetEase, SetKeys, SetOutside
from sorvan.core.change.looks import LinkSwatch, RemoveSwatch, SetGroup, SetLook, SetMasks, SetReference, SetSwatch
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
from sorvan.core.change.reaching import (
    AddReach,
    BendPiece,
    PaintWeights,
    RemoveChain,
    RemoveDial,
    SetAttach,
    SetChain,
    SetDial,
)
from sorvan.core.change.rig import (
    AddJoints,
    InsertJoint,
    LinkJoint,
    MatchTwin,
    MoveJoints,
    RelinkJoints,
    RemoveJoints,
    RidePieces,
    SetJoints,
)
from sorvan.core.change.shapes import DrawShape, EditShape

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
    | AddDrawings
    | GatherDrawings
    | SetDrawing
    | OrderDrawings
    | ShowDrawing
    | RemoveDrawings
    | RegisterDrawings
    | ShareDrawings
    | RenewArt
    | DrawShape
    | EditShape
    | SetMasks
    | SetLook
    | LinkSwatch
    | SetSwatch
    | RemoveSwatch
    | SetGroup
    | SetReference
    | LinkJoint
    | RelinkJoints
    | AddJoints
    | InsertJoint
    | MoveJoints
    | RemoveJoints
    | SetJoints
    | RidePieces
    | MatchTwin
    | AddReach
    | SetChain
    | RemoveChain
    | SetAttach
    | BendPiece
    | PaintWeights
    | SetDial
    | RemoveDial
    | SetKeys
    | RemoveKeys
    | MoveKeys
    | SetEase
    | SetOutside,
    Field(discriminator="do"),
]
COMMAND: TypeAdapter[AnyCommand] = TypeAdapter(AnyCommand)
