"""The values that were used last, by their keys. Thread-safe."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class LruCache(Generic[K, V]):
    """At most `size` values; that which was not used for longest goes first."""

    def __init__(self, size: int) -> None:
        self._size = size
        self._lock = threading.Lock()
        self._values: OrderedDict[K, V] = OrderedDict()

    def get(self, key: K) -> V | None:
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
            return self._values.get(key)

    def put(self, key: K, value: V) -> V:
        """Keep a value; returns it."""
        with self._lock:
            self._values[key] = value
            self._values.move_to_end(key)
            while len(self._values) > self._size:
                self._values.popitem(last=False)
        return value

    def get_or_make(self, key: K, make: Callable[[], V]) -> V:
        """The value of a key, made now where there is none. Two who ask at once may both make it."""
        value = self.get(key)
        return self.put(key, make()) if value is None else value
