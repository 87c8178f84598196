"""All that is worth knowing about a file by itself.

An ordinary stereo file has no finding: a false alarm is worse than a missed hint.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import Final

from wedge_turn.core.findings.channels import (
    check_bits,
    check_damage,
    check_hum,
    check_offset,
    check_peaks,
    check_silence,
)
from wedge_turn.core.findings.finding import FileFinding
from wedge_turn.core.findings.stereo import check_stereo
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures

_CHECKS: Final[Sequence[Callable[[str, Form, Measures], Iterator[FileFinding]]]] = (
    check_damage,
    check_silence,
    check_hum,
    check_stereo,
    check_peaks,
    check_offset,
    check_bits,
)


def find_in_file(name: str, form: Form, measures: Measures) -> list[FileFinding]:
    """What there is to know about a file, the gravest first."""
    return [finding for check in _CHECKS for finding in check(name, form, measures)]
