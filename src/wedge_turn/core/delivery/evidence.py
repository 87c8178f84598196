"""What is recorded of a proof: what was compared, what was found, and where a file was read back from."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

ProofKind = Literal["comes-back", "as-computed"]
ReadBack = Literal["disk", "cache"]


class Proof(BaseModel):
    """What was compared, and what was found. `residual_dbfs` is None for silence: every sample is the same. `depth` is
    what the samples are stored as, in words; empty in what earlier versions stored.
    """

    model_config = ConfigDict(frozen=True)

    kind: ProofKind
    exact: bool
    bits: int
    depth: str = ""
    residual_dbfs: float | None
    samples: int
    different: int
    statement: str
