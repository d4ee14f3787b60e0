"""An edit is data (kind, label, arguments), so that it can be shown, sent to another process and tested."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from pydantic import TypeAdapter, ValidationError

from fondale.core.edits import actions
from fondale.core.model import Model, Project
from fondale.core.model.project import LISTS

Path = tuple[str, ...]
MANY = 300


class EditError(ValueError):
    """An edit that cannot be done; the text says why, for the maker."""


@dataclass(frozen=True)
class Edit:
    """``label`` names the edit in the undo menu; edits that share a ``gesture`` in a row are one step."""

    kind: str
    label: str
    args: dict[str, Any] = field(default_factory=dict)
    gesture: str = ""


def put(path: Path, value: Any, label: str, gesture: str = "") -> Edit:
    """The edit that sets one value, for example ``("pieces", "ferryman", "measure", "mm")``."""
    return Edit("put", label, {"path": path, "value": value}, gesture)


def _words(error: ValidationError) -> str:
    first = error.errors()[0]
    where = " ".join(str(p).replace("_", " ") for p in first["loc"])
    return f"{where}: {first['msg'].removeprefix('Value error, ')}".strip(": ")


def _put_in(owner: Any, path: Path, value: Any) -> Any:
    if not path:
        return value
    head, rest = path[0], path[1:]
    if isinstance(owner, tuple):
        at = next((i for i, member in enumerate(owner) if member.id == head), None)
        if at is None:
            raise EditError(f"“{head}” is not in the project any more.")
        return (*owner[:at], _put_in(owner[at], rest, value), *owner[at + 1 :])
    if isinstance(owner, dict):
        return {**owner, head: _put_in(owner.get(head), rest, value)}
    if not isinstance(owner, Model) or head not in type(owner).model_fields:
        raise EditError(f"There is no “{head}” to set here.")
    field_type = type(owner).model_fields[head]
    new = _put_in(getattr(owner, head), rest, value)
    if not rest:
        new = TypeAdapter(field_type.rebuild_annotation()).validate_python(new)
    values = {name: getattr(owner, name) for name in type(owner).model_fields}
    return type(owner).model_validate({**values, **(owner.model_extra or {}), head: new})


def _put(project: Project, path: Path, value: Any) -> Project:
    result: Project = _put_in(project, tuple(path), value)
    return result


_KINDS: dict[str, Callable[..., Project]] = {"put": _put, **actions.ACTIONS}


def _check(before: Project, after: Project) -> None:
    """What is new or changed keeps to its limits, however it was made: otherwise the file could not be read again."""
    for where in ("brief", "case", *LISTS):
        old, new = getattr(before, where), getattr(after, where)
        if new is not old:
            known = {id(thing) for thing in old} if where in LISTS else set()
            changed = [thing for thing in (new if where in LISTS else (new,)) if id(thing) not in known]
            for thing in changed if len(changed) <= MANY else ():  # so many come from a reader, which looked at each
                type(thing).model_validate(thing.model_dump())


def apply(project: Project, edit: Edit) -> Project:
    """The project after ``edit``. Raises EditError in words; the project given is never changed."""
    try:
        after = _KINDS[edit.kind](project, **edit.args)
        _check(project, after)
        return after
    except ValidationError as error:
        raise EditError(_words(error)) from error
    except (TypeError, LookupError) as error:
        raise EditError(f"“{edit.label}” does not fit this project any more: {error}") from error
