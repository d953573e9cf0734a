"""What was worked out before, kept to be taken again: in every mechanism the key is the arguments themselves.

A riff is planned again after every key, and nearly all of it is as it was. Functions that are remembered are given
all that they depend on as arguments, neighbours too, so that nothing can be left out of a key. Three mechanisms:

`memo`
    the last value of a module-level function, kept with its first argument, and gone with it.
`Stages.map`
    a module-level function of each item of a list, kept from list to list.
`Memo`
    a table of values by arguments, of one owner's method or any function; it forgets when it grows too large.

Values may be asked for by several threads at once: two of them may both work a value out, and either is kept. With
`switched_off` nothing is taken from before, which is what the others are tested against.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import lru_cache, wraps
from threading import Lock
from typing import Any, Generic, ParamSpec, TypeVar, TypeVarTuple, cast

T = TypeVar("T")
P = ParamSpec("P")
Owner = TypeVar("Owner")
Inputs = TypeVarTuple("Inputs")
Column = Sequence[Any]
AT_ONCE = 64

_NAMES: dict[Callable[..., Any], str] = {}
_OFF: list[bool] = [False]


@contextmanager
def switched_off() -> Iterator[None]:
    """Take nothing from before as long as this lasts."""
    before, _OFF[0] = _OFF[0], True
    try:
        yield
    finally:
        _OFF[0] = before


def _name_of(function: Callable[..., Any]) -> str:
    """What a function's values are kept under.

    Raises
    ------
    TypeError
        For a function that may depend on more than its arguments.
    """
    name = _NAMES.get(function)
    if name is None:
        qualified = getattr(function, "__qualname__", "<none>")
        if "<" in qualified or hasattr(function, "__self__") or getattr(function, "__closure__", None):
            raise TypeError(
                f"{qualified}: only functions of a module are remembered, which have their arguments alone"
            )
        name = _NAMES[function] = f"{function.__module__}.{qualified}"
    return name


def memo(function: Callable[[Owner, *Inputs], T], owner: Owner, *inputs: *Inputs) -> T:
    """Call a function, or take its last value for this owner if the other arguments are the same.

    Parameters
    ----------
    function : callable
        Of a module.
    owner : object
        Its first argument: one that never changes, and has a ``__dict__``.
    inputs
        Its other arguments.

    Examples
    --------
    >>> from dromic.music.rhythm import NoteValue
    >>> memo(NoteValue.__str__, NoteValue(8))
    '8'
    """
    name = _NAMES.get(function) or _name_of(function)
    own = owner.__dict__
    kept = own.get(name)
    if kept is not None and kept[0] == inputs and not _OFF[0]:
        return cast("T", kept[1])
    value = function(owner, *inputs)
    own[name] = inputs, value
    return value


def copy_with(instance: T, **changed: object) -> T:
    """Copy a frozen dataclass with some fields changed, and nothing of what it remembers.

    As `dataclasses.replace`, which takes ten times as long, for what is copied by the thousand.

    Parameters
    ----------
    instance : dataclass
        One that checks nothing when it is made.
    **changed
        Its fields.

    Examples
    --------
    >>> from dromic.music.riff import Place
    >>> copy_with(Place(1, 5), fret=7)
    Place(string=1, fret=7)
    """
    other = object.__new__(type(instance))
    own = instance.__dict__
    other.__dict__.update({name: own[name] for name in type(instance).__dataclass_fields__}, **changed)  # type: ignore[attr-defined]
    return other


def cache(most: int) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Remember the values of a function of a module, the least lately used forgotten first."""

    def decorate(function: Callable[P, T]) -> Callable[P, T]:
        kept = lru_cache(maxsize=most)(function)

        @wraps(function)
        def call(*args: P.args, **kwargs: P.kwargs) -> T:
            return function(*args, **kwargs) if _OFF[0] else kept(*args, **kwargs)  # type: ignore[arg-type]

        return call

    return decorate


class Memo(Generic[T]):
    """Values of a function by its arguments; when they grow too many, those used least lately are forgotten.

    Parameters
    ----------
    function : callable
        Of arguments that can be hashed; a method's owner never changes.
    most : int
        How many values are kept, or, with `size`, how many bytes.
    size : callable or None
        Bytes of a value.

    Examples
    --------
    >>> squares = Memo(lambda number: number * number, most=2)
    >>> [squares(number) for number in (1, 2, 3)], len(squares)
    ([1, 4, 9], 2)
    """

    def __init__(self, function: Callable[..., T], most: int, size: Callable[[T], int] | None = None) -> None:
        self._function, self._most, self._size = function, most, size
        self._values: OrderedDict[Hashable, tuple[T, int]] = OrderedDict()
        self._held = 0
        self._lock = Lock()

    def __getstate__(self) -> tuple[object, ...]:
        # What is kept with an object goes to another process with it, but for the values.
        return self._function, self._most, self._size

    def __setstate__(self, state: tuple[Any, ...]) -> None:
        Memo.__init__(self, *state)

    def __len__(self) -> int:
        return len(self._values)

    def __contains__(self, arguments: tuple[Hashable, ...]) -> bool:
        return arguments in self._values

    def get(self, arguments: tuple[Hashable, ...]) -> T | None:
        """A value, or None where it is not known."""
        kept = self._values.get(arguments)
        return None if kept is None else kept[0]

    def __call__(self, *arguments: Hashable) -> T:
        """Take the value, or work it out."""
        kept = self._values.get(arguments)
        if kept is not None:
            if self._size is not None:
                with self._lock, suppress(KeyError):
                    self._values.move_to_end(arguments)
            return kept[0]
        return self.put(arguments, self._function(*arguments))

    def put(self, arguments: tuple[Hashable, ...], value: T) -> T:
        """Keep a value that was worked out with others."""
        size = 1 if self._size is None else self._size(value)
        with self._lock:
            before = self._values.pop(arguments, None)
            if before is not None:
                value = before[0] if self._size is None else value
                self._held -= before[1]
            self._values[arguments] = value, size
            self._held += size
            while self._held > self._most and len(self._values) > 1:
                self._held -= self._values.popitem(last=False)[1][1]
        return value


@dataclass(frozen=True, eq=False)
class _Stage:
    """What a function was given last time, and what came of it."""

    common: tuple[object, ...]
    columns: tuple[Column, ...]
    values: list[Any]


class Stages:
    """What functions made of each item of a list the last time.

    Examples
    --------
    >>> stages = Stages()
    >>> stages.map(max, [1, 5, 3], [4, 2, 3])
    [4, 5, 3]
    """

    def __init__(self) -> None:
        self._stages: dict[Callable[..., Any], _Stage] = {}
        self._parts: dict[str, Stages] = {}

    def __reduce__(self) -> tuple[type[Stages], tuple[()]]:
        # Another process begins afresh.
        return Stages, ()

    def copy(self) -> Stages:
        """Return stages that know the same, and go their own way from here."""
        other = Stages()
        other._stages.update(self._stages)
        other._parts.update((name, part.copy()) for name, part in self._parts.items())
        return other

    def part(self, name: str) -> Stages:
        """Return the stages of one of several ways to plan the same riff."""
        return self._parts.setdefault(name, Stages())

    def map(self, function: Callable[..., T], *columns: Column, common: tuple[object, ...] = ()) -> list[T]:
        """Call a function with each item; where all its arguments are those of last time, so is its value.

        Parameters
        ----------
        function : callable
            Of a module.
        columns : sequences of one length
            Its first arguments, item by item. Those that are not the same object are compared.
        common : tuple
            Its other arguments, the same for all items.

        Returns
        -------
        list
            A new one; never changed later.
        """

        def values(rows: Sequence[tuple[Any, ...]]) -> list[T]:
            return [function(*row, *common) for row in rows]

        return self._renewed(function, columns, common, values)

    def map_many(
        self, function: Callable[..., list[T]], *columns: Column, common: tuple[object, ...] = ()
    ) -> list[T]:
        """As `map`, with a function that is given all items at once that have changed, as a list of rows."""
        return self._renewed(function, columns, common, lambda rows: function(rows, *common) if rows else [])

    def _renewed(
        self,
        function: Callable[..., Any],
        columns: tuple[Column, ...],
        common: tuple[object, ...],
        values_of: Callable[[Sequence[tuple[Any, ...]]], list[T]],
    ) -> list[T]:
        if function not in _NAMES and getattr(function, "__module__", "") != "builtins":
            _name_of(function)
        count = len(columns[0])
        old = self._stages.get(function)
        ahead = behind = 0
        if old is not None and old.common == common and not _OFF[0]:
            most = min(count, len(old.values))
            ahead = min(_same(one, two, most) for one, two in zip(columns, old.columns, strict=True))
            if ahead == count == len(old.values):
                return list(old.values)
            pairs = zip(columns, old.columns, strict=True)
            behind = min(_same_at_end(one, two, most - ahead) for one, two in pairs)
        rows = list(zip(*(column[ahead : count - behind] for column in columns), strict=True))
        values = values_of(rows)
        if old is not None:
            values = old.values[:ahead] + values + old.values[len(old.values) - behind :]
        self._stages[function] = _Stage(common, columns, values)
        return list(values)


def _same(one: Column, two: Column, most: int) -> int:
    """How many of at most so many things at the start are the same."""
    for start in range(0, most, AT_ONCE):
        stop = min(start + AT_ONCE, most)
        if list(one[start:stop]) == list(two[start:stop]):
            continue
        for at in range(start, stop):
            if one[at] is not two[at] and one[at] != two[at]:
                return at
    return most


def _same_at_end(one: Column, two: Column, most: int) -> int:
    """How many of at most so many things at the end are the same."""
    mine, other = len(one), len(two)
    for done in range(0, most, AT_ONCE):
        size = min(AT_ONCE, most - done)
        if list(one[mine - done - size : mine - done]) == list(two[other - done - size : other - done]):
            continue
        for at in range(done + 1, done + size + 1):
            if one[mine - at] is not two[other - at] and one[mine - at] != two[other - at]:
                return at - 1
    return most
