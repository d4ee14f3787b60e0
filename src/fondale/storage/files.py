"""Reading and writing `.fondale` files: a zip of project.json, written beside and swapped, five backups kept."""

import json
import math
import os
import re
import zipfile
from collections.abc import Mapping
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
from fondale.storage.disk import Stamp, Swap, disk_words, held, ordinary, stamp, sweep, twin
from fondale.storage.migrations import migrate

ENDING = ".fondale"
BACKUPS = 5
LARGEST_FILE = 4_000_000_000
LARGEST_JSON = 64 * 1024 * 1024
MOST_THINGS = 50_000  # in one list
_DEEPEST = 60  # our own models are less than ten deep
_LONE = re.compile("[\ud800-\udfff]")
_LONGEST_NAME = 255  # bytes, on the usual disks


class FileTrouble(Trouble):
    """A file that cannot be read or written; the text says what is wrong and what to do."""


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
        raise FileTrouble(
            f"{where} was written by a newer Fondale (version {version} of the file, this one reads up to {SCHEMA_VERSION})."
            " Update Fondale to open it; the file was not touched."
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
    except (KeyError, TypeError, AttributeError) as error:
        raise FileTrouble(f"{where} could not be brought up to date: {error}.") from error
    project, notes = tied_up(read), [*odd]
    if doubles:
        notes.append(f"{doubles} {'thing' if doubles == 1 else 'things'} bore the name of another and got a new one")
    if ends := len(loose_ends(read)):
        notes.append(f"{ends} {'link' if ends == 1 else 'links'} to what is not in it {'was' if ends == 1 else 'were'} let go")
    return project, tuple(notes)


def _sound(raw: Any) -> tuple[Any, list[str]]:
    """Raw JSON without what cannot be written again: half characters and numbers beyond all range; and what was mended, in words.

    Raises ValueError for what is nested too deep.
    """
    found = {"half": 0, "far": 0}

    def mended(value: Any, deep: int) -> Any:
        if deep > _DEEPEST:
            raise ValueError(f"it is nested more than {_DEEPEST} deep")
        if isinstance(value, str):
            fine = _LONE.sub("\ufffd", value)
            found["half"] += fine != value
            return fine
        if isinstance(value, dict):
            return {mended(k, deep + 1): mended(v, deep + 1) for k, v in value.items()}
        if isinstance(value, list):
            if len(value) > MOST_THINGS:
                raise ValueError(f"a list in it has {len(value)} things, and {MOST_THINGS} are the most")
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
    name = f"“{path.name}”"
    try:
        ordinary(path, LARGEST_FILE)
        here = stamp(path)
        archive = opened(path)
        info = archive.zip.getinfo("project.json")
        if info.file_size > LARGEST_JSON:
            raise FileTrouble(f"{name} is too large to be a Fondale project.")
        text = archive.read("project.json")
        assets = Assets.of(archive)
    except FileTrouble:
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


def used_assets(project: Project, assets: Assets) -> Assets:
    """The assets that the project names, and those of kinds that this version does not know."""
    named = {m.asset for field in ("photos", "prints") for m in getattr(project, field)}
    ours = (f"{PREFIX}photos/", f"{PREFIX}prints/")
    return assets.only([name for name in assets if name in named or not name.startswith(ours)])


@dataclass(frozen=True)
class Saved:
    """The file as it is now, and the assets that could not be read, so that they are not in it."""

    stamp: Stamp | None
    lost: tuple[str, ...] = ()


def save(project: Project, path: Path, assets: Mapping[str, bytes] | None = None, expected: Stamp | None = None) -> Saved:
    """Write beside, make sure it is on the disk, keep the last five saves, swap.

    ``expected`` is the file as it was opened or saved last. Raises FileTrouble, and FileChanged where another has taken its place since.
    """
    lost: list[str] = []
    try:
        with Swap(path) as swap:
            sweep(swap.path.parent)
            with zipfile.ZipFile(swap.file, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("project.json", to_json(project))
                for name in sorted(assets or {}):
                    try:
                        data = (assets or {})[name]
                    except OSError:  # one that is damaged never keeps the project from being written
                        lost.append(name)
                        continue
                    # Photographs are packed already, and packing a large mesh takes longer than the disk does.
                    archive.writestr(name, data, zipfile.ZIP_STORED)
            swap.finish()
            with held(swap.path):
                if expected is not None and swap.path.exists() and stamp(swap.path) != expected:
                    raise FileChanged(f"“{path.name}” was written by another program or window since it was opened here.")
                if swap.path.exists():
                    _rotate(swap.path)
                swap.take()
    except OSError as error:
        raise FileTrouble(f"“{path.name}” could not be written: {disk_words(error)}. Nothing was lost; save it elsewhere.") from error
    return Saved(stamp(path), tuple(lost))


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


def _rotate(path: Path) -> None:
    # The twin is made before anything moves: where the disk is full, all backups stay as they are.
    newest = twin(path)
    try:
        for number in range(BACKUPS - 1, 0, -1):
            older = backup_path(path, number)
            if older.exists():
                os.replace(older, backup_path(path, number + 1))
        os.replace(newest, backup_path(path, 1))
    finally:
        newest.unlink(missing_ok=True)
