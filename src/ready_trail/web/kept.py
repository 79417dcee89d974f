"""Results that several requests share: made once, however many ask for them at a time."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Event, Lock
from typing import Generic, TypeVar

from ready_trail.store.recent import Recent

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")
T = TypeVar("T")


class Kept(Generic[K, V]):
    """The results asked for last, by their key; who asks for one that is being made waits."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: OrderedDict[K, V] = OrderedDict()
        self._making: dict[K, Event] = {}
        self._lock = Lock()

    def get(self, key: K, make: Callable[[], V]) -> V:
        """Return the result of a key, from here or made now; what ``make`` raises is not kept."""
        while True:
            with self._lock:
                if key in self._values:
                    self._values.move_to_end(key)
                    return self._values[key]
                made = self._making.get(key)
                if made is None:
                    self._making[key] = made = Event()
                    break
            made.wait()  # then it is there, or it failed and is tried again
        try:
            value = make()
            with self._lock:
                self._values[key] = value
                while len(self._values) > self._most:
                    self._values.popitem(last=False)
            return value
        finally:
            with self._lock:
                del self._making[key]
            made.set()

    def newest(self, fits: Callable[[K], bool]) -> V | None:
        """Return the result used last whose key fits, or None."""
        with self._lock:
            return next((v for k, v in reversed(self._values.items()) if fits(k)), None)


class Same(Generic[T]):
    """A key that is equal to itself and to nothing else: it compares nothing that is inside."""

    __slots__ = ("thing",)

    def __init__(self, thing: T) -> None:
        self.thing = thing

    def __hash__(self) -> int:
        return id(self.thing)  # the key holds the thing, so its id is still its own

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.thing is self.thing


class KeptWith(Generic[V]):
    """What follows from a design or a part of one, kept while that very object is used again."""

    def __init__(self, most: int) -> None:
        self._values: Recent[int, tuple[object, V]] = Recent(most)

    def get(self, thing: object, make: Callable[[], V]) -> V:
        """Return what was made of this object before, or make it now."""
        known = self._values.get(id(thing))  # the object is held here, so its id is still its own
        if known is None:
            known = (thing, make())
            self._values.keep(id(thing), known)
        return known[1]
