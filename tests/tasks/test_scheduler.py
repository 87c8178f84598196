"""One scheduler with three priorities: who waits, who goes first, and who steps back for whom."""

import os
import sys
import threading

import pytest

from support.waiting import PATIENCE, until
from wedge_turn.core.errors import BadRequestError, StoppedError
from wedge_turn.tasks import Scheduler, still_wanted


def niceness() -> int:
    return os.getpriority(os.PRIO_PROCESS, threading.get_native_id())


@pytest.mark.skipif(sys.platform != "linux", reason="threads have no priority of their own")
def test_each_priority_leaves_the_processor_to_the_one_before() -> None:
    scheduler, before = Scheduler(), niceness()
    levels = [scheduler.run(priority, niceness) for priority in ("hear", "deliver", "look")]
    assert before <= levels[0] < levels[1] < levels[2]
    assert niceness() == before
    scheduler.close()


def test_waiters_get_the_result_or_the_error() -> None:
    def refuse(why: str) -> None:
        raise BadRequestError(why)

    scheduler = Scheduler()
    assert scheduler.run("look", divmod, 7, 2) == (3, 1)
    with pytest.raises(BadRequestError, match="not this way"):
        scheduler.run("look", refuse, "not this way")
    scheduler.close()


def test_sound_does_not_wait_for_deliveries_or_pictures() -> None:
    """Every thread of the two others is held up; what is heard is answered all the same."""
    scheduler, go_on = Scheduler(), threading.Event()
    for priority in ("deliver", "look"):
        for _ in range(50):
            scheduler.start(priority, go_on.wait, PATIENCE)
    assert scheduler.run("hear", divmod, 7, 2) == (3, 1)
    go_on.set()
    scheduler.close()


def test_waiters_go_before_background_work() -> None:
    scheduler, held, go_on = Scheduler(), threading.Semaphore(0), threading.Semaphore(0)
    order: list[str] = []

    def hold() -> None:
        held.release()
        go_on.acquire(timeout=PATIENCE)

    threads = (os.cpu_count() or 2) + 2
    for _ in range(threads):
        scheduler.start("look", hold)
    for _ in range(threads):
        assert held.acquire(timeout=PATIENCE)
    last = scheduler.start("look", order.append, "background")
    waiting = threading.Thread(target=scheduler.run, args=("look", order.append, "asked for"))
    waiting.start()
    until(lambda: scheduler.waiting("look") == 2)
    go_on.release()  # one thread does both, one after the other
    last.result(PATIENCE)
    assert order == ["asked for", "background"]
    go_on.release(threads)
    waiting.join()
    scheduler.close()


def test_concurrent_requests_share_one_computation() -> None:
    """However many ask, others are still answered: only one thread is at work."""
    scheduler, go_on = Scheduler(), threading.Event()
    done: list[int] = []

    def work() -> int:
        go_on.wait(PATIENCE)
        done.append(1)
        return 7

    results: list[int] = []
    asking = [threading.Thread(target=lambda: results.append(scheduler.share("look", "a", work))) for _ in range(40)]
    for thread in asking:
        thread.start()
    assert scheduler.run("look", divmod, 7, 2) == (3, 1)
    go_on.set()
    for thread in asking:
        thread.join()
    assert results == 40 * [7]
    assert len(done) < 40
    scheduler.close()


def test_after_the_end_nothing_is_begun() -> None:
    scheduler = Scheduler()
    scheduler.close()
    assert scheduler.start("look", divmod, 7, 2).cancelled()


def test_a_failure_in_the_background_is_logged_and_keeps_nobody(caplog: pytest.LogCaptureFixture) -> None:
    scheduler = Scheduler()
    scheduler.start("look", divmod, 7, 0)
    assert scheduler.run("look", divmod, 7, 2) == (3, 1)
    scheduler.close()
    assert "ZeroDivisionError" in caplog.text


def test_work_that_nobody_waits_for_is_dropped() -> None:
    scheduler, go_on = Scheduler(), threading.Event()
    left = threading.Event()
    done: list[str] = []
    answers: list[object] = []

    def hold() -> None:
        assert go_on.wait(PATIENCE)

    def ask(stays: bool, key: str) -> None:
        still_wanted.set(lambda: stays or not left.is_set())
        try:
            answers.append(scheduler.share("look", key, lambda: done.append(key)))
        except StoppedError:
            answers.append("dropped")

    for _ in range((os.cpu_count() or 2) + 2):
        scheduler.start("look", hold)
    until(lambda: scheduler.waiting("look") == 0)
    asking = [threading.Thread(target=ask, args=asked) for asked in [(True, "b"), (False, "b"), (False, "a")]]
    for thread in asking:
        thread.start()
    until(lambda: scheduler.waiting("look") == 2)
    left.set()
    go_on.set()
    for thread in asking:
        thread.join()
    assert done == ["b"]
    assert sorted(map(str, answers)) == ["None", "None", "dropped"]
    scheduler.close()
