"""Kernels run from kept machine code: the same results as Numba's, without Numba; and Numba where that is not so."""

import importlib
import subprocess
import sys
from collections.abc import Callable
from types import ModuleType
from typing import Any

import numpy as np
import pytest
from numba import njit

from wedge_turn.core import machine_code
from wedge_turn.core.audio import kernels
from wedge_turn.core.audio.loops import loops
from wedge_turn.core.centre import kernels as centre_kernels
from wedge_turn.core.centre.loops import loops as centre_loops
from wedge_turn.core.measure import kernels as measure_kernels
from wedge_turn.core.measure.loops import COLUMNS, SEGMENT, TAPS
from wedge_turn.core.measure.loops import loops as measure_loops

DECODE = """
import sys
import numpy as np
from llvmlite import binding
if {elsewhere}:
    binding.get_host_cpu_name = lambda: "another"
from wedge_turn.core.audio.encoding import ENCODINGS
from wedge_turn.core.audio.pcm import decode, encode
raw = np.random.default_rng(1).integers(0, 256, 3 * 1001, np.uint8)
again, clipped = encode(decode(raw, ENCODINGS["s24"], 1), ENCODINGS["s24"])
print("numba" in sys.modules, bytes(again) == bytes(raw), clipped.tolist())
"""


@pytest.mark.parametrize("elsewhere", [False, True])
def test_numba_is_loaded_only_where_its_machine_code_is_not_kept_for_this_processor(elsewhere: bool) -> None:
    script = DECODE.format(elsewhere=elsewhere)
    printed = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    assert printed.stdout.split(maxsplit=2) == [str(elsewhere), "True", "[0]\n"]


def _arguments(name: str) -> list[list[Any]]:
    """Arguments of a kernel, as many rows as forms; arrays that it writes to are among them."""
    rng = np.random.default_rng(7)
    words, side, other = (rng.integers(0, 2**63, n, np.uint64) for n in (60, 30, 30))
    integers = rng.integers(-(2**23), 2**23, 1_000, np.int32)
    clipped, seed = np.zeros(2, np.int64), np.uint64(2**64 - 5)
    frames_of_24_bits, tile = words[24:48], np.zeros(32, np.int32)
    as_integers = np.zeros(64, np.int32)
    kernels.words_to_integers(frames_of_24_bits, as_integers, 1)
    limits = -(2.0**23), 2.0**23 - 1
    same = np.concatenate([side, other])
    spectra = [(rng.normal(size=(6, 9)) + 1j * rng.normal(size=(6, 9))).astype(np.complex64) for _ in range(2)]
    energies = [np.empty((6, 9), np.float32) for _ in range(4)]
    centre_kernels.energies(spectra[0], spectra[1], *energies)
    wave, window, band = (rng.normal(size=n).astype(np.float32) for n in (60, 12, 9))
    kernels.stereo_of_sides_s24(side, other, same)
    block, phases = rng.uniform(-1.1, 1.1, (500, 2)), rng.normal(size=(3, TAPS)).astype(np.float32)
    heard, outer = rng.normal(size=300).astype(np.float32), np.abs(np.delete(phases, np.s_[8:16], axis=1)).sum(axis=1)
    crossed = [np.zeros((2, 9)), *np.zeros((2, 9), np.complex128)]
    arguments: dict[str, list[list[Any]]] = {
        "sides_of_stereo_s24": [[words, side, other]],
        "stereo_of_sides_s24": [[side, other, words]],
        "is_stereo_of_sides_s24": [[side, other, words], [side, other, same]],
        "words_to_integers": [[words, np.zeros(160), 2.0**-23], [words, np.zeros(160, np.int32), 1]],
        "bytes_to_integers": [
            [words.view(np.uint8), 3, np.zeros(99), 0.5], [words.view(np.uint8), 0, np.zeros(99, np.int32), 1],
        ],
        "encode_s24": [[integers, np.zeros(3_000, np.uint8)]],
        "quantise": [
            [rng.uniform(-1.1, 1.1, 1_000), 2.0**23, dithered, seed, 9, integers, clipped] for dithered in (False, True)
        ],
        "mix_integers": [
            [integers, matrix, *limits, dithered, seed, 9, np.zeros(500 * len(matrix), np.int32), clipped]
            for dithered in (False, True)
            for matrix in (np.array([[0.5, 0.9], [1.2, -0.5]]), np.array([[1.5, -0.7]]))
        ],
        "apart_from_mix": [
            [integers, np.eye(2), integers], [integers, np.array([[0.0, 1.0], [1.0, 0.0]]), integers],
        ],
        "mix_s24": [
            [frames_of_24_bits, matrix, *limits, dithered, seed, 9, tile, np.zeros(64, np.int32), clipped]
            for dithered in (False, True)
            for matrix in (np.array([[0.5, 0.9], [1.2, -0.5]]), np.eye(2))
        ],
        "apart_from_mix_s24": [
            [values, np.eye(2), frames_of_24_bits, tile] for values in (integers[:64], as_integers)
        ],
        "measure_bins": [[block, 64, np.zeros((8, 7), np.float32)]],
        "two_columns": [[block, 0, 1, rng.uniform(-0.5, 0.5, 7), np.zeros((2, 4)), 90, 200, np.zeros((4, COLUMNS))]],
        "full_scale_runs": [[block, 1, -0.4, 0.4, 3, np.zeros(4, np.int64)]],
        "column_after": [[np.arange(TAPS - 1, dtype=np.float32), block, 1, np.zeros(500 + TAPS - 1, np.float32)]],
        "highest_between": [
            [heard, phases, outer, 9.0, highest, np.zeros(SEGMENT, np.float32)] for highest in (0.0, 7.0, 99.0)
        ],
        "cross_spectrum": [[*spectra, *crossed]],
        "directions": [[*spectra, 1, np.zeros(36)]],
        "paint_map": [[*spectra, np.array([-1, 0, 0, 1, 1, 2, 2, 2, 2]), np.zeros((3, 5))]],
        "energies": [[*spectra, *energies]],
        "extract": [
            [*spectra, *energies, np.abs(band), strength, 1.2, 0.9, *np.zeros((2, 4, 9), np.complex64)]
            for strength in (0.7, 1.5)
        ],
        "windowed_frames": [[wave, 6, window, np.zeros((8, 12), np.float32)]],
        "overlap_add": [[wave.reshape(5, 12), 6, window, 9, np.zeros(30, np.float32)]],
        "layer": [
            [energies[1], wave[:18].reshape(6, 3), window[:3], rectified, np.zeros((3, 9), np.float32)]
            for rectified in (False, True)
        ],
    }  # fmt: skip
    return arguments[name]


def _names(module: ModuleType) -> list[str]:
    return [name for name, kernel in vars(module).items() if hasattr(kernel, "py_func") and not name.startswith("_")]


@pytest.mark.parametrize(
    ("kept", "compiled", "name"),
    [
        (kept, compiled, name)
        for kept, compiled in ((loops, kernels), (measure_loops, measure_kernels), (centre_loops, centre_kernels))
        for name in _names(compiled)
    ],
)
def test_every_kernel_gives_what_numba_gives(
    kept: Any, compiled: ModuleType, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    def results(kernel: Callable[..., Any], given: list[list[Any]]) -> list[Any]:
        found = []
        for arguments in given:
            returned = kernel(*arguments)
            found.append((returned, type(returned), [a.tolist() for a in arguments if isinstance(a, np.ndarray)]))
        return found

    once, again = _arguments(name), _arguments(name)  # they are written to
    with monkeypatch.context() as alone:
        alone.delattr(importlib, "import_module")  # so that it cannot be left to Numba
        found = results(getattr(kept, name), once)
    assert found == results(getattr(compiled, name), again)


def test_an_array_that_does_not_lie_in_one_piece_is_left_to_numba() -> None:
    values, raw = np.arange(16, dtype=np.int32), np.zeros(24, np.uint8)
    loops.encode_s24(values[::2], raw)
    assert raw.reshape(-1, 3)[:, 0].tolist() == list(range(0, 16, 2))


def test_a_kernel_that_cannot_do_without_numba_is_not_kept() -> None:
    @njit
    def first_of_a_row(square: np.ndarray) -> float:
        first: float = square.reshape(-1)[0]
        return first

    first_of_a_row(np.eye(2))
    module = ModuleType("kernels")
    module.__dict__["first_of_a_row"] = first_of_a_row
    with pytest.raises(ValueError, match="reshape, which only Numba has"):
        machine_code.store(module)
