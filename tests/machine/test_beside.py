"""Machine code that works beside Python."""

import ctypes
import os

import numpy as np

from cinetica.machine.beside import SLOTS, beside
from cinetica.machine.code import address

# The C library's, which takes three arguments.
MEMCPY = ctypes.cast(ctypes.CDLL(None).memcpy, ctypes.c_void_p).value


def copied(helper, source, target):
    return helper.ask(MEMCPY, (address(target), address(source), source.nbytes), (source, target))


def test_calls_are_carried_out_in_their_order_and_waited_for():
    helper = beside("a test's")
    assert helper is beside("a test's")
    row = np.zeros(1001)
    row[0] = 7.0
    # Each copies what the one before it has: more than can be under way at once.
    numbers = [copied(helper, row[at : at + 1], row[at + 1 : at + 2]) for at in range(1000)]
    assert numbers == list(range(numbers[0], numbers[0] + 1000))
    assert SLOTS < 1000
    helper.wait(numbers[500])
    assert row[501] == 7.0
    helper.wait(numbers[-1])
    assert (row == 7.0).all()


def test_one_helper_does_not_wait_for_another_nor_the_caller_for_either():
    """One stands in the system's `read` of a file in which there is nothing yet."""
    slow, quick, file = beside("a slow one"), beside("a quick one"), os.eventfd(0)
    reads, word = ctypes.cast(ctypes.CDLL(None).read, ctypes.c_void_p).value, np.zeros(1, np.int64)
    number = slow.ask(reads, (file, address(word), 8), word)
    source, target = np.arange(9.0), np.zeros(9)
    quick.wait(copied(quick, source, target))
    assert (target == source).all()
    assert word[0] == 0
    os.eventfd_write(file, 5)
    slow.wait(number)
    assert word[0] == 5
    os.close(file)


def test_what_a_call_works_on_is_there_until_it_is_through_and_not_for_ever():
    helper, gone = beside("a test's"), []

    class Watched(np.ndarray):
        def __del__(self):
            gone.append(True)

    source, target = np.arange(99_999.0), np.zeros(99_999)
    number = helper.ask(MEMCPY, (address(target), address(source), source.nbytes), np.zeros(1).view(Watched))
    helper.wait(number)
    assert (target == source).all()
    helper.wait(copied(helper, source[:1], target[:1]))
    assert gone
