"""What requests and answers carry."""

from __future__ import annotations

import warnings
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field
from pydantic.warnings import UnsupportedFieldAttributeWarning

# FastAPI names what it reads by an alias, and stills this where it makes that ready; here it is made ready later.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)


class Exchanged(BaseModel):
    """The base of what a request or an answer carries. It is made ready to be read when one first comes: together they
    are hundreds, and the service answers sooner without."""

    model_config = ConfigDict(defer_build=True)


class Errand(Exchanged):
    """The base of what asks for a change that is worked out first: the id that the change gets (so that sending it twice
    does it once), the window it comes from, and the number of the newest change that window had seen."""

    change: Annotated[str, Field(min_length=8, max_length=64)]
    window: Annotated[str, Field(min_length=1, max_length=64)]
    base: Annotated[int, Field(ge=0)]
