"""What is recorded of a proof: what was compared, what was found, and where a file was read back from."""

from collections.abc import Sequence
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


def combine_proofs(proofs: Sequence[Proof]) -> Proof:
    """Several proofs as one: as exact as the least of them."""
    if len(proofs) == 1:
        return proofs[0]
    residues = [proof.residual_dbfs for proof in proofs if proof.residual_dbfs is not None]
    return Proof(
        kind="comes-back" if all(proof.kind == "comes-back" for proof in proofs) else "as-computed",
        exact=all(proof.exact for proof in proofs),
        bits=min(proof.bits for proof in proofs),
        residual_dbfs=max(residues, default=None),
        samples=sum(proof.samples for proof in proofs),
        different=sum(proof.different for proof in proofs),
        statement=" ".join(proof.statement for proof in proofs),
    )
