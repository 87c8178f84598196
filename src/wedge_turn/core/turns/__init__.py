"""The turns, one module each, and their union `AnyTurn`. A turn here needs no other place to be known."""

import sys
from typing import Annotated, Final, get_args

from pydantic import Field, TypeAdapter

from wedge_turn.core.turns.accepts import accepts_channels, describe_accepted
from wedge_turn.core.turns.align import Align
from wedge_turn.core.turns.base import Computation, Turn, format_db
from wedge_turn.core.turns.centre import Centre, CentreMethod
from wedge_turn.core.turns.dc import DC
from wedge_turn.core.turns.decode import Decode
from wedge_turn.core.turns.describing import describe_settings, describe_turn, write_example, write_turn
from wedge_turn.core.turns.encode import Encode
from wedge_turn.core.turns.fold import LAWS, Fold, Law
from wedge_turn.core.turns.level import Level
from wedge_turn.core.turns.matrix import Matrix
from wedge_turn.core.turns.merge import Merge
from wedge_turn.core.turns.outcome import (
    ClipInfo,
    Finding,
    MatrixOutcome,
    Outcome,
    Output,
    WindowOutcome,
    matrix_outcome,
)
from wedge_turn.core.turns.places import End, Place, locate, replace_time_code
from wedge_turn.core.turns.polarity import Polarity
from wedge_turn.core.turns.resample import Resample
from wedge_turn.core.turns.shifting import format_samples, int_if_integral
from wedge_turn.core.turns.split import Split
from wedge_turn.core.turns.sum import Sum
from wedge_turn.core.turns.swap import Swap
from wedge_turn.core.turns.trim import Trim
from wedge_turn.core.turns.width import Width

AnyTurn = Annotated[
    Split
    | Merge
    | Swap
    | Polarity
    | Encode
    | Decode
    | Width
    | Fold
    | Matrix
    | Sum
    | Level
    | DC
    | Align
    | Trim
    | Resample
    | Centre,
    Field(discriminator="kind"),
]
TURN_ADAPTER: Final[TypeAdapter[AnyTurn]] = TypeAdapter(AnyTurn)
TURNS: Final[dict[str, type[Turn]]] = {
    turn.model_fields["kind"].default: turn for turn in get_args(get_args(AnyTurn)[0])
}
for _turn in TURNS.values():
    _turn.__doc__ = sys.modules[_turn.__module__].__doc__  # for whoever asks for help in Python

__all__ = [
    "DC",
    "LAWS",
    "TURNS",
    "TURN_ADAPTER",
    "Align",
    "AnyTurn",
    "Centre",
    "CentreMethod",
    "ClipInfo",
    "Computation",
    "Decode",
    "Encode",
    "End",
    "Finding",
    "Fold",
    "Law",
    "Level",
    "Matrix",
    "MatrixOutcome",
    "Merge",
    "Outcome",
    "Output",
    "Place",
    "Polarity",
    "Resample",
    "Split",
    "Sum",
    "Swap",
    "Trim",
    "Turn",
    "Width",
    "WindowOutcome",
    "accepts_channels",
    "describe_accepted",
    "describe_settings",
    "describe_turn",
    "format_db",
    "format_samples",
    "int_if_integral",
    "locate",
    "matrix_outcome",
    "replace_time_code",
    "write_example",
    "write_turn",
]
