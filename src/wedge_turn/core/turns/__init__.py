"""The turns, one module each, and their union `AnyTurn`. A turn here needs no other place to be known."""

from typing import Annotated, Final

from pydantic import Field, TypeAdapter

from wedge_turn.core.turns.base import ClipInfo, Finding, Outcome, Output, Turn
from wedge_turn.core.turns.merge import Merge
from wedge_turn.core.turns.split import Split

AnyTurn = Annotated[Split | Merge, Field(discriminator="kind")]
TURNS: Final[dict[str, type[Turn]]] = {"split": Split, "merge": Merge}
TURN_ADAPTER: Final[TypeAdapter[Split | Merge]] = TypeAdapter(AnyTurn)

__all__ = [
    "TURNS",
    "TURN_ADAPTER",
    "AnyTurn",
    "ClipInfo",
    "Finding",
    "Merge",
    "Outcome",
    "Output",
    "Split",
    "Turn",
]
