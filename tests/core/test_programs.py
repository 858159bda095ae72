"""Child processes: limited in output, time and patience."""

import sys
import time

import pytest

from orchesis.audio.programs import ProgramFailed, run_limited
from orchesis.errors import Cancelled, OrchesisError


def python(code):
    return [sys.executable, "-c", code]


def test_what_a_program_writes_comes_back():
    assert run_limited(python("print('tick', end='')"), most_bytes=100, timeout=10) == b"tick"


def test_a_failing_program_gives_its_last_words():
    code = "import sys; print('first\\ntorn head', file=sys.stderr); sys.exit(3)"
    with pytest.raises(ProgramFailed, match="torn head"):
        run_limited(python(code), most_bytes=100, timeout=10)


def test_one_that_writes_too_much_is_ended():
    with pytest.raises(ProgramFailed, match="more audio"):
        run_limited(python("while True: print('x' * 10000)"), most_bytes=1_000_000, timeout=60)


def test_one_that_takes_too_long_is_ended():
    began = time.monotonic()
    with pytest.raises(ProgramFailed, match="longer than"):
        run_limited(python("import time; time.sleep(60)"), most_bytes=10, timeout=0.5)
    assert time.monotonic() - began < 40


def test_cancelling_ends_it_soon():
    began = time.monotonic()
    with pytest.raises(Cancelled):
        run_limited(
            python("import time; time.sleep(60)"), most_bytes=10, timeout=60, cancelled=lambda: True
        )
    assert time.monotonic() - began < 40


def test_a_missing_program_says_what_to_install():
    with pytest.raises(OrchesisError, match="ffmpeg"):
        run_limited(["no-such-program"], most_bytes=10, timeout=1)


def test_memory_is_limited():
    with pytest.raises(ProgramFailed):
        run_limited(python("x = bytearray(5 * 1024**3)"), most_bytes=10, timeout=30)
