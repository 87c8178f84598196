"""What is measured about a signal, as it is stored and shown."""

from pydantic import BaseModel, ConfigDict

from wedge_turn.core.measure.bandwidth import SharpEnd
from wedge_turn.core.measure.level_steps import LevelStep
from wedge_turn.core.measure.polarity_change import PolarityChange
from wedge_turn.core.turns import Law


class ChannelLevels(BaseModel):
    """Levels of one channel, or of all together; None where there is silence.

    `dc` is the mean as a share of full scale, `steady_dc` what of it is there all the time. `peak_seconds` is when the
    peak comes, to a tenth of a second; `usual_dbfs` the RMS that only a twentieth of all stretches of 100 ms exceed;
    `hum_hz` is 50 or 60 where there is nothing but mains hum.
    """

    model_config = ConfigDict(frozen=True)

    peak_dbfs: float | None
    true_peak_dbtp: float | None
    rms_dbfs: float | None
    loudness_lufs: float | None
    crest_db: float | None
    dc: float
    steady_dc: float
    clipped_runs: int
    clipped_samples: int
    peak_seconds: float | None = None
    usual_dbfs: float | None = None
    hum_hz: int | None = None


class Delay(BaseModel):
    """How many samples channel 2 is later than channel 1 (negative: earlier), to half a sample, whether it is inverted
    there, and how sure that is (0 … 1).
    """

    model_config = ConfigDict(frozen=True)

    samples: float
    inverted: bool
    confidence: float
    runner_up: float


class BandCorrelation(BaseModel):
    """How two channels go together in a band of frequencies, and how far it lies below all of the sound."""

    model_config = ConfigDict(frozen=True)

    low_hz: float
    high_hz: float
    correlation: float
    level_db: float


class StereoMeasures(BaseModel):
    """How alike two channels are; ratios in dB, None where a channel is silent or nothing is left."""

    model_config = ConfigDict(frozen=True)

    identical: bool
    correlation: float | None
    balance_db: float | None
    mono_fold_loss_db: float | None
    side_to_mid_db: float | None
    difference_db: float | None
    coherence: float
    envelope_correlation: float | None
    delay: Delay
    bands: list[BandCorrelation]
    field: list[float]
    fold_dbfs: dict[Law, float | None]
    polarity_change: PolarityChange | None = None


class Measures(BaseModel):
    """What was measured about a signal: all of it together, each channel, and of two channels how they go together.

    `damaged` samples are NaN, infinite or beyond +120 dBFS; silence is read for them. `bits_used` is the smallest whole
    number of bits that holds every sample as it is, None where more than 32 are needed. `samples` is a hash of them all
    (XXH3), whatever they are stored as. `sharp_end` is where the spectrum ends as lossy coding leaves it, `level_steps`
    where the level changes and stays changed.
    """

    model_config = ConfigDict(frozen=True)

    whole: ChannelLevels
    channels: list[ChannelLevels]
    sides: StereoMeasures | None
    damaged: int
    bits_used: int | None
    samples: str
    sharp_end: SharpEnd | None = None
    level_steps: list[LevelStep] = []
