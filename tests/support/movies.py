"""Movies made through PyAV, for tests: a rising tone, unlike itself at every place, and pictures by their number."""

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]


def rising(frames: int, channels: int = 2, rate: int = 48_000) -> Samples:
    """A tone that rises, a little faster on each channel: (channels, frames)."""
    t = np.arange(frames) / rate
    tones = [0.4 * np.sin(2 * np.pi * (300 * t + (900 + 150 * c) * t * t)) for c in range(channels)]
    return np.stack(tones).astype(np.float32)


def write_movie(
    path: Path,
    form: str,
    codec: str,
    tracks: Sequence[Samples],
    *,
    rate: int = 48_000,
    rates: Sequence[int] = (),
    layouts: Sequence[str] = (),
    sample_format: str | None = None,
    pictures: int = 0,
    delay: float = 0.0,
    tags: dict[str, str] | None = None,
    names: Sequence[str] = (),
    timecode: str | None = None,
) -> Path:
    """Write sound tracks, and so many pictures at 25 a second, whose brightness is their number; `delay` is by how many
    seconds the sound begins later.
    """
    with av.open(path, "w", format=form) as movie:
        movie.metadata.update(tags or {})
        picture = None
        if pictures:
            picture = movie.add_stream("mpeg4", rate=25)
            picture.width, picture.height, picture.pix_fmt = 96, 64, "yuv420p"
            if timecode:
                picture.metadata["timecode"] = timecode
        sounds: list[Any] = []
        for n, track in enumerate(tracks):
            layout = layouts[n] if layouts else {1: "mono", 2: "stereo", 6: "5.1"}[len(track)]
            sound: Any = movie.add_stream(codec, rate=rates[n] if rates else rate, layout=layout)
            if sample_format:
                sound.codec_context.format = av.AudioFormat(sample_format)
            if names:
                sound.metadata["title"] = names[n]
            sounds.append(sound)
        for n in range(pictures):
            grey = np.full((64, 96, 3), min(255, 2 * n), np.uint8)
            movie.mux(picture.encode(av.VideoFrame.from_ndarray(grey, format="rgb24")))  # type: ignore[union-attr]
        if picture:
            movie.mux(picture.encode(None))
        for sound, track in zip(sounds, tracks, strict=True):
            own = sound.rate
            turn = av.AudioResampler(format=sound.codec_context.format, layout=sound.layout, rate=own)
            for at in range(0, track.shape[1], 1024):
                block = np.ascontiguousarray(track[:, at : at + 1024])
                frame = av.AudioFrame.from_ndarray(block, format="fltp", layout=sound.layout.name)
                frame.sample_rate, frame.time_base = own, Fraction(1, own)
                frame.pts = at + round(delay * own)
                for turned in turn.resample(frame):
                    movie.mux(sound.encode(turned))
            movie.mux(sound.encode(None))
    return path
