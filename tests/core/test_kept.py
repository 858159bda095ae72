"""Results that are kept by the identity of what they were made from."""

import threading

import pytest

from orchesis.chart.kept import KeptByIdentity


class Counted:
    """Makes a new result each time it is asked."""

    def __init__(self):
        self.times = 0

    def __call__(self):
        self.times += 1
        return f"made {self.times}"


class Part:
    """Equal to every other one: only identity tells them apart."""

    def __eq__(self, other):
        return isinstance(other, Part)

    __hash__ = None


def test_the_same_objects_in_the_same_way_are_made_once():
    kept, make, parts = KeptByIdentity(4), Counted(), [Part(), Part()]
    assert kept.get(parts, "page", make) == kept.get(list(parts), "page", make) == "made 1"
    assert make.times == 1


def test_equal_objects_are_not_the_same():
    kept, make = KeptByIdentity(4), Counted()
    assert kept.get([Part()], "page", make) != kept.get([Part()], "page", make)


def test_neither_is_another_order_or_another_way():
    kept, make, one, other = KeptByIdentity(9), Counted(), Part(), Part()
    kept.get([one, other], "page", make)
    kept.get([other, one], "page", make)
    kept.get([one, other], "phone", make)
    kept.get([one], "page", make)
    assert make.times == 4


def test_what_was_asked_for_longest_ago_goes_first():
    kept, make = KeptByIdentity(2), Counted()
    first, second, third = Part(), Part(), Part()
    kept.get([first], "page", make)
    kept.get([second], "page", make)
    kept.get([first], "page", make)
    kept.get([third], "page", make)
    assert kept.get([first], "page", make) == "made 1"
    assert kept.get([second], "page", make) == "made 4"


def test_an_object_that_is_gone_cannot_be_taken_for_another():
    """Its identity could come up again; as long as its result is kept, so is the object."""
    kept, make = KeptByIdentity(200), Counted()
    made = [kept.get([Part()], "page", make) for _ in range(100)]
    assert len(set(made)) == 100


def test_all_is_forgotten_when_asked():
    kept, make, part = KeptByIdentity(4), Counted(), Part()
    kept.get([part], "page", make)
    kept.clear()
    assert kept.get([part], "page", make) == "made 2"


def test_a_failure_is_not_kept():
    kept, part = KeptByIdentity(4), Part()

    def fails():
        raise RuntimeError("no ink")

    with pytest.raises(RuntimeError):
        kept.get([part], "page", fails)
    assert kept.get([part], "page", lambda: "made") == "made"


def test_threads_get_the_same_and_wait_for_nobody():
    """One that makes for a long time holds up none that asks for something else."""
    kept, slow, quick = KeptByIdentity(4), Part(), Part()
    go_on, begun = threading.Event(), threading.Event()

    def takes_long():
        begun.set()
        assert go_on.wait(5)
        return "slow"

    worker = threading.Thread(target=lambda: kept.get([slow], "page", takes_long))
    worker.start()
    assert begun.wait(5)
    assert kept.get([quick], "page", lambda: "quick") == "quick"
    go_on.set()
    worker.join(5)
    assert kept.get([slow], "page", lambda: "anew") == "slow"
