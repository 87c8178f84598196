"""The workers of a cluster as an executor, where one of them is lost with a result that was not yet fetched."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from support.clusters import ended, joined, scheduling, worker
from support.waiting import PATIENCE
from wedge_turn.tasks.cluster import connected

# Work is made inside functions: workers, which don't have the tests, get it whole.


def long_to_fetch() -> Callable[[], object]:
    class Result:
        def __reduce__(self) -> tuple[Any, ...]:
            time.sleep(3)
            return str, ("first",)

    def work() -> object:
        return Result()

    return work


def done_on_a_worker_that_is_lost(mark: Path) -> Callable[[], object]:
    """Work whose worker ends a second after it is done; that takes longer the second time."""

    def work() -> object:
        import os
        import threading

        time.sleep(4 if mark.exists() else 1)
        if not mark.exists():
            mark.touch()
            threading.Timer(1, os._exit, (1,)).start()
        return "second"

    return work


def fails() -> Callable[[], object]:
    def work() -> object:
        raise ValueError("this file is broken")

    return work


def test_work_is_done_again_when_its_result_is_lost_with_its_worker(tmp_path: Path) -> None:
    with scheduling() as address:
        workers = [worker(address), worker(address)]
        try:
            joined(address, 2)
            with connected(address, [], None) as executor:
                first = executor.submit(long_to_fetch())
                second = executor.submit(done_on_a_worker_that_is_lost(tmp_path / "mark"))
                assert (first.result(timeout=PATIENCE), second.result(timeout=PATIENCE)) == ("first", "second")
                assert (tmp_path / "mark").exists()
                with pytest.raises(ValueError, match="this file is broken"):
                    executor.submit(fails()).result(timeout=PATIENCE)
        finally:
            ended(*workers)
