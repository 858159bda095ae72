"""Results kept by the identity of what they were made from.

After an edit nearly all strokes of a song are the very same objects as before. To compare them by
what they are takes longer than much of what is made of them; their identity is enough, as long as
they are held together with the result, so that no other object can come to have it.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from typing import Generic, TypeVar

Result = TypeVar("Result")


class KeptByIdentity(Generic[Result]):
    """The last results, with what they were made from. Safe between threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._lock = threading.Lock()
        self._kept: OrderedDict[Hashable, tuple[Result, tuple[object, ...]]] = OrderedDict()

    def get(self, parts: Iterable[object], how: Hashable, make: Callable[[], Result]) -> Result:
        """What `make` gives for these objects, made in this way; made only where it is not kept.

        Parameters
        ----------
        parts : the objects that the result rests on; they must not change.
        how : all else that it rests on, by value.
        """
        held = tuple(parts)
        key = (tuple(map(id, held)), how)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]
        made = make()
        with self._lock:
            self._kept[key] = (made, held)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return made

    def clear(self) -> None:
        """Forget all."""
        with self._lock:
            self._kept.clear()
