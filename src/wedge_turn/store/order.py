"""What was asked of a delivery, as it is stored. Version 1 had no version and said nothing of dither at first."""

from typing import Any, Literal

from pydantic import BaseModel

from wedge_turn.core.delivery.order import DepthChoice
from wedge_turn.core.plan import Ref


class StoredOrder(BaseModel):
    """References to clips of the delivery's revision, and how they are written."""

    version: Literal[2] = 2
    refs: tuple[Ref, ...]
    depth: DepthChoice = "same"
    dither: bool = True


def order_of(stored: dict[str, Any]) -> StoredOrder:
    """An order from JSON of any version. Raises ValidationError for what is none."""
    return StoredOrder.model_validate({**stored, "version": 2} if "version" not in stored else stored)
