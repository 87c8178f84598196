"""What the measures of two files say that would be merged."""

from collections.abc import Sequence

from wedge_turn.core.findings.channels import has_silent_channel
from wedge_turn.core.findings.finding import FileFinding, balance_remedy
from wedge_turn.core.findings.stereo import (
    LEANS_DB,
    SAME_SOUND_COHERENCE,
    SAME_SOUND_LEANS_DB,
    find_delay,
    find_inversion,
)
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures
from wedge_turn.core.turns import format_samples


def find_in_pair(members: Sequence[str], form: Form, measures: Measures) -> list[FileFinding]:
    """What two files that belong together say before they are merged. `measures` are those of the merged clip.

    `members` are their names, left first; what one file alone already says is not said again.
    """
    sides = measures.sides
    if sides is None or sides.correlation is None or has_silent_channel(measures):
        return []
    left, right = members
    findings: list[FileFinding] = []
    for finding in find_delay(sides, form):
        later = right if sides.delay.samples > 0 else left
        by, inverted = abs(sides.delay.samples), " and inverted" if sides.delay.inverted else ""
        message = (
            f"{later} is {format_samples(by)} samples ({1000 * by / form.rate:.2f} ms) late{inverted}. Merging keeps"
            " that; align it afterwards."
        )
        findings.append(finding.model_copy(update={"message": message}))
    leans = sides.balance_db or 0.0
    # A delay of more than a moment hides what both share from a plain coherence: the correlation's peak shows it.
    same = max(sides.coherence, sides.delay.confidence + 0.3 if findings else 0.0) >= SAME_SOUND_COHERENCE
    if abs(leans) >= (SAME_SOUND_LEANS_DB if same else LEANS_DB):
        quieter = right if leans > 0 else left
        findings.append(
            FileFinding(
                code="level-differs",
                label=f"{abs(leans):.1f} dB lower",
                message=f"{quieter} is {abs(leans):.1f} dB lower. Merging keeps both levels.",
                measured={"balance_db": leans},
                remedy=balance_remedy(leans),
            )
        )
    late_and_inverted = bool(findings) and sides.delay.inverted
    if not late_and_inverted and (inversion := find_inversion(f"{left} and {right}", sides, form)):
        findings.append(inversion)
    if form.stored.is_float and (measures.whole.peak_dbfs or 0.0) > 0:
        over = measures.whole.peak_dbfs or 0.0
        findings.append(
            FileFinding(
                code="would-clip",
                label="would clip",
                message=f"Samples reach {round(over, 2):.4g} dB above full scale: they clip at 24 bit, not in float.",
                measured={"peak_dbfs": over},
            )
        )
    return findings
