"""Kernels are loaded when they are called: a process that calls none does without Numba."""

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile

from support.helpers import noise, read_ints, write_wav
from wedge_turn.core import jit
from wedge_turn.core.jit import NUMBA_BREAK_EVEN_BYTES, kernel, use_kernel


@kernel()
def doubled(value: float) -> float:
    return twice_of(value)


@kernel(inline="always")
def twice_of(value: float) -> float:
    return 2 * value


def test_a_kernel_gives_what_its_function_gives_and_calls_others() -> None:
    assert [doubled(n) for n in (1.5, -2.0)] == [3.0, -4.0]
    assert type(doubled).__module__.startswith("numba"), "it is the compiled one from the first call on"
    assert type(twice_of).__module__.startswith("numba")


def test_a_server_and_the_commands_start_without_numba_and_most_of_scipy() -> None:
    modules = "cli.serving", "cli.preparing", "cli.inspecting", "core.session"
    imports = "; ".join(f"import wedge_turn.{name}" for name in modules)
    late = "numba", "scipy.fft", "scipy.signal"
    code = f"import sys; {imports}; print([name for name in {late} if name in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_a_kernel_pays_once_one_was_called_or_numpy_was_given_much(monkeypatch: pytest.MonkeyPatch) -> None:
    for _ in range(2):
        monkeypatch.setattr(jit, "_use", jit._Use())
        assert not use_kernel(1)
        assert not use_kernel(NUMBA_BREAK_EVEN_BYTES - 1)
        assert use_kernel(1)
    monkeypatch.setattr(jit, "_use", jit._Use())
    assert not use_kernel(1)
    jit.Kernel(lambda value: value + 1, {})(1)
    assert use_kernel(1)


def test_others_have_their_turn_sooner_while_kernels_are_loaded_and_as_usual_afterwards() -> None:
    usual = sys.getswitchinterval()
    with jit.shorten_switch_interval():
        assert sys.getswitchinterval() < usual / 50
    assert sys.getswitchinterval() == usual


SPLIT = """
import sys
from pathlib import Path
import wedge_turn.core.delivery.procedure as deliver, wedge_turn.core.session as session
from wedge_turn.core.delivery.order import Order
from wedge_turn.core.turns import Split
from wedge_turn.core.worksheet import plan_turn
if sys.argv[1] == "without":
    sys.modules["numba"] = None
else:
    deliver.NUMBA_BREAK_EVEN_BYTES = 0
turn = lambda infos: plan_turn(Split(), infos)
manifest = session.turn_files([*map(Path, sys.argv[3:])], turn, Path(sys.argv[2]), Order, lambda _: None)
print("numba" in sys.modules, all(proof.proof.exact for proof in manifest.proofs))
"""


@pytest.mark.parametrize("numba", ["without", "with"])
def test_a_few_files_are_split_without_numba_and_many_with_it(numba: str, tmp_path: Path) -> None:
    """Read by soundfile, the sides are those of the sources."""
    takes = [write_wav(tmp_path / f"{n}.wav", noise(n, 48_000 + n, 2)) for n in range(3)]
    command = [sys.executable, "-c", SPLIT, numba, str(tmp_path / "out"), *map(str, takes)]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["True", "True"]  # a module that must not be loaded is None there
    for take in takes:
        sides = [read_ints(tmp_path / "out" / f"{take.stem}_{side}.wav") for side in "LR"]
        assert np.array_equal(np.hstack(sides), soundfile.read(take, dtype="int32", always_2d=True)[0] >> 8)


def test_kernels_are_called_without_the_linear_algebra_of_scipy() -> None:
    calls = "import numpy, sys; from wedge_turn.core.audio.kernels import encode_s24"
    code = f"{calls}; encode_s24(numpy.zeros(8, 'i4'), numpy.zeros(24, 'u1')); print('scipy.linalg' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "False"
