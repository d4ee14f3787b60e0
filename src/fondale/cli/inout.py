# SPDX-License-Identifier: MIT
"""What all commands share: what they are given and read, what they may write, JSON, and progress.

Nothing here, nor where a command is declared, loads what computes: a command loads what it needs when it runs.
"""

import json
import os
import sys
import tempfile
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

import click
from click.shell_completion import CompletionItem

if TYPE_CHECKING:
    from rich.progress import Progress, TaskID

    from fondale.app.window import Window
    from fondale.core.model import Project

STANDARD = Path("-")  # standard input or output
FIRST, LAST = date(1990, 1, 1), date(2199, 12, 31)  # days that a plan can start on
FILE = click.Path(path_type=Path)
force = click.option("--force", is_flag=True, help="Write over files that are there; never over one that is read.")
as_json = click.option("--json", "as_json", is_flag=True, help="Machine-readable output.")


class DayType(click.ParamType[date]):
    """A day, as the window reads it."""

    name = "date"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> date:
        from fondale.core.times import parse_first_day
        from fondale.core.troubles import Trouble

        try:
            day = parse_first_day(str(value), ctx.obj.today if ctx is not None else None)
        except Trouble as trouble:
            self.fail(f"“{value}” is not a day. {trouble}", param, ctx)
        if not FIRST <= day <= LAST:
            self.fail(f"“{value}” is out of reach: days go from {FIRST} to {LAST}.", param, ctx)
        return day


class OneOf(click.ParamType[str]):
    """One of some names, which are looked up when they are needed; ``taken`` makes the name of what was typed, or raises a trouble."""

    def __init__(self, name: str, names: Callable[[], Iterable[str]], taken: Callable[[str], str] = str) -> None:
        self.name, self._names, self._taken = name, names, taken

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> str:
        name, names = self._taken(str(value)), list(self._names())
        if name not in names:
            self.fail(f"There is no {self.name} “{value}”. There are: {', '.join(names)}.", param, ctx)
        return name

    def shell_complete(self, ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
        return [CompletionItem(n) for n in self._names() if n.startswith(incomplete)]


class Work(click.Command):
    """A command that reads and computes here: it begins by making sure that one line is said whatever becomes of it."""

    def invoke(self, ctx: click.Context) -> Any:
        ctx.obj.at_work()
        return super().invoke(ctx)


@dataclass
class Given:
    """What a command is given beside its own arguments, and what it has read and written so far."""

    open_window: Callable[["Window"], int]
    today: date
    at_work: Callable[[], None]
    read: list[Path] = field(default_factory=list)
    written: list[Path] = field(default_factory=list)
    aloud: bool = True  # False: standard output holds a file

    def source(self, path: Path, ending_of: Callable[[bytes], str]) -> Path:
        """The file to read, which is never written over; ``-`` is standard input, kept in a file whose ending its content says."""
        self.read.append(path)
        if path != STANDARD:
            return path
        data = sys.stdin.buffer.read()
        folder = click.get_current_context().with_resource(tempfile.TemporaryDirectory())
        kept = Path(folder) / f"standard input{ending_of(data)}"
        kept.write_bytes(data)
        return kept

    def project(self, path: Path) -> "Project":
        """The project that is to be read, its own rows in the tables. Raises FileTrouble."""
        return opened(self.source(path, lambda _data: ".fondale"))

    def will_write(self, paths: Iterable[Path], over: bool, as_json: bool = False) -> None:
        """Ask before the work is done. Raises Trouble where a file is one that was read, or is there and must not be written over, and
        UsageError where two things would go to standard output.
        """
        from fondale.core.troubles import Trouble

        for path in paths:
            if path == STANDARD:
                self.aloud = False
                if as_json:
                    raise clash("--json", "a file that goes to standard output")
            elif any(_same(path, read) for read in self.read):
                raise Trouble(f"{path} is what is read here; nothing was written. Choose another name or folder.")
            elif path.exists() and not over:
                raise Trouble(f"{path} is there already; nothing was written. Choose another name, or say --force.")

    def write(self, path: Path, data: bytes) -> None:
        """A file, with its folder, there whole or not at all; ``-`` is standard output. Raises Trouble."""
        from fondale.core.troubles import Trouble
        from fondale.storage import disk_words, put_file

        if path == STANDARD:
            sys.stdout.buffer.write(data)
            return
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            put_file(path, data)
        except OSError as error:
            raise Trouble(f"{path} cannot be written: {disk_words(error)}.{self.left()}") from error
        self.written.append(path)

    def save(self, project: "Project", path: Path, assets: Mapping[str, bytes]) -> None:
        """A project with its assets, as the window saves it; ``-`` is standard output. Raises FileTrouble."""
        from fondale.storage import save

        if path != STANDARD:
            save(project, path, assets)
            self.written.append(path)
            return
        with tempfile.TemporaryDirectory() as folder:
            kept = Path(folder) / "project.fondale"
            save(project, kept, assets)
            self.write(path, kept.read_bytes())

    def left(self) -> str:
        """What stands on the disk by now, in words."""
        return f" Written so far: {', '.join(map(str, self.written))}." if self.written else ""

    def say(self, words: str) -> None:
        """A line of the answer: on standard error where a file goes to standard output."""
        click.echo(words, err=not self.aloud)

    def tell(self, data: Any) -> None:
        """The answer for machines."""
        click.echo(json.dumps(data, indent=1, ensure_ascii=False))


def opened(source: Path) -> "Project":
    """The project of a file, its own rows in the tables. Raises FileTrouble."""
    from fondale.core.tables import in_force
    from fondale.storage import load

    project = load(source)
    in_force(project)
    return project


def _same(a: Path, b: Path) -> bool:
    try:
        return a.samefile(b)
    except OSError:
        return os.path.abspath(a) == os.path.abspath(b)


def clash(*options: str) -> click.UsageError:
    """Two options that contradict each other."""
    return click.UsageError(f"{' and '.join(options)} contradict each other.", click.get_current_context())


def idle(option: str, without: str) -> click.UsageError:
    """An option that would do nothing."""
    return click.UsageError(f"{option} does nothing without {without}.", click.get_current_context())


class Watch:
    """Shows progress of long work on a terminal, and nothing elsewhere."""

    def __init__(self, words: str = "working", to: IO[str] | None = None) -> None:
        self._words, self._bar = words, to or sys.stderr
        self._progress: Progress | None = None
        self._task: TaskID | None = None

    def __enter__(self) -> "Watch":
        if self._bar.isatty():
            from rich.console import Console
            from rich.progress import Progress

            self._progress = Progress(console=Console(stderr=True), transient=True)
            self._progress.start()
            self._task = self._progress.add_task(self._words, total=1.0)
        return self

    def __exit__(self, *_rest: object) -> None:
        if self._progress is not None:
            self._progress.stop()

    def step(self, share: float, words: str) -> None:
        """So much is done, and this is being done."""
        if self._progress is not None and self._task is not None:
            self._progress.update(self._task, completed=share, description=words or self._words)
