"""Reading and writing `.fondale` files: a zip of project.json, written beside and swapped, five backups kept."""

import json
import os
import zipfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from fondale.core.edits import new_id
from fondale.core.model import LISTS, SCHEMA_VERSION, Project
from fondale.core.model.references import loose_ends, tied_up
from fondale.core.model.spots import Attribute
from fondale.core.troubles import Trouble
from fondale.storage.migrations import migrate

ENDING = ".fondale"
BACKUPS = 5
ASSETS = "assets/"
Assets = dict[str, bytes]
_LARGEST_JSON = 64 * 1024 * 1024


class FileTrouble(Trouble):
    """A file that cannot be read or written; the text says what is wrong and what to do."""


def to_json(project: Project) -> str:
    """The project as JSON, schema version first."""
    return project.model_dump_json(indent=1)


@dataclass(frozen=True)
class Opened:
    """What a file held, and in words what had to be mended in it."""

    project: Project
    assets: Assets
    notes: tuple[str, ...] = ()


def from_json(text: str | bytes, where: str = "This file") -> Project:
    """A project from JSON of this version or an older one, mended. Raises FileTrouble."""
    return read_json(text, where)[0]


def read_json(text: str | bytes, where: str = "This file") -> tuple[Project, tuple[str, ...]]:
    """A project from JSON of this version or an older one, and what was mended in it. Raises FileTrouble."""
    try:
        raw = json.loads(text, parse_constant=_no_constant)
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
    except ValidationError as error:
        first = error.errors()[0]
        place = " / ".join(str(p) for p in first["loc"]) or "the project"
        raise FileTrouble(f"{where} has a value that cannot be: {place}: {first['msg']}. Try a backup beside it.") from error
    except (KeyError, TypeError, AttributeError) as error:
        raise FileTrouble(f"{where} could not be brought up to date: {error}.") from error
    project, notes = tied_up(read), []
    if doubles:
        notes.append(f"{doubles} {'thing' if doubles == 1 else 'things'} bore the name of another and got a new one")
    if ends := len(loose_ends(read)):
        notes.append(f"{ends} {'link' if ends == 1 else 'links'} to what is not in it {'was' if ends == 1 else 'were'} let go")
    return project, tuple(notes)


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
    """Read the project of a `.fondale` file. Raises FileTrouble in words for anything that is wrong with it."""
    return load_all(path).project


def load_all(path: Path) -> Opened:
    """Read a `.fondale` file with its assets. Raises FileTrouble in words for anything that is wrong with it."""
    name = f"“{path.name}”"
    try:
        with zipfile.ZipFile(path) as archive:
            info = archive.getinfo("project.json")
            if info.file_size > _LARGEST_JSON:
                raise FileTrouble(f"{name} is too large to be a Fondale project.")
            text = archive.read(info)
            assets = {n: archive.read(n) for n in archive.namelist() if n.startswith(ASSETS) and not n.endswith("/")}
    except FileTrouble:
        raise
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
    project, notes = read_json(text, name)
    return Opened(project, assets, notes)


def used_assets(project: Project, assets: Assets) -> Assets:
    """The assets that the project names, and those of kinds that this version does not know."""
    named = {m.asset for field in ("photos", "prints") for m in getattr(project, field)}
    ours = (f"{ASSETS}photos/", f"{ASSETS}prints/")
    return {name: data for name, data in assets.items() if name in named or not name.startswith(ours)}


def save(project: Project, path: Path, assets: Assets | None = None) -> None:
    """Write beside, make sure it is on the disk, keep the last five saves, swap. Raises FileTrouble."""
    beside = path.with_name(f".{path.name}.writing")
    try:
        with open(beside, "wb") as raw:
            with zipfile.ZipFile(raw, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("project.json", to_json(project))
                for name, data in sorted((assets or {}).items()):
                    # Photographs are packed already, and packing a large mesh takes longer than the disk does.
                    archive.writestr(name, data, zipfile.ZIP_STORED)
            raw.flush()
            os.fsync(raw.fileno())
        if path.exists():
            _rotate(path)
        os.replace(beside, path)
        _sync_folder(path.parent)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise FileTrouble(f"“{path.name}” could not be written: {error.strerror or error}. Nothing was lost; save it elsewhere.") from error


def put_file(path: Path, data: bytes) -> None:
    """Write a file that others will read, whole or not at all. Raises OSError."""
    beside = path.with_name(f".{path.name}.writing")
    try:
        beside.write_bytes(data)
        os.replace(beside, path)
    except OSError:
        beside.unlink(missing_ok=True)
        raise


def backups(path: Path) -> list[Path]:
    """The backups of a file, newest first."""
    return [b for b in (backup_path(path, k) for k in range(1, BACKUPS + 1)) if b.exists()]


def backup_path(path: Path, number: int) -> Path:
    """Where backup ``number`` of a file lies (1 is the newest)."""
    return path.with_name(f"{path.stem}.backup{number}{path.suffix}")


def _rotate(path: Path) -> None:
    for number in range(BACKUPS - 1, 0, -1):
        older = backup_path(path, number)
        if older.exists():
            os.replace(older, backup_path(path, number + 1))
    # A link keeps the present file in place until the swap: there is no moment without it.
    newest = backup_path(path, 1)
    try:
        os.link(path, newest)
    except OSError:
        newest.write_bytes(path.read_bytes())


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
