"""Writing the demo's files: which sound in which form, with the start times a recorder would leave."""

import ctypes
import os
import signal
import struct
import sys
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, ProcessPoolExecutor, wait
from dataclasses import dataclass
from importlib.util import find_spec
from multiprocessing import active_children, get_context
from pathlib import Path
from typing import Final, Literal

import numpy as np
import soundfile

from wedge_turn.core.audio import build_header, build_trailer, encode
from wedge_turn.core.form import EncodingName, Form, FrameRate
from wedge_turn.core.metadata import Carried, Track, make_ixml, with_ixml_facts
from wedge_turn.demo import island, pier, sounds
from wedge_turn.demo.film import write_film
from wedge_turn.demo.synth import Wave
from wedge_turn.signals import block_signals

_PROGRESS_EVERY: Final = 0.2  # seconds
_PR_SET_PDEATHSIG: Final = 1  # prctl(2)
Format = Literal["wav", "flac", "aiff", "mp3", "mp4"]


@dataclass(frozen=True)
class Recording:
    """Names of its files (one for each channel, or one for all), how it sounds, and what it is stored as; `tracks` are
    the names that the recorder gave its channels.
    """

    names: tuple[str, ...]
    make: Callable[[int], list[Wave]]
    rate: int = 48_000
    encoding: EncodingName = "s24"
    starts_at: str | None = None
    format: Format = "wav"
    tracks: tuple[str, ...] = ()


RECORDINGS: Final = (
    Recording(("lamp-bell_L", "lamp-bell_R"), sounds.lamp_bell, starts_at="19:42:10"),
    Recording(("tower-stairs_L", "tower-stairs_R"), sounds.tower_stairs, starts_at="19:58:31"),
    Recording(("harmonium_mid", "harmonium_side"), island.harmonium),
    Recording(("harbour-swell_ms",), island.harbour_swell, rate=96_000, encoding="f32"),
    Recording(("boat-and-tower",), island.boat_and_tower),
    Recording(("gull-pass",), sounds.gull_pass),
    Recording(("foghorn",), island.foghorn, rate=44_100, encoding="s16"),
    Recording(("landing-stage",), island.landing_stage),
    Recording(("winch",), island.winch, format="aiff"),
    Recording(("wind-gauge",), island.wind_gauge, format="flac"),
    Recording(("clock-front", "clock-back"), island.clock),
    Recording(("beacon_FL", "beacon_FR", "beacon_BL", "beacon_BR"), island.beacon),
    Recording(("evening-song",), sounds.evening_song, rate=44_100, encoding="s16"),
    Recording(("pier-poly",), pier.pier_poly, starts_at="16:05:30", tracks=pier.POLY_NAMES),
    Recording(("ferry-film",), pier.ferry, format="mp4"),
    Recording(("postcard",), pier.postcard, rate=44_100, format="mp3"),
)


def write_demo_files(folder: Path, on_progress: Callable[[float], None] = lambda _: None) -> list[Path]:
    """Write every file into `folder`, the same bytes each time; return their paths. The film needs the extra `media`:
    without it, it is left out. `on_progress` is called with the share done, 0 to 1, several times a second; if it
    raises, all work stops.
    """
    folder.mkdir(parents=True, exist_ok=True)
    which = [n for n, recording in enumerate(RECORDINGS) if recording.format != "mp4" or find_spec("av")]
    # Spawned: a forked worker would hold on to whatever is open here, as the socket of a server that is starting.
    with ProcessPoolExecutor(mp_context=get_context("spawn"), initializer=_end_with, initargs=(os.getpid(),)) as pool:
        try:
            with block_signals(signal.SIGINT, signal.SIGHUP, signal.SIGTERM):
                writing = [pool.submit(write_recording, recording, folder) for recording in which]
            waiting = set(writing)
            while waiting:
                done, waiting = wait(waiting, _PROGRESS_EVERY, FIRST_COMPLETED)
                for job in done:
                    job.result()  # an error stops the others
                on_progress(1 - len(waiting) / len(writing))
            return [path for job in writing for path in job.result()]
        except BaseException:
            # Who stops this doesn't wait for what is being written, and what is still to be.
            for process in active_children():
                process.kill()
            raise


def _end_with(parent: int) -> None:
    """Have the system end this process when the one that started it is gone, however that ended."""
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:  # it is gone already
        os._exit(1)


def write_recording(which: int, folder: Path) -> list[Path]:
    """Write the files of one of the recordings; return their paths."""
    recording = RECORDINGS[which]
    waves = recording.make(recording.rate)
    block = np.stack(waves, axis=1)
    parts = [block] if len(recording.names) == 1 else [block[:, [i]] for i in range(len(waves))]
    paths = []
    for name, part in zip(recording.names, parts, strict=True):
        path = folder / f"{name}.{recording.format}"
        if recording.format == "wav":
            path.write_bytes(_file(recording, name, part))
        elif recording.format == "mp4":
            write_film(path, part, recording.rate)
        elif recording.format == "mp3":
            _write_mp3(path, part, recording.rate)
        else:
            steps = np.rint(part * 2**23).astype(np.int32) << 8
            soundfile.write(path, steps, recording.rate, subtype="PCM_24")
        paths.append(path)
    return paths


def _write_mp3(path: Path, block: np.ndarray[tuple[int, ...], np.dtype[np.float64]], rate: int) -> None:
    with soundfile.SoundFile(path, "w", rate, block.shape[1], format="MP3") as file:
        file.title, file.artist = "Postcard", "Kettle Island Light"
        file.write(block)


def _file(recording: Recording, name: str, block: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> bytes:
    form = Form(channels=block.shape[1], frames=len(block), rate=recording.rate, encoding=recording.encoding)
    raw, _ = encode(np.ascontiguousarray(block), form.stored)
    return build_header(form, _broadcast(recording, name)) + raw.tobytes() + build_trailer(form)


def _broadcast(recording: Recording, name: str) -> Carried:
    """A bext chunk (EBU Tech 3285, version 1) with the time of day at which the recording starts, and iXML with the
    names of its channels.
    """
    if recording.starts_at is None:
        return ()
    hours, minutes, seconds = (int(part) for part in recording.starts_at.split(":"))
    start = (hours * 3600 + minutes * 60 + seconds) * recording.rate
    body = struct.pack(
        "<256s32s32s10s8sQH", f"Kettle Island Light: {name}".encode(), b"Kettle Island Light", name.encode(),
        b"2026-09-14", recording.starts_at.encode(), start, 1,
    )  # fmt: skip
    bext = (b"bext", body.ljust(602, b"\0"))
    if not recording.tracks:
        return (bext,)
    facts = {
        "PROJECT": "Kettle Island Light",
        "SCENE": "P4",
        "TAKE": "2",
        "TAPE": "KIL0914",
        "NOTE": "wind on the rail",
    }
    about = with_ixml_facts(
        make_ixml([Track(track) for track in recording.tracks]), facts, FrameRate(frames=25, seconds=1)
    )
    return bext, (b"iXML", about)
