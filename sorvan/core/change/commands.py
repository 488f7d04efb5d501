"""The closed list of commands. Whatever changes a production is one of these."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, TypeAdapter

from sorvan.core.change.blinks import BlinkCommand
from sorvan.core.change.book import BookCommand
from sorvan.core.change.casting import CastCommand
from sorvan.core.change.charting import ChartCommand
from sorvan.core.change.converting import ConvertRate
from sorvan.core.change.dials import DialCommand
from sorvan.core.change.drawings import DrawingCommand
from sorvan.core.change.gathering import GatherCommand
from sorvan.core.change.in_views import InViewCommand
from sorvan.core.change.keys import KeyCommand
from sorvan.core.change.limits import LimitCommand
from sorvan.core.change.looks import LookCommand
from sorvan.core.change.morphs import MorphCommands
from sorvan.core.change.mouths import MouthCommand
from sorvan.core.change.order import OrderCommand
from sorvan.core.change.parting import PartingCommand
from sorvan.core.change.pieces import PieceCommand
from sorvan.core.change.plants import PlantCommand
from sorvan.core.change.poses import CardCommand
from sorvan.core.change.posing import PosingCommands
from sorvan.core.change.production import ProductionCommand
from sorvan.core.change.proposing import TakeRig
from sorvan.core.change.reaching import ReachCommand
from sorvan.core.change.recipes import RecipeCommand
from sorvan.core.change.retiming import RetimingCommand
from sorvan.core.change.retouching import RetouchCommand
from sorvan.core.change.reusing import ReuseCommand
from sorvan.core.change.rig import RigCommand
from sorvan.core.change.shapes import ShapeCommand
from sorvan.core.change.shot_keys import ShotKeyCommand
from sorvan.core.change.shots import ShotsCommand
from sorvan.core.change.spans import SpanCommand
from sorvan.core.change.speaking import SpeakingCommand
from sorvan.core.change.travelling import TravelCommand
from sorvan.core.change.views import ViewCommand
from sorvan.core.change.voices import VoiceCommand
from sorvan.core.change.ways import WayCommand
from sorvan.core.model.base import LATER

AnyCommand = Annotated[
    ProductionCommand
    | PieceCommand
    | DrawingCommand
    | ShapeCommand
    | RetouchCommand
    | LookCommand
    | RigCommand
    | TakeRig
    | PartingCommand
    | ReuseCommand
    | LimitCommand
    | ReachCommand
    | DialCommand
    | BlinkCommand
    | ViewCommand
    | GatherCommand
    | InViewCommand
    | KeyCommand
    | CardCommand
    | PosingCommands
    | RetimingCommand
    | RecipeCommand
    | PlantCommand
    | OrderCommand
    | WayCommand
    | BookCommand
    | VoiceCommand
    | ChartCommand
    | MouthCommand
    | SpeakingCommand
    | MorphCommands
    | ShotsCommand
    | CastCommand
    | ShotKeyCommand
    | SpanCommand
    | TravelCommand
    | ConvertRate,
    Field(discriminator="do"),
]
COMMAND: TypeAdapter[AnyCommand] = TypeAdapter(AnyCommand, config=LATER)
