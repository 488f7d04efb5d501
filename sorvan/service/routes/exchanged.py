"""What requests and answers carry."""

from __future__ import annotations

import warnings

from pydantic import BaseModel, ConfigDict
from pydantic.warnings import UnsupportedFieldAttributeWarning

# FastAPI names what it reads by an alias, and stills this where it makes that ready; here it is made ready later.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)


class Exchanged(BaseModel):
    """The base of what a request or an answer carries. It is made ready to be read when one first comes: together they
    are hundreds, and the service answers sooner without."""

    model_config = ConfigDict(defer_build=True)
