"""What a piece of audio is, without its samples: channels, length, rate, encoding, speakers, start time.

Speaker mask bits are those of WAVEFORMATEXTENSIBLE (Microsoft, "Multiple channel audio data and WAVE
files"): bit n set means that the speaker `SPEAKERS[n]` has a channel, in the order of the bits.
"""

from collections.abc import Iterable
from functools import lru_cache
from typing import Final

from pydantic import BaseModel, ConfigDict, Field

from wedge_turn.core.errors import LimitError
from wedge_turn.core.form.encoding import ENCODINGS, Encoding, EncodingName
from wedge_turn.core.form.timecode import FrameRate, format_length, format_time_code

MAX_CHANNELS: Final = 64
MIN_RATE: Final = 1_000
MAX_RATE: Final = 768_000

SPEAKERS: Final = (
    *("FL", "FR", "FC", "LFE", "BL", "BR", "FLC", "FRC", "BC"),
    *("SL", "SR", "TC", "TFL", "TFC", "TFR", "TBL", "TBC", "TBR"),
)


# Codecs that keep only a likeness, as the name of a container ends.
LOSSY: Final = frozenset({"AAC", "AC-3", "E-AC-3", "MP3", "Opus", "Vorbis", "compressed"})


class BrokenOff(BaseModel):
    """How many frames can be read of an incomplete file. `claimed` is how many its header says it has, None where
    it was never finished. `silent` of those that are there were lost in the middle, and are silence.
    """

    model_config = ConfigDict(frozen=True)

    frames: int
    claimed: int | None = None
    silent: int = 0

    def describe(self, rate: int) -> str:
        """How long it is, and how long it should be: 2:14.300 of 3:00.000."""
        length = format_length(self.frames, rate)
        claimed = "" if self.claimed is None else f" of {format_length(self.claimed, rate)}"
        silent = f", {format_length(self.silent, rate)} of it lost and silent" if self.silent else ""
        return f"{length}{claimed}{silent}"

    def explain(self, name: str) -> str:
        """What is wrong with the file, in a sentence."""
        if self.claimed is None:
            return f"{name} was never finished: its header gives no length, and it holds {self.frames:,} frames"
        return f"{name} should have {self.claimed:,} frames but ends after {self.frames:,}"


class Form(BaseModel):
    """What a clip is. `start_time` counts samples since midnight, `frame_rate` is that of its time code; None where the
    file records none. `labels` are the names that the file gives its channels, each empty where it gives none.
    `broken_off` says that its file is incomplete.
    """

    model_config = ConfigDict(frozen=True)

    channels: int = Field(ge=1, le=MAX_CHANNELS)
    frames: int = Field(ge=0)
    rate: int = Field(ge=MIN_RATE, le=MAX_RATE)
    encoding: EncodingName
    container: str = "WAV"
    speaker_mask: int = 0
    start_time: int | None = None
    frame_rate: FrameRate | None = None
    labels: tuple[str, ...] = ()
    broken_off: BrokenOff | None = None

    @property
    def lossy(self) -> bool:
        """Whether the file it came in with keeps only a likeness of its samples: its depth is then only ours."""
        return self.container.split()[-1] in LOSSY

    @property
    def stored(self) -> Encoding:
        return ENCODINGS[self.encoding]

    @property
    def speakers(self) -> tuple[str, ...]:
        """Names of the channels in order, where the mask names exactly as many as there are."""
        named = _named(self.speaker_mask)
        return named if len(named) == self.channels else ()

    @property
    def block_align(self) -> int:
        """Bytes of one frame."""
        return self.channels * self.stored.width


def format_time_code_of(form: Form) -> str | None:
    """When a clip starts in time code, where its file says the frame rate too."""
    if form.start_time is None or form.frame_rate is None:
        return None
    return format_time_code(form.start_time, form.rate, form.frame_rate)


def format_channels(count: int) -> str:
    """How many channels, as people say it."""
    return {1: "mono", 2: "stereo"}.get(count, f"{count} channels")


@lru_cache(maxsize=100)
def _named(mask: int) -> tuple[str, ...]:
    return tuple(name for bit, name in enumerate(SPEAKERS) if mask >> bit & 1)


def speaker_mask(speakers: Iterable[str]) -> int:
    """The mask that names these speakers."""
    return sum(1 << SPEAKERS.index(speaker) for speaker in speakers)


def check_limits(name: str, channels: int, rate: float) -> None:
    """Refuse what nobody records with, before anything is allocated for it."""
    if not 1 <= channels <= MAX_CHANNELS:
        raise LimitError(f"{name} has {channels:,} channels; 1 to {MAX_CHANNELS} are supported")
    if not MIN_RATE <= rate <= MAX_RATE:
        raise LimitError(f"{name} has a sample rate of {rate:,} Hz; {MIN_RATE:,} to {MAX_RATE:,} Hz are supported")
