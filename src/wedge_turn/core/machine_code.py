"""What Numba has compiled, without Numba.

Loading Numba takes more than a second, most of it for the types of all of NumPy; running machine code needs none of
that. So `store` keeps the code of a module `kernels` in a file beside it, and a `Kernels`, which its neighbour `loops`
offers, runs it from there by llvmlite alone, in a tenth of the time. Where there is no such file, or it is of another
source, compiler or processor, or an argument is of a type that it was not compiled for, Numba itself is loaded as ever.

A kernel of this kind does not allocate, and gives back nothing, a number, or a tuple of numbers. It is called as Numba
calls it [1]: a status comes back, the first two arguments are places for the result and for an exception, and an array
is passed as its owner, its parent, how many items of how many bytes, where they lie, its shape and strides [2]. So many
arguments take long to pass from Python: each kernel gets an entry that finds them in NumPy's own description [3].

1. `CPUCallConv` in numba/core/callconv.py of Numba 0.68.
2. `ArrayModel` in numba/core/datamodel/models.py.
3. `PyArrayObject` in the reference of NumPy's C API: behind what every object has lie `data`, `nd`, `dimensions` and
   `strides`, in eight bytes each.
"""

import ctypes
import importlib.util
import json
import os
import struct
import threading
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from types import ModuleType
from typing import Any, Final

import llvmlite
import numpy as np
from llvmlite import binding as llvm
from xxhash import xxh3_64_hexdigest

Kernel = Callable[..., Any]
# The types of numbers by their letters in NumPy, with which `struct` agrees: in Python, to LLVM, and to be passed.
_NUMBERS: Final = {bool: "?", int: "l", float: "d"}
_PASSED: Final[dict[str, tuple[str, Any]]] = {
    "?": ("i8", ctypes.c_bool),
    "l": ("i64", ctypes.c_int64),
    "L": ("i64", ctypes.c_uint64),
    "d": ("double", ctypes.c_double),
}
_DESCRIBED: Final = [object.__basicsize__ + place for place in (0, 16, 24)]
_AXES: Final = tuple(map(str, range(65)))  # as many as NumPy allows
_LOADING: Final = threading.Lock()


def is_kept(module: str) -> bool:
    """Whether there is machine code of this module as it is, for the processor at hand."""
    return _path(module).exists()


def store(module: ModuleType) -> None:
    """Keep the machine code of all kernels of a module, for the types that they have been called with.

    Raises ValueError for a kernel that cannot be run alone, OSError where the file cannot be written.
    """
    from numba import jit, types
    from numba.np.numpy_support import as_dtype

    def letter(kind: Any) -> str:
        return f"{as_dtype(kind.dtype).char}{kind.ndim}" if isinstance(kind, types.Array) else as_dtype(kind).char

    results: dict[str, str] = {}
    # Kernels own nothing that could be given back, but where one calls another, Numba makes ready for it.
    code = llvm.parse_assembly("define void @NRT_MemInfo_call_dtor(ptr %owner) { ret void }")
    for name, kernel in vars(module).items():
        for arguments, compiled in getattr(kernel, "overloads", {}).items():
            letters = [letter(argument) for argument in arguments]
            form = ",".join([name, *letters])
            if form in results:
                continue  # compiled again for a number that is known
            # Once more, because what comes out of Numba's cache cannot be looked into; and without what calls Python.
            options = kernel.targetoptions | {"no_cpython_wrapper": True, "no_cfunc_wrapper": True, "_nrt": False}
            alone = jit(compiled.signature, **options)(kernel.py_func)
            entry = _entry(form, alone.overloads[arguments].fndesc.llvm_func_name, letters)
            for part in (alone.inspect_llvm(arguments), entry):
                code.link_in(llvm.parse_assembly(part))
            result = compiled.signature.return_type
            results[form] = "" if result == types.none else "".join(map(letter, getattr(result, "types", (result,))))
    system = ctypes.CDLL(None)
    for function in code.functions:
        if function.is_declaration and not function.name.startswith("llvm.") and not hasattr(system, function.name):
            raise ValueError(f"kernels of {module.__name__} need {function.name}, which only Numba has")
    path = _path(module.__name__)
    path.parent.mkdir(exist_ok=True)
    for old in path.parent.glob(f"{path.name.partition('.')[0]}.*{path.suffix}"):
        old.unlink(missing_ok=True)
    written = path.with_suffix(f".{os.getpid()}")
    written.write_bytes(json.dumps(results).encode() + b"\n" + _target().emit_object(code))
    written.replace(path)


class Kernels:
    """The kernels of a module by their names, as attributes."""

    def __init__(self, module: str) -> None:
        self._module = module

    def __getattr__(self, name: str) -> Kernel:
        if name.startswith("_"):
            raise AttributeError(name)
        forms = _stored(self._module).get(name, {})

        def kernel(*arguments: Any) -> Any:
            form = forms.get(tuple(map(_letter, arguments)))
            if form is None:
                return getattr(importlib.import_module(self._module), name)(*arguments)
            return form(*arguments)

        setattr(self, name, kernel)
        return kernel


def _stored(module: str) -> dict[str, dict[tuple[str, ...], Kernel]]:
    """What is kept for a module, by the names of kernels and the letters of their arguments."""
    with _LOADING:
        return _loaded(module)


@cache
def _loaded(module: str) -> dict[str, dict[tuple[str, ...], Kernel]]:
    try:
        described, _, code = _path(module).read_bytes().partition(b"\n")
    except OSError:
        return {}
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _target())
    engine.add_object_file(llvm.ObjectFileRef.from_data(code))
    engine.finalize_object()
    kernels: dict[str, dict[tuple[str, ...], Kernel]] = {}
    for form, result in json.loads(described).items():
        name, *letters = form.split(",")
        kernels.setdefault(name, {})[tuple(letters)] = _called(engine, form, letters, result)
    return kernels


def _entry(form: str, symbol: str, letters: Sequence[str]) -> str:
    """A function, in LLVM's words, that calls a kernel with numbers as they are and arrays as NumPy describes them."""
    lines: list[str] = []
    given, kinds, passed = ["ptr %result"], ["ptr", "ptr"], ["ptr %result", "ptr %raised"]

    def load(name: str, kind: str, base: str, offset: int) -> str:
        lines.append(f"%{name}.at = getelementptr i8, ptr %{base}, i64 {offset}")
        lines.append(f"%{name} = load {kind}, ptr %{name}.at")
        return f"{kind} %{name}"

    for n, letter in enumerate(letters):
        if len(letter) == 1:
            here = [f"{_PASSED[letter][0]} %a{n}"]
            given += here
        else:
            given.append(f"ptr %a{n}")
            fields = zip(("data", "shape", "strides"), _DESCRIBED, strict=True)
            data, *_ = [load(f"a{n}.{field}", "ptr", f"a{n}", offset) for field, offset in fields]
            axes = range(int(letter[1:]))
            lengths = [load(f"a{n}.shape.{axis}", "i64", f"a{n}.shape", 8 * axis) for axis in axes]
            steps = [load(f"a{n}.strides.{axis}", "i64", f"a{n}.strides", 8 * axis) for axis in axes]
            lines.append(f"%a{n}.0 = add i64 1, 0")
            lines += [f"%a{n}.{axis + 1} = mul {lengths[axis]}, %a{n}.{axis}" for axis in axes]
            bytes_each = np.dtype(letter[0]).itemsize
            here = ["ptr null", "ptr null", f"i64 %a{n}.{len(axes)}", f"i64 {bytes_each}", data, *lengths, *steps]
        kinds += [argument.partition(" ")[0] for argument in here]
        passed += here
    return f"""
        declare i32 @"{symbol}"({", ".join(kinds)})
        define i32 @"{form}"({", ".join(given)}) {{
            %raised = alloca ptr
            {chr(10).join(lines)}
            %status = call i32 @"{symbol}"({", ".join(passed)})
            ret i32 %status
        }}
    """


def _called(engine: Any, form: str, letters: Sequence[str], result: str) -> Kernel:
    """A kernel as a function; keeps the engine that holds its code."""
    passed = [ctypes.py_object if len(letter) > 1 else _PASSED[letter][1] for letter in letters]
    native = ctypes.CFUNCTYPE(ctypes.c_int32, ctypes.c_char_p, *passed)(engine.get_function_address(form))
    size = max(8, struct.calcsize(result))

    def call(*arguments: Any, _engine: Any = engine) -> Any:
        found = ctypes.create_string_buffer(size)
        status = native(found, *arguments)
        if status:
            raise RuntimeError(f"{form} ended with status {status}")
        values = struct.unpack_from(result, found)
        return values if len(values) > 1 else values[0] if values else None

    return call


def _letter(argument: Any) -> str:
    """The type of an argument in letters; of an array that does not lie in one piece, one that nothing is kept for."""
    if type(argument) is np.ndarray:
        return argument.dtype.char + _AXES[argument.ndim] if argument.flags.c_contiguous else "spread"
    return argument.dtype.char if isinstance(argument, np.generic) else _NUMBERS.get(type(argument), "other")


def _target() -> Any:
    """What compiles for the processor at hand; an engine takes it over, so that each needs its own."""
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=llvm.get_host_cpu_name(), features=llvm.get_host_cpu_features().flatten(), opt=3, jit=True
    )


def _path(module: str) -> Path:
    """Where the code of a module is kept: named by all that it depends on: three files and this machine."""
    spec = importlib.util.find_spec(module)
    if spec is None or spec.origin is None:
        raise ModuleNotFoundError(f"{module} has no file")
    source = Path(spec.origin)
    made_of = np.__version__, llvmlite.__version__, llvm.get_host_cpu_name(), llvm.get_host_cpu_features().flatten()
    code = b"".join(path.read_bytes() for path in (source, source.with_name("loops.py"), Path(__file__)))
    tag = xxh3_64_hexdigest(code + repr(made_of).encode())
    return source.parent / "__pycache__" / f"{source.stem}.{tag}.machine-code"
