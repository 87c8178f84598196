"""The picture of a movie at a moment, as a JPEG: to see what is heard. Nothing of a movie is ever written."""

from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

import numpy as np

from wedge_turn.core.audio.movie_import import find_picture_streams
from wedge_turn.core.audio.movies import detect_movie_kind, open_movie
from wedge_turn.core.errors import BrokenAudioError, NotFoundError

if TYPE_CHECKING:
    from av import VideoFrame
    from av.container import InputContainer
    from av.video.stream import VideoStream

WIDTH: Final = 480  # pixels


def read_picture(path: Path, seconds: float, name: str) -> bytes:
    """A JPEG of what is seen `seconds` after the start of a movie, at most WIDTH pixels wide; its last picture where it
    ends before. Raises NotFoundError where there is no picture, BrokenAudioError where it can't be read.
    """
    import av

    kind = detect_movie_kind(path)
    if kind is None:
        raise NotFoundError(f"{name} has no picture")
    with open_movie(path, kind, name) as container:
        streams = find_picture_streams(container)
        if not streams:
            raise NotFoundError(f"{name} has no picture")
        try:
            frame = _frame_at(container, streams[0], Fraction(seconds).limit_denominator(1_000_000))
        except (av.error.FFmpegError, ValueError) as error:
            raise BrokenAudioError(f"the picture of {name} cannot be read at {seconds:.1f} s") from error
        if frame is None:
            raise NotFoundError(f"{name} has no picture")
        return _jpeg(frame)


def _frame_at(container: "InputContainer", stream: "VideoStream", seconds: Fraction) -> "VideoFrame | None":
    """The frame that is seen then: the last one that begins before."""
    base = stream.time_base or Fraction(1, 1_000_000)
    container.seek(max(0, int(seconds / base)), stream=stream)
    previous = None
    for frame in container.decode(stream):
        if previous is not None and frame.pts is not None and frame.pts * base > seconds:
            break
        previous = frame
    return previous


def _jpeg(frame: "VideoFrame") -> bytes:
    import av

    width = min(WIDTH, frame.width) // 2 * 2 or 2
    height = max(2, round(frame.height * width / frame.width) // 2 * 2)
    turned = _turned(frame.reformat(width, height, "rgb24").to_ndarray(), frame.rotation)
    picture = av.VideoFrame.from_ndarray(turned, format="rgb24").reformat(format="yuvj420p")
    encoder = av.CodecContext.create("mjpeg", "w")
    encoder.width, encoder.height, encoder.pix_fmt = picture.width, picture.height, "yuvj420p"
    encoder.time_base = Fraction(1, 25)
    return b"".join(bytes(packet) for packet in (*encoder.encode(picture), *encoder.encode(None)))


def _turned(picture: np.ndarray[Any, Any], degrees: int) -> np.ndarray[Any, Any]:
    """A picture as it was held: phones write theirs lying, with by how much to turn it counterclockwise."""
    return np.ascontiguousarray(np.rot90(picture, degrees // 90 % 4))
