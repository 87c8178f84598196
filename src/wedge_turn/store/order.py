"""What was asked of a delivery, as it is stored. Version 1 had no version and said nothing of dither at first; 2 knew
no range, 3 no files taken along, 4 WAV alone and one folder.
"""

from typing import Any, Literal

from pydantic import BaseModel

from wedge_turn.core.delivery import ContainerName, DepthChoice
from wedge_turn.core.naming import Naming
from wedge_turn.core.turns import Trim
from wedge_turn.core.worksheet import Ref


class DeliverySettings(BaseModel):
    """How files are delivered, whichever they are: depth, format and names; whether every file that no line uses goes
    along, and whether each goes into the folder that its source came from.
    """

    depth: DepthChoice = "same"
    dither: bool = True
    rest: bool = False
    container: ContainerName = "wav"
    naming: Naming = Naming()
    folders: bool = False


class StoredOrder(DeliverySettings):
    """References to clips of the delivery's revision, how they are written, the range they are trimmed to, and the
    folder on the server they go to, None where they wait to be fetched. `copies` are sources that go along as they are,
    where not all do that no line uses.
    """

    version: Literal[5] = 5
    refs: tuple[Ref, ...]
    copies: tuple[Ref, ...] = ()
    range: Trim | None = None
    to: str | None = None

    @property
    def settings(self) -> DeliverySettings:
        return DeliverySettings.model_validate(self.model_dump(include=set(DeliverySettings.model_fields)))


def order_of(stored: dict[str, Any]) -> StoredOrder:
    """An order from JSON of any version. Raises ValidationError for what is none."""
    return StoredOrder.model_validate({**stored, "version": 5} if stored.get("version", 1) < 5 else stored)
