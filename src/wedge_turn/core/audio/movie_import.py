"""The sound of movies and of other files that PyAV reads, decoded once into a PCM WAV.

Samples lie where the file says: what the encoder declares as priming and padding is left out (edit lists of MP4,
CodecDelay and DiscardPadding of Matroska), and sound that begins later than its picture begins after silence. Several
sound tracks of one rate become one file with all their channels, in their order.
"""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from wedge_turn.core.audio.movies import MovieKind, open_movie
from wedge_turn.core.audio.pcm import Block
from wedge_turn.core.audio.working_copy import BLOCK, write_working_copy
from wedge_turn.core.errors import BrokenAudioError, NoFramesError, NoSoundError, naming_disk_errors
from wedge_turn.core.form import (
    ENCODINGS,
    SPEAKERS,
    EncodingName,
    Form,
    check_limits,
    common_encoding,
    parse_frame_rate,
    parse_time_code,
    speaker_mask,
)
from wedge_turn.core.metadata import (
    MAX_TEXT,
    TAGS,
    Carried,
    Recorded,
    SoundTrack,
    Track,
    make_bext,
    make_ixml,
    read_facts,
    read_recorded,
    with_ixml_facts,
    with_tags,
)

if TYPE_CHECKING:
    from av.audio.frame import AudioFrame
    from av.audio.stream import AudioStream
    from av.container import InputContainer
    from av.video.stream import VideoStream

_CODECS: Final = {
    "aac": "AAC", "mp3": "MP3", "mp3float": "MP3", "opus": "Opus", "libopus": "Opus", "vorbis": "Vorbis",
    "ac3": "AC-3", "eac3": "E-AC-3", "alac": "ALAC", "flac": "FLAC", "wavpack": "",
}  # fmt: skip
_STORED: Final[dict[str, EncodingName]] = {"u8": "u8", "s16": "s16", "s32": "s32", "flt": "f32", "dbl": "f64"}
_FULL_SCALE: Final = {"u8": 128.0, "s16": 2.0**15, "s32": 2.0**31, "flt": 1.0, "dbl": 1.0}
# A jump ahead in a file's time stamps that is longer than they are rounded is a hole in the sound.
_HOLE_SECONDS: Final = 0.1
# Matroska counts milliseconds, and encoders differ by some of them.
_ROUNDED_SECONDS: Final = 0.02


def decode_movie_to_wav(source: Path, target: Path, name: str, kind: MovieKind) -> tuple[Form, Recorded]:
    """Write a PCM WAV with the sound of `source` to `target`; return its form and what the file says about itself.

    Raises MediaExtraMissingError, NotAudioError, NoSoundError, NoFramesError, BrokenAudioError, LimitError or
    DiskFullError, naming `name`.
    """
    with ExitStack() as open_files, naming_disk_errors(name):
        first = open_files.enter_context(open_movie(source, kind, name))
        streams = list(first.streams.audio)
        if not streams:
            raise NoSoundError(f"{name} has no sound track")
        rate = streams[0].rate
        read = [stream for stream in streams if stream.rate == rate]
        channels = sum(stream.channels for stream in read)
        check_limits(name, channels, rate)
        encodings = [_encoding(stream, source) for stream in read]
        stored = common_encoding([ENCODINGS[encoding] for encoding in encodings])
        chunks = _chunks(first, read, rate)
        form = Form(
            channels=channels,
            frames=0,
            rate=rate,
            encoding=stored.name,
            container=f"{kind.name} {_codec(read[0])}".removesuffix(f" {kind.name}").strip(),
            speaker_mask=_speakers(read[0]) if len(read) == 1 else 0,
        )
        # Each track is read by a container of its own, so that none waits in memory for another.
        containers = [first, *(open_files.enter_context(open_movie(source, kind, name)) for _ in read[1:])]
        tracks = [
            _rechunk(_sound(container, container.streams.audio[streams.index(stream)], name))
            for container, stream in zip(containers, read, strict=True)
        ]
        frames = write_working_copy(target, form, chunks, _interleave(tracks, [stream.channels for stream in read]))
        recorded = read_recorded(chunks).model_copy(
            update={
                "encoder": _tag(first.metadata, "encoder"),
                "picture": bool(find_picture_streams(first)),
                "sound_tracks": tuple(
                    SoundTrack(name=_track_name(stream, n), channels=stream.channels) for n, stream in enumerate(read)
                )
                if len(read) > 1
                else (),
                "left_out": tuple(
                    f"{_track_name(stream, n)} ({stream.rate} Hz)"
                    for n, stream in enumerate(streams)
                    if stream.rate != rate
                ),
            }
        )
    if frames == 0:
        raise NoFramesError(f"{name} contains no samples")
    facts = read_facts(chunks, channels, rate) | {"frames": frames}
    if form.lossy:
        facts["encoding"] = "s24"
    return form.model_copy(update=facts), recorded


def _sound(container: "InputContainer", stream: "AudioStream", name: str) -> Iterator[Block]:
    """The samples of a track from the start of the movie on, as they come, up to the end that its last packet says."""
    import av

    rate, channels = stream.rate, stream.channels
    exact = stream.time_base == Fraction(1, rate)  # else the times of packets are rounded
    longest = Fraction(container.duration or 0, av.time_base) * rate
    # Sound without a picture begins where it begins: what its first time stamp says beyond that is priming or rounding.
    latest_start = longest if find_picture_streams(container) else 0
    least_start = 0 if exact else _ROUNDED_SECONDS * rate
    frames, origin, end = 0, 0, None
    last = np.zeros((0, channels))
    try:
        for packet in container.demux(stream):
            if exact and packet.pts is not None and packet.duration:
                end = packet.pts + packet.duration
            for frame in packet.decode():
                if frame.sample_rate != rate or frame.layout.nb_channels != channels:
                    raise BrokenAudioError(f"{name} changes its sample rate or channels at frame {frames:,}")
                place = _place(frame, frames + origin)
                if frames == 0 and not least_start < place <= latest_start:
                    origin = place
                hole = place - origin - frames
                if not 0 < hole <= longest - frames or (frames and hole <= _HOLE_SECONDS * rate):
                    hole = 0
                yield last
                last = np.concatenate(
                    [np.zeros((hole, channels)), _samples(frame.to_ndarray(), frame.format.name, channels)]
                )
                frames += len(last)
    except (av.error.FFmpegError, ValueError) as error:
        raise BrokenAudioError(f"{name} cannot be read past frame {frames:,}: its data is damaged") from error
    too_many = max(0, frames + origin - end) if end is not None else 0
    yield last[: max(0, len(last) - too_many)]


def _place(frame: "AudioFrame", expected: int) -> int:
    """Where a frame begins, in samples from the start of the movie; where expected if it doesn't say."""
    if frame.pts is None or frame.time_base is None:
        return expected
    return round(frame.pts * frame.time_base * frame.sample_rate)


def _samples(array: np.ndarray[Any, Any], sample_format: str, channels: int) -> Block:
    """Samples of FFmpeg, planar or not, as float64 (frames, channels)."""
    kind = sample_format.removesuffix("p")
    ordered = array.T if sample_format.endswith("p") else array.reshape(-1, channels)
    block = ordered.astype(np.float64)
    return np.ascontiguousarray((block - 128 if kind == "u8" else block) / _FULL_SCALE[kind])


def _rechunk(blocks: Iterator[Block]) -> Iterator[Block]:
    """The same samples in blocks of BLOCK frames; the last may be shorter."""
    waiting: list[Block] = []
    count = 0
    for block in blocks:
        waiting.append(block)
        count += len(block)
        while count >= BLOCK:
            together = np.concatenate(waiting)
            yield together[:BLOCK]
            waiting, count = [together[BLOCK:]], count - BLOCK
    if count:
        yield np.concatenate(waiting)


def _interleave(tracks: Sequence[Iterator[Block]], channels: Sequence[int]) -> Iterator[Block]:
    """All channels side by side; the shorter tracks end in silence."""
    while True:
        blocks = [next(track, None) for track in tracks]
        frames = max((len(block) for block in blocks if block is not None), default=0)
        if not frames:
            return
        together = np.zeros((frames, sum(channels)))
        first = 0
        for block, count in zip(blocks, channels, strict=True):
            if block is not None:
                together[: len(block), first : first + count] = block
            first += count
        yield together


def _chunks(container: "InputContainer", read: Sequence["AudioStream"], rate: int) -> Carried:
    """What the movie says, as chunks of a WAV: its tags, its time code, the names of its sound tracks."""
    tags = {tag: _tag(container.metadata, tag) for tag in TAGS.values()}
    chunks = with_tags((), tags)
    names: list[Track] = []
    for n, stream in enumerate(read):
        called, channels = _track_name(stream, n), stream.channels
        sides = ("left", "right") if channels == 2 else tuple(map(str, range(1, channels + 1)))
        names += [Track(called)] if channels == 1 else [Track(f"{called} {side}") for side in sides]
    about = make_ixml(names if len(read) > 1 else ())
    pictures = [stream for stream in find_picture_streams(container) if stream.average_rate]
    code = next(
        (found for holder in (container, *container.streams) if (found := _tag(holder.metadata, "timecode"))), ""
    )
    frame_rate = parse_frame_rate(str(pictures[0].average_rate)) if pictures else None
    start = parse_time_code(code, rate, frame_rate) if frame_rate else None
    if frame_rate is not None and start is not None:
        drop = frame_rate.can_drop_frames and ";" in code
        about = with_ixml_facts(about, {}, frame_rate.model_copy(update={"drop": drop}))
        chunks = (*chunks, (b"bext", make_bext(start)))
    return (*chunks, (b"iXML", about)) if len(read) > 1 or start is not None else chunks


def _track_name(stream: "AudioStream", number: int) -> str:
    """What a track is called: by its own title, its language, or its number."""
    title, language = _tag(stream.metadata, "title"), _tag(stream.metadata, "language")
    known_language = "" if language == "und" else language
    return f"track {number + 1}" + (f" {title or known_language}" if title or known_language else "")


def _tag(metadata: Mapping[str, str], name: str) -> str:
    return next((text.strip()[:MAX_TEXT] for key, text in metadata.items() if key.lower() == name), "")


def find_picture_streams(container: "InputContainer") -> "list[VideoStream]":
    """The pictures of a movie; the cover of an album is none."""
    from av.stream import Disposition

    return [stream for stream in container.streams.video if not stream.disposition & Disposition.attached_pic]


def _codec(stream: "AudioStream") -> str:
    codec = stream.codec_context.name
    if codec.startswith("pcm_"):
        return "PCM"
    return _CODECS.get(codec, "compressed")


def _encoding(stream: "AudioStream", source: Path) -> EncodingName:
    """What holds the samples of a track as they are decoded; 24 bits come in 32."""
    stored = _STORED[stream.format.name.removesuffix("p")]
    if stored == "s32" and _is_24_bit(stream, source):
        return "s24"
    return stored


def _is_24_bit(stream: "AudioStream", source: Path) -> bool:
    codec, extra = stream.codec_context.name, stream.codec_context.extradata or b""
    if codec == "wavpack":
        with source.open("rb") as file:
            # Bytes of a sample, less one, in the last two bits of the flags.
            return file.read(28)[24] & 3 == 2
    if codec == "alac":
        return len(extra) > 17 and extra[17] == 24
    return codec in ("pcm_s24le", "pcm_s24be")


def _speakers(stream: "AudioStream") -> int:
    """The speaker mask of more than two channels, where each is a speaker and they lie in the order of the mask."""
    names = [channel.name for channel in stream.layout.channels]
    places = [SPEAKERS.index(name) for name in names if name in SPEAKERS]
    return speaker_mask(names) if len(names) > 2 and len(places) == len(names) and places == sorted(places) else 0
