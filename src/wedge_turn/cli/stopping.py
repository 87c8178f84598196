"""Leaving a command when a signal asks for it, by an exception, so that what is half done is cleaned up first."""

import signal
import sys
import threading
from typing import Any, Final, NoReturn

_SOON: Final = 0.01  # seconds


def leave_on_signals() -> None:
    """Have SIGTERM, SIGHUP and SIGINT end this process with 128 and their number."""
    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
        signal.signal(number, _leave)
    sys.unraisablehook = _leave_later


def _leave(number: int, _frame: object) -> NoReturn:
    print("wedge-turn: stopped", file=sys.stderr)
    sys.exit(128 + number)


def _leave_later(event: Any) -> None:
    """A signal that comes while an object is collected raises its exception where Python drops it: then it is raised
    again a moment later.
    """
    if event.exc_type is not SystemExit or threading.current_thread() is not threading.main_thread():
        sys.__unraisablehook__(event)
        return
    code = event.exc_value.code
    signal.signal(signal.SIGALRM, lambda *_: sys.exit(code))
    signal.setitimer(signal.ITIMER_REAL, _SOON)
