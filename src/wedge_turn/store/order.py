"""What was asked of a delivery, as it is stored. Version 1 had no version and said nothing of dither at first; 2 knew
no range, 3 no files taken along, 4 WAV alone.
"""

from typing import Any, Literal

from pydantic import BaseModel

from wedge_turn.core.delivery.containers import ContainerName
from wedge_turn.core.delivery.order import DepthChoice
from wedge_turn.core.delivery.patterns import Naming
from wedge_turn.core.plan import Ref
from wedge_turn.core.turns import Trim


class StoredOrder(BaseModel):
    """References to clips of the delivery's revision, how and in which format they are written, the range they are
    trimmed to, and whether every file that no line uses goes along.
    """

    version: Literal[5] = 5
    refs: tuple[Ref, ...]
    depth: DepthChoice = "same"
    dither: bool = True
    range: Trim | None = None
    rest: bool = False
    container: ContainerName = "wav"
    naming: Naming = Naming()


def order_of(stored: dict[str, Any]) -> StoredOrder:
    """An order from JSON of any version. Raises ValidationError for what is none."""
    return StoredOrder.model_validate({**stored, "version": 5} if stored.get("version", 1) < 5 else stored)
