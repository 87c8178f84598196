"""What writes is broken in one place after the other, for every turn and depth, at sizes at which the fast paths run
and at those at which they don't. A mutant is caught, or it has changed no byte of what is delivered.
"""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soxr

from support.helpers import example_engine, noise, write_wav
from wedge_turn.core.audio import WavFile, kernels, pcm, wavfile
from wedge_turn.core.clips import Engine
from wedge_turn.core.clips import engine as engines
from wedge_turn.core.delivery import MANIFEST, REPORT, DepthChoice, Order, deliver, mixing, rawblocks, writing
from wedge_turn.core.errors import Error, ProofFailedError
from wedge_turn.core.turns import DC, TURNS, Align, AnyTurn, Centre, ClipInfo, Fold, Level, Swap, hush, shifting
from wedge_turn.core.worksheet import Plan, Sheet, Step, Stretch, source_ref
from wedge_turn.proof import loops

Patch = pytest.MonkeyPatch
# Every depth is tried, each on one of both paths. 4,800 are whole groups of eight frames, which kernels move in words,
# 1,503 are not.
TRIED: dict[bool, list[tuple[DepthChoice, int]]] = {
    True: [("same", 4_800), ("same", 1_503), ("16", 4_800), ("float", 1_503)],
    False: [("24", 1_503), ("32", 1_503), ("same", 1_503)],
}


def _after(change: Callable[..., None]) -> Callable[[Any], Any]:
    """A function that does its work, and then something wrong with what it was given."""

    def broken(real: Any) -> Any:
        def mutant(*args: Any, **named: Any) -> Any:
            result = real(*args, **named)
            change(*args)
            return result

        return mutant

    return broken


def _result(change: Callable[[Any], Any]) -> Callable[[Any], Any]:
    """A function that gives something else."""

    def broken(real: Any) -> Any:
        return lambda *args, **named: change(real(*args, **named))

    return broken


def _flip(array: np.ndarray, place: int = -1) -> None:
    flat = array.reshape(-1).view(np.uint8)
    if flat.size:
        flat[place] ^= 1


def _swap(one: np.ndarray, two: np.ndarray) -> None:
    one[:], two[:] = two.copy(), one.copy()


def _lower(out: np.ndarray, scale: Any) -> None:
    """By a step, in place. What is behind the samples in a buffer may be anything."""
    with np.errstate(invalid="ignore"):
        np.subtract(out, scale, out=out, casting="unsafe")


def _bump(block: np.ndarray, by: float) -> np.ndarray:
    out = block.copy()
    if out.size:
        out[out.shape[0] // 2] += by
    return out


def _tap(**changes: Callable[[Any], Any]) -> Callable[[Any], Any]:
    """Taps with one of their numbers changed."""

    def wrong(taps: Any) -> Any:
        def changed(tap: Any) -> Any:
            return replace(tap, **{name: change(getattr(tap, name)) for name, change in changes.items()})

        return tuple(tuple(map(changed, channel)) for channel in taps)

    return _result(wrong)


# What the examples of turns don't have.
CASES: dict[str, tuple[AnyTurn, Stretch | None]] = {
    "align by fractions": (Align(delay=(0, 7.5)), None),
    "blend of two microphones": (Fold(take="blend", blend=0.3, delay=-2.25), None),
    "swap over a range": (Swap(), Stretch(start="400s", end="1100s", fade_ms=2)),
    "level over a range": (Level(gains_db=(-3.0,)), Stretch(start="400s", end="1100s", fade_ms=2)),
    "DC over a range": (DC(offset=(2.0,)), Stretch(start="400s", end="1100s", fade_ms=2)),
    "wedge": (Centre(method="wedge"), None),
    "difference": (Centre(method="difference", keep="both"), None),
}

# Where it is, what it is called, and how it is broken.
MUTANTS: dict[str, tuple[Any, str, Callable[[Any], Any]]] = {
    "sides change places": (kernels, "deinterleave_s24", _after(lambda _, left, right: _swap(left, right))),
    "a bit of a side": (kernels, "deinterleave_s24", _after(lambda _, left, __: _flip(left))),
    "sides go in the wrong way round": (
        kernels,
        "interleave_s24",
        lambda real: lambda left, right, out: real(right, left, out),
    ),
    "a bit of a stereo word": (kernels, "interleave_s24", _after(lambda _, __, out: _flip(out))),
    "words come out one lower": (
        kernels,
        "words_to_integers",
        _after(lambda _, out, scale: _lower(out, scale)),
    ),
    "bytes come out one lower": (
        kernels,
        "bytes_to_integers",
        _after(lambda _, __, out, scale: _lower(out, scale)),
    ),
    "the lowest bit is dropped": (
        kernels,
        "encode_s24",
        lambda real: lambda values, raw: real(values & ~np.int32(1), raw),
    ),
    "a mix is one step off": (
        kernels,
        "mix_integers",
        _after(lambda *args: args[7].__setitem__(args[7].size // 2, args[7][args[7].size // 2] + 1)),
    ),
    "a mix of words is one step off": (
        kernels,
        "mix_s24",
        _after(lambda *args: args[8].__setitem__(args[8].size // 2, args[8][args[8].size // 2] + 1)),
    ),
    "the noise of a mix starts a frame late": (
        kernels,
        "mix_integers",
        lambda real: lambda *args: real(*args[:6], args[6] + 1, *args[7:]),
    ),
    "a sample is quantised one step off": (
        kernels,
        "quantise",
        _after(lambda *args: args[6].__setitem__(args[6].size // 3, args[6][args[6].size // 3] + 1)),
    ),
    "the noise of a sample starts a frame late": (
        kernels,
        "quantise",
        lambda real: (
            lambda values, scale, dithered, sparing, seed, start, *rest: real(
                values, scale, dithered, sparing, seed, start + 1, *rest
            )
        ),
    ),
    "nothing is dithered": (
        kernels,
        "quantise",
        lambda real: lambda values, scale, _, *rest: real(values, scale, False, *rest),
    ),
    "everything is dithered": (
        kernels,
        "quantise",
        lambda real: lambda values, scale, dithered, _, *rest: real(values, scale, dithered, False, *rest),
    ),
    "clipped samples are not counted": (
        kernels,
        "quantise",
        _after(lambda *args: args[7].__setitem__(slice(None), 0)),
    ),
    "values are truncated": (
        kernels,
        "quantise",
        lambda real: lambda values, scale, *rest: real(np.floor(values * scale) / scale, scale, *rest),
    ),
    "a value is off by a part in a million": (pcm, "encode", lambda real: _encoding(real, 1 + 2.0**-20)),
    "a bit of an encoded block": (writing, "encode", _result(lambda made: (_flipped(made[0]), made[1]))),
    "a bit of moved bytes": (rawblocks.RawBlocks, "read", _result(lambda raw: _flipped(raw))),  # noqa: PLW0108
    "a bit of mixed bytes": (
        mixing.IntegerMix,
        "read",
        _result(lambda made: replace(made, raw=_flipped(made.raw))),
    ),
    "a mix by another gain": (mixing.IntegerMix, "read", lambda real: _with_gain(real)),  # noqa: PLW0108
    "taps a frame late": (engines, "map_sources", _tap(offset=lambda at: at + 1)),
    "taps a little louder": (engines, "map_sources", _tap(gain=lambda gain: gain * (1 + 2.0**-18))),
    "taps from the other channel": (engines, "map_sources", _tap(channel=lambda channel: channel ^ 1)),
    "taps that end early": (engines, "map_sources", _tap(stop=lambda stop: stop - 1)),
    "taps that start late": (engines, "map_sources", _tap(start=lambda start: start + 1)),
    "hushes end early": (hush.Hush, "span", _result(lambda span: (span[0], span[1] - 1))),
    "fractions of a sample come late": (shifting, "design_shift_taps", _result(lambda h: np.roll(h, 1))),
    "fractions of a sample by other taps": (shifting, "design_shift_taps", _result(lambda h: h * (1 + 2.0**-18))),
    "a sample late after resampling": (soxr, "resample", _result(lambda made: np.roll(made, 1, axis=0))),
    "a little louder after resampling": (soxr, "resample", _result(lambda made: made * (1 + 2.0**-14))),
    "channels change places in resampling": (soxr, "resample", _result(lambda made: made[:, ::-1])),
    "a wrong channel count": (
        wavfile,
        "_format_body",
        _result(lambda body: body[:2] + bytes([body[2] ^ 3]) + body[3:]),
    ),
    "a wrong rate": (wavfile, "_format_body", _result(lambda body: body[:4] + bytes([body[4] ^ 1]) + body[5:])),
    "no dither though it is told": (writing, "encode", lambda real: _without_dither(real)),  # noqa: PLW0108
}


def _flipped(raw: np.ndarray) -> np.ndarray:
    raw = raw.copy()
    _flip(raw, raw.size // 2)
    return raw


def _encoding(real: Any, gain: float) -> Any:
    return lambda block, *rest, **named: real(block * gain, *rest, **named)


def _without_dither(real: Any) -> Any:
    return lambda block, encoding, _=None, start=0, **named: real(block, encoding, None, start, **named)


def _with_gain(real: Any) -> Any:
    def mutant(self: mixing.IntegerMix, *args: Any) -> Any:
        matrix, self._matrix = self._matrix, self._matrix * (1 + 2.0**-18)
        try:
            return real(self, *args)
        finally:
            self._matrix = matrix

    return mutant


def _noting(name: str, called: set[str]) -> Callable[[Any], Any]:
    """A function that works, and notes that it was called."""

    def noting(real: Any) -> Any:
        def noted(*args: Any, **named: Any) -> Any:
            called.add(name)
            return real(*args, **named)

        return noted

    return noting


def _patch(patch: Patch, place: Any, what: str, how: Callable[[Any], Any]) -> None:
    real = getattr(place, what)
    patch.setattr(place, what, how(real))
    if place is pcm:
        patch.setattr(writing, what, how(real))


@contextmanager
def broken(name: str) -> Iterator[None]:
    place, what, how = MUTANTS[name]
    with Patch.context() as patch:
        _patch(patch, place, what, how)
        yield


@contextmanager
def fast_paths(*, on: bool) -> Iterator[None]:
    """Kernels for the smallest amount, in what writes and in what proves, or NumPy for all of it."""
    with Patch.context() as patch:
        patch.setattr(rawblocks, "use_kernel", lambda _size: on)
        patch.setattr(pcm, "use_kernel", lambda _size: on)
        if on:
            from wedge_turn.proof import kernels as compiled

            patch.setattr(loops._Use, "compiled", compiled)
        else:
            patch.setattr(loops._Use, "compiled", None)
            patch.setattr(loops, "NUMBA_BREAK_EVEN_SAMPLES", float("inf"))
        yield


def contents(folder: Path) -> dict[str, bytes]:
    return {p.name: p.read_bytes() for p in sorted(folder.rglob("*")) if p.name not in (MANIFEST, REPORT)}


def made(case: str, folder: Path, frames: int) -> Engine:
    """The example of a turn on noise at full scale, or one of the cases beside these."""
    if case in TURNS:
        return example_engine(case, folder, frames, headroom=0)
    turn, over = CASES[case]
    wav = WavFile(write_wav(folder / "0.wav", noise(0, frames, 2)))
    plan = Plan(steps=(Step(id="only", turn=turn, inputs=(source_ref("0"),), over=over),))
    return Engine(Sheet(plan, {"0": ClipInfo("a", wav.form)}), lambda _: wav)


class Trial:
    """A delivery as it should be, to be made once more with something broken."""

    def __init__(self, kind: str, depth: DepthChoice, frames: int, folder: Path) -> None:
        self._kind, self._frames, self._folder = kind, frames, folder
        (folder / "source").mkdir(parents=True)
        engine = self._made()
        self._order = Order(tuple(engine.sheet.list_ends()), depth)
        called: set[str] = set()
        with Patch.context() as patch:
            for name, (place, what, _) in MUTANTS.items():
                _patch(patch, place, what, _noting(name, called))
            deliver(engine, self._order, folder / "good")
        self._good = contents(folder / "good")
        # Whatever else is broken changes nothing: it is never called.
        self.mutants = [name for name in MUTANTS if name in called]

    def outcome(self, name: str) -> str:
        """What becomes of a mutant: it is caught and leaves nothing, fails before there is anything to catch and leaves
        nothing either, changes no byte, or is delivered.
        """
        engine, bad = self._made(), self._folder / "bad"
        with broken(name):
            try:
                deliver(engine, self._order, bad)
            except ProofFailedError:
                assert not bad.exists()
                return "caught"
            except (Error, ValueError, IndexError) as error:  # broken so much that it can't write at all
                assert not bad.exists()
                return f"fails: {type(error).__name__}"
        same = self._good == contents(bad)
        for path in bad.iterdir():
            path.unlink()
        bad.rmdir()
        return "no change" if same else "DELIVERED"

    def _made(self) -> Engine:
        return made(self._kind, self._folder / "source", self._frames)


@pytest.mark.parametrize("fast", [True, False], ids=["fast", "plain"])
@pytest.mark.parametrize("kind", [*TURNS, *CASES])
def test_no_mutant_is_delivered(kind: str, fast: bool, tmp_path: Path) -> None:
    table: dict[tuple[str, DepthChoice, int], str] = {}
    with fast_paths(on=fast):
        for depth, frames in TRIED[fast]:
            trial = Trial(kind, depth, frames, tmp_path / f"{depth}-{frames}")
            table |= {(name, depth, frames): trial.outcome(name) for name in trial.mutants}
    assert [key for key, what in table.items() if what == "DELIVERED"] == []
    assert "caught" in table.values()


def test_every_mutant_does_something(tmp_path: Path) -> None:
    """Or it would prove nothing that none of them is delivered."""
    seen: set[str] = set()
    for fast in (True, False):
        with fast_paths(on=fast):
            for kind, depth, frames in USED:
                trial = Trial(kind, depth, frames, tmp_path / f"{fast}-{kind}-{depth}-{frames}")
                seen |= {name for name in set(trial.mutants) - seen if trial.outcome(name) == "caught"}
    assert set(MUTANTS) - seen == set()


USED: Sequence[tuple[str, DepthChoice, int]] = [
    ("split", "same", 4_800),
    ("merge", "same", 4_800),
    ("encode", "24", 4_800),
    ("encode", "24", 1_503),
    ("encode", "16", 1_503),
    ("matrix", "24", 1_503),
    ("level", "24", 1_503),
    ("level", "16", 1_503),
    ("align by fractions", "24", 1_503),
    ("level", "16", 4_800),
    ("fold", "16", 4_800),
    ("width", "same", 4_800),
    ("resample", "24", 4_800),
]
