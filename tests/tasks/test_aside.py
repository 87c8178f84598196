"""What is seen is computed by threads that leave the processor to others."""

import os
import sys
import threading

import pytest

from wedge_turn.core.errors import BadRequestError
from wedge_turn.tasks import Aside


def priority() -> int:
    """How far the thread that asks steps back."""
    return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())


@pytest.mark.skipif(sys.platform != "linux", reason="threads have no priority of their own")
def test_work_aside_steps_back_and_nothing_else_does() -> None:
    aside = Aside()
    before = priority()
    assert aside.do(priority) > before
    assert priority() == before
    aside.close()


def test_what_comes_of_work_aside_comes_to_who_asked() -> None:
    def refuse(why: str) -> None:
        raise BadRequestError(why)

    aside = Aside()
    assert aside.do(divmod, 7, 2) == (3, 1)
    with pytest.raises(BadRequestError, match="not this way"):
        aside.do(refuse, "not this way")
    aside.close()
