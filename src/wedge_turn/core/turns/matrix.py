"""Matrix: each channel that comes out is so much of left plus so much of right, each with its sign.

    left'  = ll·left + lr·right     right' = rl·left + rr·right

Every named turn of two sides is a special case. It can be undone where ll·rr − lr·rl is not zero.
"""

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from wedge_turn.core.turns.accepts import Accepts
from wedge_turn.core.turns.base import Example, Turn
from wedge_turn.core.turns.outcome import ClipInfo, MatrixOutcome, matrix_outcome

Amount = Annotated[float, Field(ge=-4, le=4, allow_inf_nan=False)]


class Matrix(Turn):
    accepts: ClassVar = (Accepts(channels=(2, 2)),)
    example: ClassVar = Example({"ll": 0.3, "rl": -0.7, "lr": 0.2, "rr": 0.9}, (2,))

    kind: Literal["matrix"] = "matrix"
    ll: Amount = Field(default=1.0, description="How much of left goes left.")
    lr: Amount = Field(default=0.0, description="How much of right goes left.")
    rl: Amount = Field(default=0.0, description="How much of left goes right.")
    rr: Amount = Field(default=1.0, description="How much of right goes right.")

    def _outcome(self, inputs: Sequence[ClipInfo]) -> MatrixOutcome:
        return matrix_outcome(inputs[0], [[self.ll, self.lr], [self.rl, self.rr]])

    def sentence(self, inputs: Sequence[ClipInfo]) -> str:
        name = self.named()
        named = f": {name}" if name else ""
        undone = "can" if self.ll * self.rr != self.lr * self.rl else "can't"
        left, right = _written(self.ll, self.lr), _written(self.rl, self.rr)
        return (
            f"Left of {inputs[0].name} becomes {left}, right becomes {right}{named}. The original {undone} be recovered"
            " from it."
        )

    def named(self) -> str | None:
        """The turn that does the same, where one does."""
        rows = (self.ll, self.lr), (self.rl, self.rr)
        known_matrices = {
            ((1, 0), (0, 1)): "no change", ((0, 1), (1, 0)): "a swap", ((-1, 0), (0, 1)): "left inverted",
            ((1, 0), (0, -1)): "right inverted", ((-1, 0), (0, -1)): "both channels inverted",
            ((0.5, 0.5), (0.5, -0.5)): "an encode to mid and side", ((1, 1), (1, -1)): "a decode of mid and side",
            ((1, 0), (1, 0)): "left only, on both channels", ((0, 1), (0, 1)): "right only, on both channels",
            ((0.5, 0.5), (0.5, 0.5)): "mono on both channels",
        }  # fmt: skip
        if rows in known_matrices:
            return known_matrices[rows]
        if self.ll == self.rr and self.lr == self.rl and self.ll + self.lr == 1:
            return f"a width of {self.ll - self.lr:g}"
        return None


def _written(of_left: float, of_right: float) -> str:
    parts = [f"{amount * 100:g} % {side}" for amount, side in ((of_left, "left"), (of_right, "right")) if amount]
    return " + ".join(parts).replace("+ -", "− ").replace("-", "−") or "silence"
