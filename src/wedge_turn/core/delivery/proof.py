"""What is recorded of a proof: what was compared, what was found, and where a file was read back from."""

from collections.abc import Sequence
from typing import Annotated, Final, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict

# What the kinds were called before: `round-trip` and `recomputed` say it better.
_FORMER_KINDS: Final = {"comes-back": "round-trip", "as-computed": "recomputed"}
ProofKind = Annotated[
    Literal["round-trip", "recomputed"],
    BeforeValidator(lambda kind: _FORMER_KINDS.get(kind, kind) if isinstance(kind, str) else kind),
]
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


def combine_proofs(proofs: Sequence[Proof]) -> Proof:
    """Several proofs as one: as exact as the least of them."""
    if len(proofs) == 1:
        return proofs[0]
    residues = [proof.residual_dbfs for proof in proofs if proof.residual_dbfs is not None]
    return Proof(
        kind="round-trip" if all(proof.kind == "round-trip" for proof in proofs) else "recomputed",
        exact=all(proof.exact for proof in proofs),
        bits=min(proof.bits for proof in proofs),
        residual_dbfs=max(residues, default=None),
        samples=sum(proof.samples for proof in proofs),
        different=sum(proof.different for proof in proofs),
        statement=" ".join(proof.statement for proof in proofs),
    )
