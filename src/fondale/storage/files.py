# SPDX-License-Identifier: MIT
"""Reading and writing `.fondale` files: a zip of project.json, written beside and swapped, five backups kept."""

import contextlib
import json
import math
import os
import re
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from pydantic_core import PydanticSerializationError

from fondale.core.edits import new_id
from fondale.core.model import LISTS, SCHEMA_VERSION, Project
from fondale.core.model.references import loose_ends, tied_up
from fondale.core.model.spots import Attribute
from fondale.core.troubles import Trouble
from fondale.storage.assets import PREFIX, Assets, TooMuch, opened
from fondale.storage.disk import ReadOnly, Stamp, Swap, disk_words, held, no_room, ordinary, stamp, sweep, twin
from fondale.storage.limits import PROJECT_BYTES, PROJECT_DEEP, PROJECT_JSON_BYTES, PROJECT_NESTS, PROJECT_THINGS
from fondale.storage.migrations import migrate
from fondale.storage.patience import patience
from fondale.storage.unfolded import Endless

ENDING = ".fondale"
BACKUPS = 5
_LONE = re.compile("[\ud800-\udfff]")
_LONGEST_NAME = 255  # bytes, on the usual disks


class FileTrouble(Trouble):
    """A file that cannot be read or written; the text says what is wrong and what to do."""


class NewerFile(FileTrouble):
    """A project of a version that this Fondale does not know yet."""


class FileReadOnly(FileTrouble):
    """A file that its owner keeps from being written over."""


class FileChanged(FileTrouble):
    """The file on the disk is not the one that was opened: somebody else has written it since."""


def to_json(project: Project) -> str:
    """The project as JSON, schema version first."""
    return project.model_dump_json(indent=1)


@dataclass(frozen=True)
class Opened:
    """What a file held, and in words what had to be mended in it."""

    project: Project
    assets: Assets
    notes: tuple[str, ...] = ()
    stamp: Stamp | None = None


def from_json(text: str | bytes, where: str = "This file") -> Project:
    """A project from JSON of this version or an older one, mended. Raises FileTrouble."""
    return read_json(text, where)[0]


def read_json(text: str | bytes, where: str = "This file") -> tuple[Project, tuple[str, ...]]:
    """A project from JSON of this version or an older one, and what was mended in it. Raises FileTrouble."""
    if len(text) > PROJECT_JSON_BYTES or _nests(text) > PROJECT_NESTS:
        raise FileTrouble(f"{where} is too large to be a Fondale project.")
    try:
        raw = json.loads(text, parse_constant=_no_constant)
        raw, odd = _sound(raw)
    except (ValueError, UnicodeDecodeError, RecursionError) as error:
        raise FileTrouble(f"{where} is damaged: its project is not readable ({error}). Try a backup beside it.") from error
    if not isinstance(raw, dict):
        raise FileTrouble(f"{where} holds no Fondale project.")
    version = raw.get("schema_version", 0)
    if not isinstance(version, int) or version < 0:
        raise FileTrouble(f"{where} does not say which version it is.")
    if version > SCHEMA_VERSION:
        raise NewerFile(
            f"{where} was written by a newer Fondale (its version is {version}, this one reads up to {SCHEMA_VERSION})."
            " Update Fondale to open it; it was not touched."
        )
    try:
        raw = migrate(raw, SCHEMA_VERSION)
        doubles = _part_doubles(raw)
        read = Project.model_validate(raw)
        to_json(read)
    except PydanticSerializationError as error:
        raise FileTrouble(f"{where} holds what could not be saved again: {error}. Try a backup beside it.") from error
    except ValidationError as error:
        first = error.errors(include_url=False, include_context=False, include_input=False)[0]
        place = " / ".join(str(p) for p in first["loc"]) or "the project"
        raise FileTrouble(f"{where} has a value that cannot be: {place}: {first['msg']}. Try a backup beside it.") from error
    except Endless:
        raise
    except Exception as error:  # what an older version never wrote trips a step in any way
        raise FileTrouble(
            f"{where} could not be brought up to date: its parts are not those of a project. Try a backup beside it."
        ) from error
    project, notes = tied_up(read), [*odd]
    if doubles:
        notes.append(f"{doubles} {'thing' if doubles == 1 else 'things'} bore the name of another and got a new one")
    if ends := len(loose_ends(read)):
        notes.append(f"{ends} {'link' if ends == 1 else 'links'} to what is not in it {'was' if ends == 1 else 'were'} let go")
    return project, tuple(notes)


def _nests(text: str | bytes) -> int:
    """Lists and objects in JSON, at most: each takes memory of its own, however short it is written."""
    return text.count(b"{") + text.count(b"[") if isinstance(text, bytes) else text.count("{") + text.count("[")


def _sound(raw: Any) -> tuple[Any, list[str]]:
    """Raw JSON without what cannot be written again: half characters and numbers beyond all range; and what was mended, in words.

    Raises ValueError for what is nested too deep.
    """
    found = {"half": 0, "far": 0}

    def mended(value: Any, deep: int) -> Any:
        if deep > PROJECT_DEEP:
            raise ValueError(f"it is nested more than {PROJECT_DEEP} deep")
        if isinstance(value, str):
            fine = _LONE.sub("\ufffd", value)
            found["half"] += fine != value
            return fine
        if isinstance(value, dict):
            return {mended(k, deep + 1): mended(v, deep + 1) for k, v in value.items()}
        if isinstance(value, list):
            if len(value) > PROJECT_THINGS:
                raise ValueError(f"a list in it has {len(value)} things, and {PROJECT_THINGS} are the most")
            return [mended(v, deep + 1) for v in value]
        if isinstance(value, float) and not math.isfinite(value):
            found["far"] += 1
            return None
        if isinstance(value, int) and not isinstance(value, bool) and abs(value) >= 2**63:
            found["far"] += 1
            return float(value) if abs(value) < 1e308 else None
        return value

    raw = mended(raw, 0)
    words = {"half": "half characters were replaced by a mark", "far": "numbers beyond all range were let go"}
    return raw, [words[k] for k, n in found.items() if n]


def _part_doubles(raw: dict[str, Any]) -> int:
    """Give each thing that bears the id of another of its list a new one, in raw JSON; how many there were."""
    count = 0
    for listing in LISTS:
        holder: Any = raw
        *way, name = (step.name for step in listing.spot.path if isinstance(step, Attribute))
        for key in way:
            holder = holder.get(key) if isinstance(holder, dict) else None
        members = holder.get(name) if isinstance(holder, dict) else None
        if not isinstance(members, list):
            continue
        taken: set[str] = set()
        for member in members:
            if isinstance(member, dict) and isinstance(member.get("id"), str):
                if member["id"] in taken:
                    member["id"], count = new_id(member["id"], taken), count + 1
                taken.add(member["id"])
    return count


def _no_constant(name: str) -> Any:
    raise ValueError(f"{name} is not a number")


def load(path: Path) -> Project:
    """Read the project of a `.fondale` file, and none of its assets. Raises FileTrouble in words for anything that is wrong with it."""
    return load_all(path).project  # what was opened for its assets closes with them


def load_all(path: Path) -> Opened:
    """Read a `.fondale` file; its assets are read when they are asked for. Raises FileTrouble in words for anything wrong with it."""
    try:
        with patience():
            return _loaded(path, f"“{path.name}”")
    except Endless as error:
        raise FileTrouble(f"“{path.name}” is too large to be a Fondale project: {error}.") from error


def _loaded(path: Path, name: str) -> Opened:
    try:
        ordinary(path, PROJECT_BYTES)
        here = stamp(path)
        archive = opened(path)
        info = archive.zip.getinfo("project.json")
        if info.file_size > PROJECT_JSON_BYTES:
            raise FileTrouble(f"{name} is too large to be a Fondale project.")
        text = archive.read("project.json")
        assets = Assets.of(archive)
    except (FileTrouble, Endless):
        raise
    except TooMuch as error:
        raise FileTrouble(f"{name} is too large to be a Fondale project: {error}.") from error
    except FileNotFoundError as error:
        raise FileTrouble(f"There is no file {path}.") from error
    except IsADirectoryError as error:
        raise FileTrouble(f"{path} is a folder. Name a .fondale file in it.") from error
    except KeyError as error:
        raise FileTrouble(f"{name} holds no Fondale project.") from error
    except (zipfile.BadZipFile, RuntimeError, EOFError) as error:
        raise FileTrouble(f"{name} is not a Fondale file, or it is damaged. Try a backup beside it.") from error
    except OSError as error:
        raise FileTrouble(f"{name} cannot be read: {error.strerror or error}.") from error
    except Exception as error:  # zlib and friends on hostile input: the file is damaged, the program is not
        raise FileTrouble(f"{name} is damaged: {error}. Try a backup beside it.") from error
    if not assets:
        archive.close()
    project, notes = read_json(text, name)
    return Opened(project, assets, notes, here)


def assets_of(path: Path, expected: Stamp | None) -> Assets:
    """The assets of a file that was read just now, unread. Raises FileTrouble where it is another one by now, or cannot be read any more."""
    try:
        archive = opened(path)
        assets = Assets.of(archive)
    except (OSError, zipfile.BadZipFile, RuntimeError, ValueError, TooMuch) as error:
        raise FileTrouble(f"“{path.name}” cannot be read: {error}.") from error
    if stamp(path) != expected:
        raise FileTrouble(f"“{path.name}” was written by another program while it was read. Open it again.")
    if not assets:
        archive.close()
    return assets


def used_assets(project: Project, assets: Assets) -> Assets:
    """The assets that the project names, and those of kinds that this version does not know."""
    named = _named(project)
    ours = (f"{PREFIX}photos/", f"{PREFIX}prints/")
    return assets.only([name for name in assets if name in named or not name.startswith(ours)])


def _named(project: Project) -> set[str]:
    return {m.asset for field in ("photos", "prints") for m in getattr(project, field)}


@dataclass(frozen=True)
class Saved:
    """The file as it is now; the assets that it names and that could be read nowhere, so that they are not in it; and those that were found
    again in an earlier save, with where.
    """

    stamp: Stamp | None
    lost: tuple[str, ...] = ()
    again: tuple[tuple[str, Path], ...] = ()


def save(
    project: Project,
    path: Path,
    assets: Mapping[str, bytes] | None = None,
    expected: Stamp | None = None,
    origin: Path | None = None,
    force: bool = False,
) -> Saved:
    """Write beside, make sure it is on the disk, keep the last five saves, swap. An asset that is missing, or cannot be read, is looked for
    in what lies in ``path`` and in ``origin``, where the project was opened, and in their backups; a backup that alone holds it stays.

    ``expected`` is the file as it was opened or saved last. Raises FileTrouble; FileChanged where another has taken its place since, and
    FileReadOnly where it may only be read, unless ``force``.
    """
    given = assets or {}
    missing = [name for name in sorted(_named(project) - set(given)) if name]
    again: dict[str, Path] = {}
    try:
        with Swap(path, force=force) as swap:
            sweep(swap.path.parent)
            with zipfile.ZipFile(swap.file, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("project.json", to_json(project))
                for name in sorted(given):
                    try:
                        data = given[name]
                    except OSError:  # one that is damaged never keeps the project from being written
                        missing.append(name)
                        continue
                    # Photographs are packed already, and packing a large mesh takes longer than the disk does.
                    archive.writestr(name, data, zipfile.ZIP_STORED)
                for name, (data, where) in found_again(missing, *filter(None, dict.fromkeys((path, origin)))).items():
                    archive.writestr(name, data, zipfile.ZIP_STORED)
                    again[name] = where
            swap.finish()
            lost = tuple(name for name in missing if name not in again)
            with held(swap.path):
                if expected is not None and swap.path.exists() and stamp(swap.path) != expected:
                    raise FileChanged(f"“{path.name}” was written by another program or window since it was opened here.")
                if swap.path.exists():
                    _rotate(swap.path, lost)
                swap.take()
    except ReadOnly as error:
        raise FileReadOnly(f"“{path.name}” may only be read.") from error
    except OSError as error:
        words = disk_words(no_room(error, path.parent, _size(project, given)))
        raise FileTrouble(f"“{path.name}” could not be written: {words}. Nothing was lost; save it elsewhere.") from error
    return Saved(stamp(path), lost, tuple(again.items()))


def _size(project: Project, assets: Mapping[str, bytes]) -> int:
    """Bytes that a save takes."""
    sizes = (assets.size(name) if isinstance(assets, Assets) else len(assets[name]) for name in assets)
    return len(zlib.compress(to_json(project).encode())) + sum(sizes)


def saves_of(path: Path) -> list[Path]:
    """A file and its backups, newest first."""
    return [p for p in (path, *backups(path)) if p.exists()]


def assets_in(path: Path) -> Assets:
    """The assets of a save, unread; none where it cannot be read."""
    try:
        return Assets.of(opened(path))
    except (OSError, zipfile.BadZipFile, RuntimeError, ValueError, TooMuch):
        return Assets()


def found_again(names: Sequence[str], *paths: Path) -> dict[str, tuple[bytes, Path]]:
    """Assets out of these files and their backups, newest first: what can be read whole, and where it was. An asset never changes under its name."""
    out: dict[str, tuple[bytes, Path]] = {}
    for path in (save for p in paths for save in saves_of(p)) if names else ():
        there = assets_in(path)
        for name in (n for n in names if n not in out and n in there):
            with contextlib.suppress(OSError):
                out[name] = there[name], path
    return out


def backups(path: Path) -> list[Path]:
    """The backups of a file, newest first."""
    return [b for b in (backup_path(path, k) for k in range(1, BACKUPS + 1)) if b.exists()]


def backup_path(path: Path, number: int) -> Path:
    """Where backup ``number`` of a file lies (1 is the newest)."""
    end = f".backup{number}{path.suffix}"
    stem = path.stem
    while len(os.fsencode(stem + end)) > _LONGEST_NAME:  # a name that is just short enough has backups too
        stem = stem[:-1]
    return path.with_name(stem + end)


def _rotate(path: Path, lost: Sequence[str]) -> None:
    """The file becomes the first backup, and the others move on; the last one goes, unless it alone holds what is ``lost``."""
    oldest = backup_path(path, BACKUPS)
    others = {n for save in saves_of(path) if lost and save != oldest for n in assets_in(save)}
    stays = bool(lost) and any(n in set(lost) - others for n in assets_in(oldest))
    # The twin is made before anything moves: where the disk is full, all backups stay as they are.
    newest = twin(path)
    try:
        for number in range(BACKUPS - 1, 0, -1):
            older = backup_path(path, number)
            if older.exists() and not (stays and number == BACKUPS - 1):
                os.replace(older, backup_path(path, number + 1))
        os.replace(newest, backup_path(path, 1))
    finally:
        newest.unlink(missing_ok=True)
