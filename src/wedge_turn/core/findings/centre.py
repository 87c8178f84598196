"""What to expect of taking a centre out, said before it is done. Every threshold is common practice, no source."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from wedge_turn.core.audio import Block
from wedge_turn.core.centre import Forecast, forecast_voice
from wedge_turn.core.clips import Signal
from wedge_turn.core.findings.finding import FileFinding, Remedy, balance_remedy, format_signed, make_remedy
from wedge_turn.core.findings.stereo import OPPOSITE, SAME_SOUND_COHERENCE, find_delay
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Expectation, Measures, StereoMeasures, expect_centre_of, measure_signal
from wedge_turn.core.turns import CentreMethod
from wedge_turn.core.windows import space_evenly

# Shares of the energy in a voice's band (180 Hz to 4 kHz).
MIN_SHARED: Final = 0.08
ALL_SHARED_DB: Final = -40.0
MAX_BETWEEN: Final = 0.35
NARROW_DB: Final = -14.0
# How much louder one channel may be before a centre that both share counts as off the middle.
TILTED_DB: Final = 1.5
MEASURED_SECONDS: Final = 60
# What is measured of a long clip where nobody has measured all of it.
EXCERPTS: Final = 8
EXCERPT_SECONDS: Final = 10
# What is analysed for a forecast, and the figures from which on a voice should come out well or fairly well.
FORECAST_EXCERPTS: Final = 6
FORECAST_SECONDS: Final = 5
WELL_DB: Final = 8.0
FAIRLY_DB: Final = 5.0
# Correlations of all but the voice.
NEARLY_MONO: Final = 0.95
NARROW: Final = 0.7


@dataclass(frozen=True)
class Excerpts:
    """Stretches of one length of a signal, one after the other: silence outside, like any signal."""

    signal: Signal
    starts: list[int]
    frames: int  # of each stretch

    @property
    def form(self) -> Form:
        return self.signal.form.model_copy(update={"frames": len(self.starts) * self.frames})

    def read(self, start: int, frames: int) -> Block:
        block = np.zeros((frames, self.signal.form.channels))
        for n, source in enumerate(self.starts):
            first, end = max(start, n * self.frames), min(start + frames, (n + 1) * self.frames)
            if first < end:
                block[first - start : end - start] = self.signal.read(source + first - n * self.frames, end - first)
        return block


def measure_excerpts(signal: Signal) -> Measures:
    """Measures of a clip by excerpts of it, spread evenly; by all of it where it is short, or where the excerpts are
    all centre, which has to be sure.
    """
    size = EXCERPT_SECONDS * signal.form.rate
    if signal.form.frames > EXCERPTS * size:
        measures = measure_signal(Excerpts(signal, space_evenly(signal.form.frames, size, EXCERPTS), size))
        if measures.sides is not None and not is_all_centre(measures.sides):
            return measures
    return measure_signal(signal)


def is_all_centre(sides: StereoMeasures) -> bool:
    return sides.identical or (sides.difference_db is not None and sides.difference_db < ALL_SHARED_DB)


def expect_centre(signal: Signal) -> Expectation:
    """What a centre turn will find, by the minute in the middle of a clip."""
    frames = min(signal.form.frames, MEASURED_SECONDS * signal.form.rate)
    return expect_centre_of(signal, (signal.form.frames - frames) // 2, frames)


def forecast_centre(signal: Signal, position: float = 0.0) -> Forecast:
    """How well a voice at a position should come out of a stereo clip, by excerpts of it."""
    frames, rate = signal.form.frames, signal.form.rate
    size = FORECAST_SECONDS * rate
    if frames > FORECAST_EXCERPTS * size:
        signal = Excerpts(signal, space_evenly(frames, size, FORECAST_EXCERPTS), size)
    return forecast_voice(signal.read(0, signal.form.frames), rate, position)


def describe_forecast(forecast: Forecast, position: float = 0.0) -> str:
    """A forecast in a sentence or two, with its figures."""
    share, middle = (f"{100 * value:.0f} %" for value in (forecast.voice, forecast.in_the_middle))
    where = "at the chosen position" if position else "in the middle"
    if not forecast.has_voice:
        return (
            f"Hardly any voice {where}: {share} of the vocal range sounds like one. The wedge takes what is there, "
            "whatever it is."
        )
    expected, correlation = forecast.expected_db, forecast.rest_correlation
    how = "Should work well" if expected >= WELL_DB else "Should work fairly well"
    if expected < FAIRLY_DB:
        how = "Hard to separate"
    width = "nearly mono" if correlation >= NEARLY_MONO else "narrow" if correlation >= NARROW else "wide"
    by_sound = ", so only its sound tells the voice apart" if correlation >= NEARLY_MONO else ""
    return (
        f"{how}: the voice should come out about {expected:.0f} dB clear of everything else. {middle} of it is "
        f"{where}; the rest is {width} (correlation {format_signed(correlation)}){by_sound}."
    )


def find_voice(name: str, signal: Signal, position: float = 0.0) -> FileFinding:
    """How well a voice should come out of this clip, as a finding."""
    forecast = forecast_centre(signal, position)
    message = f"{name}: {describe_forecast(forecast, position)}"
    return FileFinding(code="forecast", label="how well", message=message, measured=forecast.model_dump())


def find_in_centre(
    name: str, form: Form, measures: Measures, expectation: Expectation, method: CentreMethod
) -> list[FileFinding]:
    """What to expect of a centre turn on this clip, before it is added. For the voice method a forecast says how much
    of the voice is in the middle and how narrow the rest is.
    """
    sides = measures.sides
    if sides is None or sides.correlation is None:
        return []
    findings: list[FileFinding] = []

    def say(
        code: str, label: str, message: str, measured: dict[str, float | int | str], remedy: Remedy | None = None
    ) -> None:
        findings.append(FileFinding(code=code, label=label, message=message, measured=measured, remedy=remedy))

    if is_all_centre(sides):
        message = (
            f"Left and right of {name} are identical: everything is centre. The wedge leaves no sides; the voice "
            "method goes by sound alone."
        )
        say("all-centre", "all centre", message, {"difference_db": sides.difference_db or "-inf"})
        return findings
    if sides.correlation < OPPOSITE:
        message = (
            f"Left and right of {name} are out of polarity (correlation {format_signed(sides.correlation)}): the "
            "centre is in their difference. Invert one channel first."
        )
        invert = make_remedy("invert right", "polarity", channels="right")
        say("opposite-polarity", "out of polarity", message, {"correlation": sides.correlation}, invert)
    for delay in find_delay(sides, form):
        message = f"{delay.message} A voice that is late in one channel is not in the middle: align first."
        findings.append(delay.model_copy(update={"message": message}))
    leans = sides.balance_db or 0.0
    if abs(leans) >= TILTED_DB and sides.coherence >= SAME_SOUND_COHERENCE:
        louder = "left" if leans > 0 else "right"
        message = (
            f"The {louder} channel of {name} is {abs(leans):.1f} dB louder: what both share is off the middle. Level "
            "the channels first, or move the position."
        )
        say("tilted-centre", "off the middle", message, {"balance_db": leans}, balance_remedy(leans))
    if method == "voice":
        return findings
    if expectation.shared < MIN_SHARED:
        share = 100 * expectation.shared
        message = f"There is hardly any centre in the vocal range of {name} ({share:.0f} % of the energy)."
        say("no-centre", "no centre", message, {"shared": expectation.shared})
    elif expectation.between > MAX_BETWEEN:
        share = 100 * expectation.between
        message = (
            f"{share:.0f} % of the energy in the vocal range is spread between the channels (reverb, doubles) and will "
            "remain."
        )
        say("wide-reverb", "wide reverb", message, {"between": expectation.between})
    if sides.side_to_mid_db is not None and sides.side_to_mid_db < NARROW_DB:
        message = (
            f"{name} is narrow (side {-sides.side_to_mid_db:.0f} dB below mid), so more than the voice counts as "
            "centre. A higher selectivity takes less with it."
        )
        say("narrow-stereo", "narrow", message, {"side_to_mid_db": sides.side_to_mid_db})
    return findings
