"""What is said of a file that takes the place of another."""

import numpy as np

from support.signals import Memory, stereo
from wedge_turn.core.findings import describe_differences
from wedge_turn.core.form import Form
from wedge_turn.core.measure import measure_signal

OLD = Form(channels=2, frames=48_000, rate=48_000, encoding="s16")


def test_forms_are_compared_in_words() -> None:
    def of(**changes: object) -> list[str]:
        return describe_differences(OLD, OLD.model_copy(update=changes), None, None)

    assert of() == []
    assert of(frames=48_001) == ["1 sample longer"]
    assert of(frames=42_000) == ["0.12 s shorter"]
    assert of(channels=1, encoding="s24") == ["mono instead of stereo", "24-bit instead of 16-bit"]
    assert of(rate=44_100, frames=1) == ["44.1 kHz instead of 48 kHz"]
    dated = OLD.model_copy(update={"start_time": 4_800})
    assert describe_differences(dated, dated.model_copy(update={"start_time": 96_000}), None, None) == [
        "starts 1.90 s later"
    ]


def test_a_level_that_differs_is_measured() -> None:
    rng = np.random.default_rng(1)
    left, right = rng.standard_normal((2, 48_000)) * 0.05
    before, now = (measure_signal(Memory(stereo(gain * left, gain * right))) for gain in (1.0, 2.0))
    assert describe_differences(OLD, OLD, before, now) == ["6.0 dB louder"]
    assert describe_differences(OLD, OLD, now, before) == ["6.0 dB lower"]
    assert describe_differences(OLD, OLD, before, before) == []
