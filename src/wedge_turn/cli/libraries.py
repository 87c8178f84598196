"""What libraries in C print on standard error is for their developers and goes nowhere; what Python says stays."""

import os
import sys


def silence_libraries() -> None:
    """Give Python a standard error of its own, and close the one that libraries write to.

    Nothing is done where Python's goes elsewhere already.
    """
    if sys.stderr is None or sys.stderr is not sys.__stderr__:
        return
    for_python = os.dup(2)
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    os.close(nowhere)
    sys.stderr = os.fdopen(for_python, "w", buffering=1, encoding="utf-8", errors="backslashreplace")
