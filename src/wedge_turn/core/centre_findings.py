"""What to expect of taking a centre out, said before it is done. Every threshold is common practice, no source."""

from typing import Final

from wedge_turn.core.findings import OPPOSITE, FileFinding, signed
from wedge_turn.core.measure.map import Expectation
from wedge_turn.core.measure.measures import Measures

# Shares of the energy in a voice's band (180 Hz to 4 kHz).
LITTLE_SHARED: Final = 0.08
ALL_SHARED_DB: Final = -40.0
MUCH_BETWEEN: Final = 0.35
NARROW_DB: Final = -14.0


def centre_findings(name: str, measures: Measures, expectation: Expectation) -> list[FileFinding]:
    """What to expect of taking the centre of this clip out, before it is done."""
    sides = measures.sides
    if sides is None or sides.correlation is None:
        return []
    findings: list[FileFinding] = []

    def say(code: str, label: str, message: str, measured: dict[str, float | int | str]) -> None:
        findings.append(FileFinding(code=code, label=label, message=message, measured=measured))

    if sides.identical or (sides.difference_db is not None and sides.difference_db < ALL_SHARED_DB):
        message = f"Left and right of {name} are identical: everything is centre, so there will be no sides."
        say("all-centre", "all centre", message, {"difference_db": sides.difference_db or "-inf"})
        return findings
    if sides.correlation < OPPOSITE:
        message = (
            f"Left and right of {name} are out of polarity (correlation {signed(sides.correlation)}): the centre is in "
            "their difference. Invert one channel first."
        )
        say("opposite-polarity", "out of polarity", message, {"correlation": sides.correlation})
    if expectation.shared < LITTLE_SHARED:
        share = 100 * expectation.shared
        message = f"There is hardly any centre in the vocal range of {name} ({share:.0f} % of the energy)."
        say("no-centre", "no centre", message, {"shared": expectation.shared})
    elif expectation.between > MUCH_BETWEEN:
        share = 100 * expectation.between
        message = (
            f"{share:.0f} % of the energy in the vocal range is spread between the channels (reverb, doubles) and will "
            "remain."
        )
        say("wide-reverb", "wide reverb", message, {"between": expectation.between})
    if sides.side_to_mid_db is not None and sides.side_to_mid_db < NARROW_DB:
        message = (
            f"{name} is narrow (side {-sides.side_to_mid_db:.0f} dB below mid), so more than the voice counts as "
            "centre. A narrower wedge or a higher selectivity takes less with it."
        )
        say("narrow-stereo", "narrow", message, {"side_to_mid_db": sides.side_to_mid_db})
    return findings
