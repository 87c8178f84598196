"""Kernels are loaded when they are called: a process that calls none does without Numba."""

import subprocess
import sys

from wedge_turn.core.jit import kernel


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
    modules = "cli.serving", "cli.preparing", "cli.inspecting", "core.single"
    imports = "; ".join(f"import wedge_turn.{name}" for name in modules)
    late = "numba", "scipy.fft", "scipy.signal"
    code = f"import sys; {imports}; print([name for name in {late} if name in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_kernels_are_called_without_the_linear_algebra_of_scipy() -> None:
    calls = "import numpy, sys; from wedge_turn.core.audio.kernels import encode_s24"
    code = f"{calls}; encode_s24(numpy.zeros(8, 'i4'), numpy.zeros(24, 'u1')); print('scipy.linalg' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "False"
