"""A short film of the ferry, mirrored as a front camera leaves it: the boat goes left while its sound goes right.

Written through PyAV (the extra `media`).
"""

from fractions import Fraction
from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

WIDTH, HEIGHT, FRAMES_PER_SECOND = 640, 360, 25
START: Final = "16:10:00:00"
_SKY, _SEA, _HULL, _CABIN, _FUNNEL, _SMOKE = (
    (178, 200, 214), (58, 92, 116), (128, 40, 34), (236, 232, 222), (38, 38, 42), (150, 156, 160),
)  # fmt: skip
Picture = NDArray[np.uint8]


def write_film(path: Path, sound: NDArray[np.float64], rate: int) -> None:
    """Write an MP4 with the film and `sound`, (frames, 2), at `rate` samples a second; the same bytes each time."""
    import av

    seconds = len(sound) / rate
    with av.open(path, "w", format="mp4", options={"fflags": "+bitexact", "movflags": "+faststart"}) as movie:
        movie.metadata["title"] = "Ferry, from the pier"
        picture = movie.add_stream("mpeg4", rate=FRAMES_PER_SECOND, options={"threads": "1", "flags": "+bitexact"})
        picture.width, picture.height, picture.pix_fmt, picture.bit_rate = WIDTH, HEIGHT, "yuv420p", 600_000
        picture.metadata["timecode"] = START
        track = movie.add_stream("aac", rate=rate, layout="stereo", options={"flags": "+bitexact"})
        track.bit_rate = 160_000
        for n in range(int(seconds * FRAMES_PER_SECOND)):
            share = n / FRAMES_PER_SECOND / seconds
            movie.mux(picture.encode(av.VideoFrame.from_ndarray(_drawn(share), format="rgb24")))
        movie.mux(picture.encode(None))
        for at in range(0, len(sound), 1024):
            block = np.ascontiguousarray(sound[at : at + 1024].T.astype(np.float32))
            frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts, frame.time_base = rate, at, Fraction(1, rate)
            movie.mux(track.encode(frame))
        movie.mux(track.encode(None))


def _drawn(share: float) -> Picture:
    """The picture after this share of the film: the boat goes from right to left."""
    picture: NDArray[Any] = np.empty((HEIGHT, WIDTH, 3), np.uint8)
    horizon = 190
    picture[:horizon], picture[horizon:] = _SKY, _SEA
    for n in range(9):  # waves
        row = horizon + 14 + n * 18
        first = int(40 * np.sin(share * 30 + n * 1.9)) + 60
        for at in range(first, WIDTH, 150):
            picture[row : row + 2, at : at + 46] = (104, 138, 158)
    picture[70:horizon, 560:592] = (228, 222, 208)  # the lighthouse
    picture[58:70, 554:598] = _HULL
    bow = int(WIDTH + 60 - share * (WIDTH + 320))
    for row in range(44):
        _fill(picture, 196 + row, bow + row // 2, bow + 220 - row // 3, _HULL)
    for row in range(34):
        _fill(picture, 162 + row, bow + 60, bow + 190, _CABIN)
    for row in range(40):
        _fill(picture, 122 + row, bow + 120, bow + 146, _FUNNEL)
    for n in range(5):
        _fill_square(picture, 112 - 9 * n, bow + 140 + 26 * n, 8 + 4 * n)
    return picture


def _fill(picture: Picture, row: int, first: int, last: int, colour: tuple[int, int, int]) -> None:
    picture[row, max(0, first) : max(0, last)] = colour


def _fill_square(picture: Picture, row: int, at: int, size: int) -> None:
    picture[row - size : row + size, max(0, at - size) : max(0, at + size)] = _SMOKE
