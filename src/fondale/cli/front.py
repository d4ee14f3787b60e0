# SPDX-License-Identifier: MIT
"""The command line, and the commands that open the window. Bad files and bad values: one clear line on standard error and exit 2."""

import errno
import os
import sys
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

import click
from click.shell_completion import get_completion_class, shell_complete

from fondale import __version__
from fondale.cli import projects, workshop
from fondale.cli.inout import FILE, DayType, Given, OneOf, clash, force, idle

if TYPE_CHECKING:
    from fondale.app.window import Window

PROGRAM = "fondale"
COMPLETE = "_FONDALE_COMPLETE"
STOPPED, CUT_OFF = 130, 141  # as shells count what ends by an interrupt, and by a pipe that nobody reads


def _samples() -> list[str]:
    from fondale.demo import SHORT

    return list(SHORT)


def _sample(typed: str) -> str:
    from fondale.demo import SHORT

    return next((short for short, name in SHORT.items() if typed == name), typed)


@click.group(invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__)
@click.pass_context
def cli(ctx: click.Context) -> None:
    """Fondale plans miniature dioramas: scale, sight lines, light, wiring, paint and time.

    Without a command the window opens. FILE may be - for standard input, and a file that is written - for standard output.
    """
    if ctx.invoked_subcommand is None:
        from fondale.app.window import Window

        ctx.exit(ctx.obj.open_window(Window(today=ctx.obj.today)))


@cli.command("open")
@click.argument("file", type=FILE, required=False)
@click.option("--tell", is_flag=True, help="Say in the window, not here, why FILE cannot be opened.")
@click.pass_obj
def open_file(obj: Given, file: Path | None, tell: bool) -> int:
    """Open FILE in the window; without one, an empty project."""
    if tell and file is None:
        raise idle("--tell", "a file")
    from fondale.app.apart import opened_apart
    from fondale.app.window import Window
    from fondale.storage import FileTrouble

    try:
        document = opened_apart(file) if file else None
    except FileTrouble as trouble:
        if not tell:
            raise
        return obj.open_window(Window(today=obj.today, trouble=str(trouble)))
    return obj.open_window(Window(document=document, today=obj.today))


@cli.command()
@click.option("--sample", type=OneOf("sample", _samples, _sample), default="heron", show_default=True, help="heron, glasshouse or hut.")
@click.option("--tour", type=FILE, help="Go through all stations, write a picture of each into this folder, and end.")
@click.option("--save", "save_to", type=FILE, help="Write the sample to this file and do not open the window.")
@click.option("--today", type=DayType(), help="Pretend that today is this day.")
@force
@click.pass_obj
def demo(obj: Given, sample: str, tour: Path | None, save_to: Path | None, today: date | None, force: bool) -> int:
    """Open the demo, with dates that follow today."""
    if tour is not None and save_to is not None:
        raise clash("--tour", "--save")
    if force and tour is None and save_to is None:
        raise idle("--force", "--tour or --save")
    from fondale.app.window import Window
    from fondale.demo import SAMPLES, SHORT, sample_assets

    name, day = SHORT[sample], today or obj.today
    if save_to is not None:
        obj.will_write([save_to], force)
        obj.save(SAMPLES[name](day), save_to, sample_assets(name))
        return 0
    if tour is not None:
        obj.will_write(sorted(tour.glob("*.png"))[:1], force)
    return obj.open_window(Window(sample=name, tour=tour, today=day))


@cli.command()
@click.argument("shell", type=click.Choice(["bash", "zsh", "fish"]))
def completion(shell: str) -> int:
    """What makes SHELL complete commands and options: eval "$(fondale completion bash)"."""
    kind = get_completion_class(shell)
    assert kind is not None
    click.echo(kind(cli, {}, PROGRAM, COMPLETE).source())
    return 0


for command in (*projects.COMMANDS, *workshop.COMMANDS):
    cli.add_command(command)


def run(args: list[str], open_window: Callable[["Window"], int], today: date, at_work: Callable[[], None] = lambda: None) -> int:
    """Run the command line, ``at_work`` before anything that computes here; returns the exit code."""
    if COMPLETE in os.environ:
        return shell_complete(cli, {}, PROGRAM, COMPLETE, os.environ[COMPLETE])
    given = Given(open_window, today, at_work)
    try:
        with cli.make_context(PROGRAM, list(args), obj=given) as ctx:
            result = cli.invoke(ctx)
            sys.stdout.flush()
        return result if isinstance(result, int) else 0
    except click.exceptions.Exit as end:
        return end.exit_code
    except (KeyboardInterrupt, click.Abort):
        click.echo(f"{PROGRAM}: Stopped.{given.left() or ' Nothing was written.'}", err=True)
        return STOPPED
    except click.UsageError as error:
        command = error.ctx.command_path if error.ctx is not None else PROGRAM
        return _wrong(f"{' '.join(error.format_message().split())} Try: {command} --help")
    except BrokenPipeError:
        return cut_off()
    except Exception as error:
        return _wrong(_words(error, given))


def cut_off() -> int:
    """Whoever read has gone: nothing more is said, not at the end either."""
    for stream in (sys.stdout, sys.stderr):
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())
    return CUT_OFF


def _wrong(words: str) -> int:
    click.echo(f"{PROGRAM}: {words}", err=True)
    return 2


def _words(error: Exception, given: Given) -> str:
    """What is wrong with a file or a value. Raises anew what is neither."""
    from pydantic import ValidationError

    from fondale.core.edits.edit import words_of
    from fondale.core.troubles import Trouble
    from fondale.storage import disk_words
    from fondale.storage.patience import TOO_MUCH

    if isinstance(error, Trouble):
        return str(error)
    if isinstance(error, ValidationError):  # it can be typed, and cannot be
        return words_of(error)
    if isinstance(error, MemoryError):
        return f"This {TOO_MUCH}."
    if isinstance(error, OSError):
        if error.errno == errno.EPIPE:
            raise BrokenPipeError
        where = f"{error.filename} " if error.filename else "What was found "
        return f"{where}could not be read or written: {disk_words(error)}.{given.left()}"
    raise error
