"""Working copies: any other format that libsndfile reads, decoded once into a PCM WAV.

Tags become a LIST chunk of it, an AIFF's markers cue points, and what a FLAC keeps of a WAV chunks again; all of it
travels from there. Frames are counted by reading until nothing comes, because a header's count is only a claim.
"""

from pathlib import Path
from typing import Final

from wedge_turn.core.audio.claims import Claim, read_claim
from wedge_turn.core.audio.sample_reader import SampleReader, SoundDecoder
from wedge_turn.core.audio.working_copy import write_working_copy
from wedge_turn.core.errors import (
    BadHeaderError,
    BrokenAudioError,
    NoFramesError,
    NotAudioError,
    TruncatedError,
    naming_disk_errors,
)
from wedge_turn.core.form import BrokenOff, EncodingName, Form, check_limits
from wedge_turn.core.metadata import (
    TAGS,
    Recorded,
    read_facts,
    read_flac_chunks,
    read_markers,
    read_recorded,
    read_starts,
    with_tags,
)

# Formats that libsndfile tells by their first bytes; the others it guesses from a name or from anything.
KNOWN: Final = {
    "AIFF": "AIFF", "AU": "AU", "AVR": "AVR", "CAF": "CAF", "FLAC": "FLAC", "IRCAM": "IRCAM", "MP3": "MP3",
    "NIST": "NIST", "OGG": "Ogg", "RF64": "RF64", "SVX": "IFF", "VOC": "VOC", "W64": "W64", "WAV": "WAV",
    "WAVEX": "WAV",
}  # fmt: skip
_CONTAINERS: Final = {"VORBIS": "Ogg Vorbis", "OPUS": "Opus"}
_INTEGER: Final[dict[str, EncodingName]] = {
    "PCM_S8": "s16", "PCM_U8": "u8", "PCM_16": "s16", "PCM_24": "s24", "PCM_32": "s32", "ULAW": "s16",
    "ALAW": "s16", "ALAC_16": "s16", "ALAC_20": "s24", "ALAC_24": "s24", "ALAC_32": "s32",
}  # fmt: skip


def decode_to_wav(source: Path, target: Path, name: str, *, salvage: bool = False) -> tuple[Form, Recorded]:
    """Write a PCM WAV with the samples of `source` to `target`; return its form with the original container, and what
    the file says about itself.

    Integer formats keep their integers; floats and lossy formats become 32-bit float, 64-bit stays. A lossy
    format has no depth: its form says 24 bit, which is what is made of it unless the user chooses another. To `salvage`
    is to take what can be read of an incomplete or damaged file, which its form then tells of.
    Raises NotAudioError, NoFramesError, BrokenAudioError (BadHeaderError, TruncatedError), LimitError or DiskFullError
    naming `name`.
    """
    claim = read_claim(source)
    decoder = SoundDecoder(source, name, claim.patches if claim else {})
    with decoder.open() as sound:
        if sound.format not in KNOWN:
            raise NotAudioError(f"{name} is not a readable audio file")
        check_limits(name, sound.channels, sound.samplerate)
        encoding: EncodingName = _INTEGER.get(sound.subtype, "f64" if sound.subtype == "DOUBLE" else "f32")
        form = Form(
            channels=sound.channels,
            frames=0,
            rate=sound.samplerate,
            encoding=encoding,
            container=_CONTAINERS.get(sound.subtype, KNOWN[sound.format]),
        )
        with naming_disk_errors(name):
            chunks = with_tags(
                read_flac_chunks(source) + read_markers(source) + read_starts(source, form.rate),
                {tag: getattr(sound, tag) for tag in TAGS.values()},
            )
            samples = SampleReader(decoder, form)
            frames = write_working_copy(target, form, chunks, samples.read(sound))
            recorded = read_recorded(chunks).model_copy(update={"encoder": sound.software})
    broken_off = _find_break(claim, samples, frames, name)
    if frames == 0:
        raise NoFramesError(f"{name} contains no samples")
    if broken_off is not None and not salvage:
        raise TruncatedError(samples.problem or broken_off.explain(name), broken_off.describe(form.rate))
    facts = read_facts(chunks, form.channels, form.rate) | {"frames": frames, "broken_off": broken_off}
    if form.lossy:
        facts["encoding"] = "s24"
    return form.model_copy(update=facts), recorded


def _find_break(claim: Claim | None, samples: SampleReader, frames: int, name: str) -> BrokenOff | None:
    """What is missing of a file, None where it is whole. Raises BrokenAudioError where nothing can be read of it."""
    if samples.problem and frames == 0:
        raise BrokenAudioError(samples.problem)
    promised = claim.frames if claim else None
    if claim and promised is not None and frames > promised and claim.patches:
        raise BadHeaderError(f"{name} should have {promised:,} frames but has {frames:,}")
    short = promised is not None and frames < promised - (claim.tolerance if claim else 0)
    unfinished = claim is not None and claim.is_broken
    if samples.problem or short or unfinished:
        return BrokenOff(frames=frames, claimed=promised, silent=samples.silent)
    return None
