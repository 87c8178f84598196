"""`make bench`: prints each figure as a ratio within this run. Needs about 15 GB of disk for a few minutes.

Processor time is user and system time together, the median of several runs, less that of the same command on a
file of a thousand frames, which is starting up.
"""

import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

import numpy as np

from bench import material, probes
from bench.measuring import COMMAND, MINUTES, RUNS, processor_seconds, say
from bench.over_time import over_time
from wedge_turn.core.audio import build_header
from wedge_turn.core.form import Form


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="wedge-turn-bench-") as folder:
        room = Path(folder)
        split_and_merge(room)
        proofs(room)
        formats(room)
        measures(room)
        many_files(room)
        pictures(room)
        memory(room)
        chains(room)
        wedge(room)
        over_time(room)
        answers(room)
        hashes()


def compared(first: str, second: str, *arguments: object) -> list[float]:
    """The processor seconds of two probes, start-up not counted; in turns, so that the machine's moods meet both."""
    took: dict[str, list[float]] = {first: [], second: []}
    for _ in range(2 * RUNS):
        for what, seconds in took.items():
            probe = (sys.executable, "-m", "bench.probes", "spent", what, *arguments)
            printed = subprocess.run([str(part) for part in probe], check=True, capture_output=True, text=True)
            seconds.append(float(printed.stdout))
    return [statistics.median(seconds) for seconds in took.values()]


def split_and_merge(work: Path) -> None:
    """Our split, merge and encode with their proof against the plain script without one."""
    small, large = work / "small.wav", work / "large.wav"
    material.write_noise(small, 1_000)
    material.write_noise(large, MINUTES * 60 * 48_000)
    out, split = work / "out", 0.0
    for kind in ("split", "merge", "encode"):
        paths = (*parts(small), *parts(large)) if kind == "merge" else (small, large)
        plain, spent = compared(f"plain-{kind}", f"our-{kind}", work, *paths)
        split = spent if kind == "split" else split
        say(
            f"{kind} of {MINUTES} min 24-bit stereo with proof: plain script / ours",
            f"{plain:.2f}/{spent:.2f} = {plain / spent:.1f}×",
            "≥ 6×" if kind == "encode" else "≥ 10×",
        )
    copied = processor_seconds(sys.executable, "-m", "bench.probes", "copy", large, work / "copy")
    copied -= processor_seconds(sys.executable, "-m", "bench.probes", "copy", small, work / "copy")
    say("encode, ours / copying the file", f"{spent / copied:.1f}×", "–")
    cp = processor_seconds("cp", large, work / "copy") - processor_seconds("cp", small, work / "copy")
    say("split with proof / cp", f"{split / cp:.1f}×", "–")
    clear = partial(shutil.rmtree, out, ignore_errors=True)
    alone, start_up = (
        processor_seconds(COMMAND, "apply", "split", source, "--out", out, before=clear) for source in (large, small)
    )
    say(
        "split by the command, starting up included, of this and of a small file", f"{alone:.2f}, {start_up:.2f} s", "–"
    )
    start = time.perf_counter()
    for _ in range(RUNS):
        shutil.rmtree(out, ignore_errors=True)
        subprocess.run([COMMAND, "apply", "split", small, "--out", out], check=True, stdout=subprocess.DEVNULL)
    say(
        "starting up, writing and proving a small file, by the clock",
        f"{(time.perf_counter() - start) / RUNS:.2f} s",
        "< 1.5 s",
    )
    shutil.rmtree(out)


def proofs(room: Path) -> None:
    """What a delivery with its proof takes, by the command, less the start: beside copying the file to the disk, and
    beside a plain script that proves nothing.
    """
    small, large, out, copy = room / "small.wav", room / "large.wav", room / "out", room / "copy"
    sides = {source: [str(part) for part in parts(source)] for source in (small, large)}

    def clear() -> None:
        shutil.rmtree(out, ignore_errors=True)

    def ours(*turn: str) -> float:
        spent = []
        for source in (large, small):
            given = sides[source] if turn[0] == "merge" else [source]
            command = (COMMAND, "apply", turn[0], *given, *turn[1:], "--out", out)
            spent.append(processor_seconds(*command, before=clear, runs=3))
        return spent[0] - spent[1]

    copied = processor_seconds("sh", "-c", f"cp {large} {copy} && sync {copy}")
    plain, _ = compared("plain-split", "our-split", room, small, large)
    plain_encode, _ = compared("plain-encode", "our-encode", room, small, large)
    for turn in ("split", "merge", "swap"):
        took = ours(turn)
        say(f"{turn} with proof / cp and fsync", f"{took:.2f}/{copied:.2f} = {took / copied:.1f}×", "≤ 5×")
        say(f"{turn} with proof / plain split", f"{took / plain:.2f}×", "≤ 0.30×")
    took = ours("encode", "--depth", "24")
    say("encode at 24 bit, dither and proof / plain encode", f"{took / plain_encode:.2f}×", "≤ 0.45×")
    took = ours("encode")
    say("encode with its extra bit and proof / plain encode", f"{took / plain_encode:.2f}×", "≤ 0.60×")
    took = ours("centre", "--set", "method=wedge")
    say("wedge, one result at 24 bit, with proof / plain split", f"{took / plain:.2f}×", "≤ 2.5×")
    clear()
    copy.unlink()


def formats(room: Path) -> None:
    """A FLAC with its proof, the WAV before it included, against libsndfile encoding and decoding alone."""
    large, small = room / "notes.wav", room / "notes-small.wav"
    material.write_notes(large, 3 * 60 * 48_000)
    material.write_notes(small, 1_000)
    plain, ours = compared("plain-flac", "our-flac", room, small, large)
    say("FLAC of 3 min 24-bit stereo with proof / encoding and decoding alone", f"{ours / plain:.2f}×", "≤ 1.3×")


def parts(source: Path) -> list[Path]:
    """The sides of a file, as files."""
    folder = source.with_suffix("")
    if not folder.exists():
        subprocess.run([COMMAND, "apply", "split", source, "--out", folder], check=True, stdout=subprocess.DEVNULL)
    return sorted(folder.glob("*.wav"))


def measures(room: Path) -> None:
    """All findings and levels of a file against reading it with soundfile."""
    for kind, write in (
        ("noise, its true peak sought everywhere", material.write_noise),
        ("notes", material.write_notes),
    ):
        large, small = room / "measured.wav", room / "measured-small.wav"
        write(large, MINUTES * 60 * 48_000)
        write(small, 1_000)
        reading, surveying = compared("read", "survey", room, small, large)
        say(
            f"all measures of {MINUTES} min 24-bit stereo / soundfile.read ({kind})",
            f"{surveying:.2f}/{reading:.2f} = {surveying / reading:.2f}×",
            "≤ 1.5×",
        )
    start = time.perf_counter()
    subprocess.run([COMMAND, "inspect", large, "--json"], check=True, stdout=subprocess.DEVNULL)
    one = time.perf_counter() - start
    second = shutil.copy(large, room / "other.wav")
    start = time.perf_counter()
    subprocess.run([COMMAND, "inspect", large, second, "--json"], check=True, stdout=subprocess.DEVNULL)
    say("two files measured at once / one of them", f"{(time.perf_counter() - start) / one:.2f}×", "< 2× on two cores")


def many_files(room: Path) -> None:
    """Actions on a job of 500 files of 10 s."""
    took = probes.many_files(room / "many-data", room / "many")
    say("500 files of 10 s taken in and measured", f"{took['taken']:.0f} s", "< 60 s")
    say("250 merges added, or undone, at once, median", f"{took['action'] * 1000:.0f} ms", "< 200 ms")
    say("a read of a job waits for another that is under way", f"{took['wait'] * 1000:.1f} ms", "< 20 ms")


def pictures(room: Path) -> None:
    """Waveform and correlation of 1 GiB against copying it."""
    large = room / "gib.wav"
    material.write_noise(large, 2**30 // 6)
    small = room / "small.wav"
    copy = (sys.executable, "-m", "bench.probes", "copy")
    draw = (sys.executable, "-m", "bench.probes", "pictures")
    copied = processor_seconds(*copy, large, room / "copy") - processor_seconds(*copy, small, room / "copy")

    def clear() -> None:
        shutil.rmtree(room / "pictures", ignore_errors=True)

    drawn = processor_seconds(*draw, large, room / "pictures", before=clear)
    drawn -= processor_seconds(*draw, small, room / "pictures", before=clear)
    say("pictures of 1 GiB 24-bit stereo / copying it", f"{drawn:.2f}/{copied:.2f} = {drawn / copied:.1f}×", "≤ 5×")
    large.unlink()
    (room / "copy").unlink()


def memory(room: Path) -> None:
    """Peak memory of split, pictures and upload for a sparse RF64 of 5 GiB."""
    form = Form(channels=2, frames=5 * 2**30 // 6, rate=48_000, encoding="s24")
    sparse = room / "sparse.wav"
    with sparse.open("wb") as file:
        file.write(build_header(form))
        file.truncate(file.tell() + form.frames * 6)
    out = room / "sparse-out"
    for what, command in (
        ("split", (COMMAND, "apply", "split", sparse, "--out", out)),
        ("pictures", (sys.executable, "-m", "bench.probes", "pictures", sparse, room / "sparse-pictures")),
        ("upload, with its pictures", (sys.executable, "-m", "bench.probes", "upload", sparse, room / "sparse-data")),
    ):
        measured = subprocess.run(
            [sys.executable, "-m", "bench.probes", "peak", *map(str, command)],
            check=True,
            capture_output=True,
            text=True,
        )
        say(f"peak memory, {what} of 5 GiB RF64", f"{int(measured.stdout.split()[-1]) / 1000:.0f} MB", "< 300 MB")
        for folder in (out, room / "sparse-data"):
            shutil.rmtree(folder, ignore_errors=True)


def chains(room: Path) -> None:
    """Five turns in a row are one mix."""
    large = room / "large.wav"
    material.write_noise(large, MINUTES * 60 * 48_000)
    took = probes.chain_times(str(large), str(room))
    ratio = took["five"] / took["one"]
    say("five turns delivered / one of them", f"{took['five']:.2f}/{took['one']:.2f} = {ratio:.2f}×", "≤ 1.1×")


def wedge(room: Path) -> None:
    """The wedge against scipy's transforms alone, and a whole delivery of it with its proof."""
    ours, theirs = probes.wedge_rates()
    say("wedge / scipy's transforms alone, one core", f"{ours:.0f}/{theirs:.0f} = {ours / theirs:.1f}×", "≥ 1×")
    large, small, out = room / "notes.wav", room / "short.wav", room / "centre-out"
    material.write_notes(large, MINUTES * 60 * 48_000)
    material.write_notes(small, 1_000)
    ours_on = (COMMAND, "apply", "centre", "--set", "method=wedge", "--set", "keep=both", "--out", out)

    def clear() -> None:
        shutil.rmtree(out, ignore_errors=True)

    spent = processor_seconds(*ours_on, large, before=clear, runs=1)
    spent -= processor_seconds(*ours_on, small, before=clear, runs=1)
    say("wedge, files and proof included, of processor time", f"{MINUTES * 60 / spent:.0f}× real time", "≥ 60×")
    clear()
    start = time.perf_counter()
    subprocess.run([*map(str, ours_on), large], check=True, stdout=subprocess.DEVNULL)
    say("the same by the clock", f"{MINUTES * 60 / (time.perf_counter() - start):.0f}× real time", "–")
    clear()


def answers(room: Path) -> None:
    """Answers over HTTP on this machine."""
    took = {what: 1000 * seconds for what, seconds in probes.answer_times(room / "api-data", room).items()}
    say("2 s of a derived clip from the API, median", f"{took['merged']:.1f} ms", "< 25 ms")
    say("0.5 s of five turns from the API, median", f"{took['five turns']:.1f} ms", "< 20 ms")
    say("2 s of the wedge from the API, median", f"{took['wedge']:.1f} ms", "< 60 ms")
    say("map of 30 s from the API, median", f"{took['map']:.0f} ms", "< 300 ms")


def hashes() -> None:
    """The hash that content is kept under."""
    blake, sha = probes.hash_rates(os.urandom(2**20))
    say("BLAKE3 / SHA-256", f"{blake / sha:.1f}×", "faster")


if __name__ == "__main__":
    np.seterr(all="raise")
    main()
