"""Products of matrices by one thread each.

Set in the library that numpy has loaded. threadpoolctl would look for it among all libraries of the process: that holds
the system's loader and then asks for Python's lock, which a thread that is importing something has while it waits for
the loader. A server hung that way.
"""

import ctypes
import importlib
from typing import Final

_NUMPYS_OWN: Final = "numpy._core._multiarray_umath"  # which brings it along
# As OpenBLAS is called in numpy's own wheels, in other builds, and as MKL is.
_SETTERS: Final = (
    "scipy_openblas_set_num_threads64_",
    "scipy_openblas_set_num_threads",
    "openblas_set_num_threads64_",
    "openblas_set_num_threads",
    "MKL_Set_Num_Threads",
)


def limit_threads() -> None:
    """From now on, in the whole process."""
    library = ctypes.CDLL(importlib.import_module(_NUMPYS_OWN).__file__)
    for name in _SETTERS:
        if set_threads := getattr(library, name, None):
            set_threads(1)
