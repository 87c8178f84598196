"""The commands as a shell runs them, in this process where nothing depends on its being another: starting one takes
longer than most tests.
"""

import contextlib
import io
import os
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

from wedge_turn.cli.main import main


def run(*arguments: Any, cwd: Path | None = None) -> "subprocess.CompletedProcess[str]":
    """Run a command; what it printed, and its status."""
    out, err, status = io.StringIO(), io.StringIO(), 0
    handlers = {number: signal.getsignal(number) for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)}
    before, hook = Path.cwd(), sys.unraisablehook
    if cwd is not None:
        os.chdir(cwd)
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            main([os.fspath(part) if isinstance(part, os.PathLike) else str(part) for part in arguments])
    except SystemExit as ended:
        status = ended.code if isinstance(ended.code, int) else int(ended.code is not None)
    finally:
        os.chdir(before)
        sys.unraisablehook = hook
        for number, handler in handlers.items():
            signal.signal(number, handler)
    return subprocess.CompletedProcess(arguments, status, out.getvalue(), err.getvalue())
