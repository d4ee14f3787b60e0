"""The edits that change more than one value at a time."""

from collections.abc import Callable
from typing import Any

from fondale.core.edits import printing
from fondale.core.model import Accepted, Model, Page, Project, Step
from fondale.core.model.lamps import String


def _with(project: Project, **changes: Any) -> Project:
    values = {name: getattr(project, name) for name in Project.model_fields}
    return Project.model_validate({**values, **(project.model_extra or {}), **changes})


def add(project: Project, field: str, thing: Model) -> Project:
    """Append ``thing`` to one of the project's lists."""
    return _with(project, **{field: (*getattr(project, field), thing)})


def remove(project: Project, field: str, ident: str) -> Project:
    """Take a thing out of its list, and out of whatever named it."""
    if project.find(field, ident) is None:
        raise LookupError(f"{ident} is not there")
    changes: dict[str, Any] = {field: tuple(m for m in getattr(project, field) if m.id != ident)}
    if field == "lamps":
        changes["strings"] = tuple(s.model_copy(update={"lamps": tuple(x for x in s.lamps if x != ident)}) for s in project.strings)
        changes["moments"] = tuple(
            m.model_copy(update={"levels": {k: v for k, v in m.levels.items() if k != ident}}) for m in project.moments
        )
    if field == "supplies":
        changes["strings"] = tuple(s for s in project.strings if s.supply != ident)
    if field == "surfaces":
        changes["steps"] = tuple(
            s.model_copy(
                update={"surfaces": tuple(x for x in s.surfaces if x != ident), "closes": tuple(x for x in s.closes if x != ident)}
            )
            for s in project.steps
        )
    if field == "prints":
        changes["pieces"] = tuple(
            p.model_copy(update={"shape": p.shape.model_copy(update={"file": ""})}) if getattr(p.shape, "file", None) == ident else p
            for p in project.pieces
        )
    if field == "steps":
        changes["steps"] = tuple(s.model_copy(update={"after": tuple(x for x in s.after if x != ident)}) for s in changes["steps"])
    return _with(project, **changes)


def reorder_steps(project: Project, order: tuple[str, ...]) -> Project:
    """Put the steps into this order of ids (the same ids, each once)."""
    by_id = {s.id: s for s in project.steps}
    if sorted(order) != sorted(by_id):
        raise LookupError("the steps have changed since")
    return _with(project, steps=tuple(by_id[i] for i in order))


def rescale_file(project: Project, pieces: tuple[str, ...], percent: float) -> Project:
    """Print these pieces again at ``percent`` of what they are: every measured size follows, and their files."""
    return _with(project, **printing.rescale_pieces(project, pieces, percent))


def scale_file(project: Project, files: tuple[str, ...], percent: float, stretch: tuple[float, float, float] | None = None) -> Project:
    """Print these files at ``percent`` of their size: the pieces made of them follow."""
    return _with(project, **printing.scale_file(project, files, percent, stretch))


def add_steps(project: Project, steps: tuple[Step, ...]) -> Project:
    """Put steps before all others: what is printed and built comes before what is painted."""
    return _with(project, steps=(*steps, *project.steps))


def replace_string(project: Project, ident: str, strings: tuple[String, ...]) -> Project:
    """Wire one string anew as these strings."""
    at = next((i for i, s in enumerate(project.strings) if s.id == ident), None)
    if at is None:
        raise LookupError("the string is gone")
    return _with(project, strings=(*project.strings[:at], *strings, *project.strings[at + 1 :]))


def accept(project: Project, key: str, reason: str) -> Project:
    """Leave a prompt as it is, for a reason."""
    kept = tuple(a for a in project.accepted if a.key != key)
    return _with(project, accepted=(*kept, Accepted(key=key, reason=reason)))


def reopen(project: Project, key: str) -> Project:
    """Let a prompt that was left speak again."""
    return _with(project, accepted=tuple(a for a in project.accepted if a.key != key))


def log_evening(project: Project, page: Page) -> Project:
    """Write a page and mark its steps as done."""
    steps = tuple(s.model_copy(update={"done": True}) if s.id in page.done else s for s in project.steps)
    return _with(project, pages=(*project.pages, page), steps=steps)


ACTIONS: dict[str, Callable[..., Project]] = {
    "add": add,
    "remove": remove,
    "reorder_steps": reorder_steps,
    "rescale_file": rescale_file,
    "scale_file": scale_file,
    "add_steps": add_steps,
    "replace_string": replace_string,
    "accept": accept,
    "reopen": reopen,
    "log_evening": log_evening,
}
