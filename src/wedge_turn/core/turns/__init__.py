"""The turns, one module each, and their union `AnyTurn`. A turn here needs no other place to be known."""

from typing import Annotated, Final

from pydantic import Field, TypeAdapter

from wedge_turn.core.turns.align import Align
from wedge_turn.core.turns.base import ClipInfo, Finding, Outcome, Output, Turn
from wedge_turn.core.turns.centre import Centre
from wedge_turn.core.turns.decode import Decode
from wedge_turn.core.turns.encode import Encode
from wedge_turn.core.turns.fold import Fold
from wedge_turn.core.turns.level import Level
from wedge_turn.core.turns.matrix import Matrix
from wedge_turn.core.turns.merge import Merge
from wedge_turn.core.turns.polarity import Polarity
from wedge_turn.core.turns.split import Split
from wedge_turn.core.turns.sum import Sum
from wedge_turn.core.turns.swap import Swap
from wedge_turn.core.turns.width import Width

AnyTurn = Annotated[
    Split | Merge | Swap | Polarity | Encode | Decode | Width | Fold | Matrix | Sum | Level | Align | Centre,
    Field(discriminator="kind"),
]
TURN_ADAPTER: Final[TypeAdapter[AnyTurn]] = TypeAdapter(AnyTurn)
TURNS: Final[dict[str, type[Turn]]] = {
    "split": Split,
    "merge": Merge,
    "swap": Swap,
    "polarity": Polarity,
    "encode": Encode,
    "decode": Decode,
    "width": Width,
    "fold": Fold,
    "matrix": Matrix,
    "sum": Sum,
    "level": Level,
    "align": Align,
    "centre": Centre,
}

__all__ = [
    "TURNS",
    "TURN_ADAPTER",
    "Align",
    "AnyTurn",
    "Centre",
    "ClipInfo",
    "Decode",
    "Encode",
    "Finding",
    "Fold",
    "Level",
    "Matrix",
    "Merge",
    "Outcome",
    "Output",
    "Polarity",
    "Split",
    "Sum",
    "Swap",
    "Turn",
    "Width",
]
