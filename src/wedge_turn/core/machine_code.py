"""What Numba has compiled, without Numba.

Loading Numba takes more than a second, most of it for the types of all of NumPy; running machine code needs none of
that. So `store` keeps the code of a module `kernels` in a file beside it, and a `Kernels`, which its neighbour `loops`
offers, runs it from there by llvmlite alone, in a tenth of the time. Where there is no such file, or it is of another
source, compiler or processor, or an argument is of a type that it was not compiled for, Numba itself is loaded as ever.

A kernel of this kind does not allocate, and gives back nothing, a number, or a tuple of numbers. It is called as Numba
calls it [1]: a status comes back, the first two arguments are places for the result and for an exception, and an array
is passed as its owner, its parent, how many items of how many bytes, where they lie, its shape and strides [2]. So many
arguments take long to pass from Python; each kernel gets an entry that takes them from a row of eight bytes each.

1. `CPUCallConv` in numba/core/callconv.py of Numba 0.68.
2. `ArrayModel` in numba/core/datamodel/models.py, `ArrayStruct`'s members.
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
from numpy.typing import NDArray
from xxhash import xxh3_64_hexdigest

Kernel = Callable[..., Any]
# The types of arguments by their letters in NumPy, with which `struct` agrees, and what they are to LLVM.
_NUMBERS: Final = {bool: "?", int: "l", float: "d"}
_PASSED: Final = {"?": "i8", "l": "i64", "L": "i64", "d": "double"}
_ENTRY: Final = ctypes.CFUNCTYPE(ctypes.c_int32, ctypes.c_char_p, ctypes.c_void_p)
_PLACE: Final[Any] = ctypes.c_char * 0
_LOADING: Final = threading.Lock()


def is_kept(module: str) -> bool:
    """Whether there is machine code of this module as it is, for the processor at hand."""
    return _path(module).exists()


def store(module: ModuleType) -> None:
    """Keep the machine code of all kernels of a module, for the types that they have been called with."""
    from numba import jit, types
    from numba.np.numpy_support import as_dtype

    def letter(kind: Any) -> str:
        return f"{as_dtype(kind.dtype).char}{kind.ndim}" if isinstance(kind, types.Array) else as_dtype(kind).char

    results: dict[str, str] = {}
    code = llvm.parse_assembly("")
    for name, kernel in vars(module).items():
        for arguments, compiled in getattr(kernel, "overloads", {}).items():
            # Once more, because what comes out of Numba's cache cannot be looked into; and without what calls Python.
            options = kernel.targetoptions | {"no_cpython_wrapper": True, "no_cfunc_wrapper": True, "_nrt": False}
            alone = jit(compiled.signature, **options)(kernel.py_func)
            letters = [letter(argument) for argument in arguments]
            form = ",".join([name, *letters])
            entry = _entry(form, alone.overloads[arguments].fndesc.llvm_func_name, letters)
            for part in (alone.inspect_llvm(arguments), entry):
                code.link_in(llvm.parse_assembly(part))
            result = compiled.signature.return_type
            results[form] = "" if result == types.none else "".join(map(letter, getattr(result, "types", (result,))))
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
        forms = _stored(self._module)

        def kernel(*arguments: Any) -> Any:
            form = forms.get(name + "," + ",".join(map(_letter, arguments)))
            if form is None:
                return getattr(importlib.import_module(self._module), name)(*arguments)
            return form(arguments)

        setattr(self, name, kernel)
        return kernel


def _stored(module: str) -> dict[str, Callable[[Sequence[Any]], Any]]:
    """What is kept for a module, by the names of kernels and the letters of their arguments."""
    with _LOADING:
        return _loaded(module)


@cache
def _loaded(module: str) -> dict[str, Callable[[Sequence[Any]], Any]]:
    try:
        described, _, code = _path(module).read_bytes().partition(b"\n")
    except OSError:
        return {}
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _target())
    engine.add_object_file(llvm.ObjectFileRef.from_data(code))
    engine.finalize_object()
    return {form: _called(engine, form, result) for form, result in json.loads(described).items()}


def _entry(form: str, symbol: str, letters: Sequence[str]) -> str:
    """A function that calls a kernel with what it finds in a row, in LLVM's language."""
    taken: list[str] = []
    kinds, passed = ["ptr", "ptr"], ["ptr %result", "ptr %raised"]
    for letter in letters:
        if len(letter) == 1:
            here = [_PASSED[letter]]
        else:
            here = ["i64", "i64", "ptr", *["i64"] * (2 * int(letter[1:]))]
            kinds += ["ptr", "ptr"]
            passed += ["ptr null", "ptr null"]
        for kind in here:
            n = len(taken)
            taken.append(f"%p{n} = getelementptr i64, ptr %row, i64 {n}\n%v{n} = load {kind}, ptr %p{n}")
            kinds.append(kind)
            passed.append(f"{kind} %v{n}")
    return f"""
        declare i32 @"{symbol}"({", ".join(kinds)})
        define i32 @"{form}"(ptr %row, ptr %result) {{
            %raised = alloca ptr
            {chr(10).join(taken)}
            %status = call i32 @"{symbol}"({", ".join(passed)})
            ret i32 %status
        }}
    """


def _called(engine: Any, form: str, result: str) -> Callable[[Sequence[Any]], Any]:
    """A kernel as a function of its arguments in a row; keeps the engine that holds its code."""
    native = _ENTRY(engine.get_function_address(form))
    rows = [f"{3 + 2 * int(letter[1:])}q" if len(letter) > 1 else letter for letter in form.split(",")[1:]]
    row = struct.Struct("".join(rows).replace("?", "?7x"))
    size = max(8, struct.calcsize(result))

    def call(arguments: Sequence[Any], _engine: Any = engine) -> Any:
        flat: list[Any] = []
        for argument in arguments:
            if isinstance(argument, np.ndarray):
                flat += (argument.size, argument.itemsize, _place(argument), *argument.shape, *argument.strides)
            else:
                flat.append(argument)
        found = ctypes.create_string_buffer(size)
        status = native(row.pack(*flat), found)
        if status:
            raise RuntimeError(f"{form} ended with status {status}")
        values = struct.unpack_from(result, found)
        return values if len(values) > 1 else values[0] if values else None

    return call


def _place(array: NDArray[Any]) -> int:
    """Where an array lies; three times as quick as asking NumPy, which is left to arrays that are read only."""
    try:
        return ctypes.addressof(_PLACE.from_buffer(array))
    except TypeError:
        place: int = array.ctypes.data
        return place


def _letter(argument: Any) -> str:
    """The type of an argument in letters; of an array that does not lie in one piece, one that nothing is kept for."""
    if isinstance(argument, np.ndarray):
        return f"{argument.dtype.char}{argument.ndim}" if argument.flags.c_contiguous else "spread"
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
    made_of = llvmlite.__version__, llvm.get_host_cpu_name(), llvm.get_host_cpu_features().flatten()
    code = b"".join(path.read_bytes() for path in (source, source.with_name("loops.py"), Path(__file__)))
    tag = xxh3_64_hexdigest(code + repr(made_of).encode())
    return source.parent / "__pycache__" / f"{source.stem}.{tag}.machine-code"
