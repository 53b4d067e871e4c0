"""The queue: values and what becomes of them."""

from __future__ import annotations

from waxseal.core.deliver.queue.delivery_queue import Queue
from waxseal.core.job.model import Delivery, DeliveryState, Outcome
from waxseal.core.progress import Progress


def delivery(name: str, outcome: Outcome | None = None) -> Delivery:
    return Delivery(id=name, name=name, folder="/", outcome=outcome)


def states(queue: Queue, *names: str) -> list[str]:
    return [queue.status(delivery(name)).state.value for name in names]


def test_one_is_made_after_the_other() -> None:
    queue = Queue().add("a").add("b").add("c").add("b")
    assert (queue.waiting, queue.next_to_start()) == (("a", "b", "c"), "a")
    queue = queue.start("a")
    assert states(queue, "a", "b", "d") == ["encoding", "waiting", "draft"]
    assert queue.is_busy
    assert queue.next_to_start() == ""  # one at a time
    assert queue.add("a") == queue  # it is made already
    queue = queue.proceed(Progress("checking", 1, 2))
    assert states(queue, "a") == ["checking"]
    queue = queue.end()
    assert (queue.next_to_start(), queue.progress) == ("b", None)


def test_what_waits_is_made_in_the_order_of_the_job_and_what_is_made_can_be_held() -> None:
    queue = Queue().add("a").add("b").add("c").keep(["c", "b", "a", "d"])
    assert queue.waiting == ("c", "b", "a")
    queue = queue.start("c").hold(held=True)
    assert queue.status(delivery("c")).is_held
    assert not queue.status(delivery("b")).is_held
    assert not queue.end().is_held
    assert not Queue().hold(held=True).is_held


def test_what_is_left_of_all_is_known() -> None:
    frames = {"a": 100, "b": 50}
    queue = Queue().add("a").add("b").start("a")
    assert queue.left(frames) == (150, None)
    assert queue.proceed(Progress("encoding", 40, 100, 10.0)).left(frames) == (110, 11.0)
    assert queue.proceed(Progress("checking", 5, 100, 90.0)).left(frames) == (50, None)
    assert Queue().left(frames) == (0, None)


def test_what_is_taken_out_is_not_started() -> None:
    queue = Queue().add("a").add("b").remove("a").keep(["c"])
    assert queue.next_to_start() == ""
    assert Queue().add("a").clear().waiting == ()


def test_what_ended_is_told_by_its_outcome() -> None:
    sealed = Outcome(state=DeliveryState.SEALED)
    assert Queue().status(delivery("a", sealed)).outcome == sealed
    again = Queue().add("a").status(delivery("a", sealed))
    assert (again.state, again.outcome, again.is_running) == (DeliveryState.WAITING, None, True)
