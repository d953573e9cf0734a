"""A memory for tables that forgets the oldest when it holds too many bytes; several threads may share it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

T = TypeVar("T")


class TableCache(Generic[T]):
    """Tables by key, the least lately used of them forgotten first.

    Parameters
    ----------
    most_bytes : int
        What all tables together may take.

    Examples
    --------
    >>> cache = TableCache[str](10)
    >>> cache.put("a", "one", 6)
    >>> cache.put("b", "two", 6)
    >>> cache.get("a") is None, cache.get("b")
    (True, 'two')
    """

    def __init__(self, most_bytes: int) -> None:
        self._most_bytes = most_bytes
        self._tables: OrderedDict[Hashable, tuple[T, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def __contains__(self, key: Hashable) -> bool:
        return key in self._tables

    def get(self, key: Hashable) -> T | None:
        """Return a table, or None if it is not there or was forgotten."""
        with self._lock:
            found = self._tables.get(key)
            if found is None:
                return None
            self._tables.move_to_end(key)
            return found[0]

    def put(self, key: Hashable, table: T, size: int) -> None:
        """Remember a table of so many bytes."""
        with self._lock:
            if key in self._tables:
                self._bytes -= self._tables.pop(key)[1]
            self._tables[key] = table, size
            self._bytes += size
            while self._bytes > self._most_bytes and len(self._tables) > 1:
                _, (_, gone) = self._tables.popitem(last=False)
                self._bytes -= gone
