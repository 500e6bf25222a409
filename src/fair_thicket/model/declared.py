"""Limits of values that a maker types, read from where they are declared: a field of the model says its own."""

import math
from functools import lru_cache
from typing import Any, NamedTuple

import msgspec
from msgspec import inspect

from fair_thicket.model.bounds import Bound, find_bound, say_bound
from fair_thicket.model.errors import InputError


class Limit(NamedTuple):
    """From where to where a number may go.

    Attributes
    ----------
    least, most : float
        Infinite where there is none.
    bound : Bound
        How it is told.
    is_open : bool
        Whether `least` itself is too little.
    """

    least: float
    most: float
    bound: Bound
    is_open: bool = False

    @property
    def pair(self) -> tuple[float, float]:
        """Least and most."""
        return self.least, self.most

    def check(self, value: float) -> None:
        """Refuse what lies beyond.

        Raises
        ------
        InputError
            With the limit, and what to do.
        """
        if value > self.most:
            raise InputError(_sentence(say_bound(self.bound, "at most", self.most)))
        if value < self.least or (self.is_open and value <= self.least):
            raise InputError(_sentence(say_bound(self.bound, "more than" if self.is_open else "at least", self.least)))


def named_limit(least: float, most: float, name: str) -> Limit:
    """Return a limit of what an edit takes and no struct holds; its words are those of `bounds` for the name."""
    return Limit(least, most, find_bound(f".{name}"))


@lru_cache(maxsize=256)
def limit_of(kind: type[msgspec.Struct], path: str) -> Limit:
    """Return the limit of a number that a struct holds, or of how many things, as its declaration says it.

    Parameters
    ----------
    kind : type of struct
    path : str
        Its field; of one within it ``form.width_mm``, of one of a pair ``sheet_mm[0]``, of any of many ``spots[]``.

    Raises
    ------
    KeyError
        When the struct has no such number.

    Examples
    --------
    >>> from fair_thicket.model.card import Card
    >>> limit_of(Card, "custom_mm[0]").pair
    (20.0, 420.0)
    """
    found: Any = inspect.type_info(kind)
    for word in _words(path):
        found = _step(found, word)
        if found is None:
            raise KeyError(path)
    for one in _choices(found):
        if isinstance(one, inspect.VarTupleType):
            return Limit(float(one.min_length or 0), _first(math.inf, one.max_length), find_bound(f".{path}"))
        if isinstance(one, inspect.FloatType | inspect.IntType):
            least, most = _first(-math.inf, one.gt, one.ge), _first(math.inf, one.lt, one.le)
            return Limit(least, most, find_bound(f".{path}"), one.gt is not None)
    raise KeyError(path)


def value_at(thing: msgspec.Struct, path: str) -> float:
    """Return the number that a struct holds at a path.

    Examples
    --------
    >>> from fair_thicket.model.sheets import SheetRules
    >>> value_at(SheetRules(sheet_mm=(210.0, 297.0)), "sheet_mm[1]")
    297.0
    """
    found: Any = thing
    for word in _words(path):
        found = found[int(word[1:-1])] if word.startswith("[") else getattr(found, word)
    return float(found)


def _words(path: str) -> list[str]:
    """Part a path into its fields and the places within them, such as ``[0]``."""
    return path.replace("[", ".[").split(".")


def _first(otherwise: float, *values: float | None) -> float:
    """Return the first value that there is."""
    return float(next((one for one in values if one is not None), otherwise))


def _step(found: Any, word: str) -> Any:
    """Go from a type to that of one of its fields, or of what it holds; None where there is none."""
    for one in _choices(found):
        if word.startswith("["):
            if isinstance(one, inspect.TupleType):
                return one.item_types[int(word[1:-1] or 0)]
            if isinstance(one, inspect.VarTupleType):
                return one.item_type
        elif isinstance(one, inspect.StructType):
            fields = {field.name: field.type for field in one.fields}
            if word in fields:
                return fields[word]
    return None


def _choices(found: Any) -> list[Any]:
    """Types that a value may have, what is declared beside them taken off."""
    while isinstance(found, inspect.Metadata):
        found = found.type
    parts = found.types if isinstance(found, inspect.UnionType) else (found,)
    plain = []
    for one in parts:
        while isinstance(one, inspect.Metadata):
            one = one.type  # noqa: PLW2901 - the same, with less round it
        plain.append(one)
    return plain


def _sentence(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}"
