# SPDX-License-Identifier: MIT
"""Reading and changing what fields with a mark hold, wherever in a model they stand: references and rows are told once, there."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from types import UnionType
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin

from fondale.core.model.base import Model, Names, Row

Mark = Names | Row
M = TypeVar("M", bound=Model)


@dataclass(frozen=True)
class _Leaf:
    mark: Mark


@dataclass(frozen=True)
class _Each:
    inner: "_Form"


@dataclass(frozen=True)
class _Keys:
    mark: Mark


class _Inside:
    """A model, or something that may be one: looked at by its value."""


_Form = _Leaf | _Each | _Keys | _Inside


class Needed(Exception):
    """What is taken away cannot be missed here: the owner goes with it."""


def _form(annotation: Any, metadata: tuple[Any, ...], mark: type[Mark]) -> _Form | None:
    found = next((m for m in metadata if isinstance(m, mark)), None)
    if found is not None:
        return _Leaf(found)
    origin, args = get_origin(annotation), get_args(annotation)
    if origin is Annotated:
        return _form(args[0], args[1:], mark)
    if origin is tuple:
        inner = _form(args[0], (), mark)
        return _Each(inner) if inner is not None else None
    if origin is dict:
        key = _form(args[0], (), mark)
        return _Keys(key.mark) if isinstance(key, _Leaf) else None
    if origin in (Union, UnionType):
        return _Inside() if any(_form(a, (), mark) for a in args) else None
    if isinstance(annotation, type) and issubclass(annotation, Model):
        return _Inside() if _forms(annotation, mark) else None
    return None


_KNOWN: dict[tuple[type[Model], type[Mark]], tuple[tuple[str, _Form], ...]] = {}


def _forms(model: type[Model], mark: type[Mark]) -> tuple[tuple[str, _Form], ...]:
    """The fields of a model that bear the mark, or hold models that do."""
    if (model, mark) not in _KNOWN:
        found = ((name, _form(f.annotation, tuple(f.metadata), mark)) for name, f in model.model_fields.items())
        _KNOWN[model, mark] = tuple((name, form) for name, form in found if form is not None)
    return _KNOWN[model, mark]


@dataclass(frozen=True)
class Marked:
    """One marked value: the model and the field that hold it, its mark, and the id or key that it is."""

    owner: Model
    field: str
    mark: Mark
    value: str


_Kept = dict[int, tuple[Model, tuple[Marked, ...]]]
_last: dict[type[Mark], _Kept] = {Names: {}, Row: {}}
_now: dict[type[Mark], _Kept] = {}


def marks_of(member: Model, mark: type[Mark]) -> tuple[Marked, ...]:
    """What ``marked`` finds in a member of a list: an edit leaves nearly all members the same objects, which are read once."""
    known = _last[mark].get(id(member))
    if known is None or known[0] is not member:
        known = (member, tuple(marked(member, mark)))
    if mark in _now:
        _now[mark][id(member)] = known
    return known[1]


@contextmanager
def reading(mark: type[Mark]) -> Iterator[None]:
    """Around the reading of a whole project: its members are kept for the next one, and those of before are let go."""
    _now[mark] = {}
    try:
        yield
    finally:
        _last[mark] = _now.pop(mark, {})


def marked(thing: Model, mark: type[Mark]) -> Iterator[Marked]:
    """Everything in ``thing`` that bears a mark and is not empty."""
    for field, form in _forms(type(thing), mark):
        yield from _read(thing, field, form, getattr(thing, field), mark)


def _read(owner: Model, field: str, form: _Form, value: Any, mark: type[Mark]) -> Iterator[Marked]:
    match form:
        case _Leaf(found):
            if value:
                yield Marked(owner, field, found, value)
        case _Each(_Inside()):
            for one in value:
                if isinstance(one, Model):
                    yield from marks_of(one, mark)
        case _Each(inner):
            for one in value:
                yield from _read(owner, field, inner, one, mark)
        case _Keys(found):
            for key in value:
                yield Marked(owner, field, found, key)
        case _Inside():
            if isinstance(value, Model):
                yield from marked(value, mark)


Change = Callable[[Marked], str | None]


def changed(thing: M, mark: type[Mark], change: Change) -> M:
    """``thing`` with every marked value as ``change`` wants it; None takes it out. What has not changed is the same object.
    ``change`` says the same of the same value, however often it is asked.

    Raises Needed where ``thing`` itself cannot be without a value that is taken out; members of lists that cannot go with it.
    """
    news = {}
    for field, form in _forms(type(thing), mark):
        old = getattr(thing, field)
        new = _changed(thing, field, form, old, mark, change)
        if new is not old:
            news[field] = new
    return thing.but(**news) if news else thing


def _changed(owner: Model, field: str, form: _Form, value: Any, mark: type[Mark], change: Change) -> Any:
    match form:
        case _Leaf(found):
            if not value:
                return value
            new = change(Marked(owner, field, found, value))
            if new is None and isinstance(found, Names) and found.needed:
                raise Needed
            return value if new == value else new or ""
        case _Keys(found):
            keys = {k: change(Marked(owner, field, found, k)) for k in value}
            return value if all(k == n for k, n in keys.items()) else {n: value[k] for k, n in keys.items() if n is not None}
        case _Inside():
            return changed(value, mark, change) if isinstance(value, Model) else value
        case _Each(inner):
            out: list[Any] = []
            for one in value:
                if isinstance(inner, _Leaf):
                    new = change(Marked(owner, field, inner.mark, one))
                    if new is not None:
                        out.append(new)
                    continue
                if isinstance(one, Model) and all(change(found) == found.value for found in marks_of(one, mark)):
                    out.append(one)
                    continue
                try:
                    out.append(_changed(owner, field, inner, one, mark, change))
                except Needed:
                    continue
            same = len(out) == len(value) and all(a is b or (a == b and isinstance(a, str)) for a, b in zip(out, value, strict=True))
            return value if same else tuple(out)
