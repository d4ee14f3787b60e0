"""The command line, and the commands that open the window. Bad files and bad values: one clear line on standard error and exit 2."""

from collections.abc import Callable
from datetime import date, datetime
from pathlib import Path

import click
from pydantic import ValidationError

from fondale.app.apart import opened_apart
from fondale.app.window import Window
from fondale.cli.inout import FILE, Given
from fondale.core.troubles import Trouble
from fondale.demo import SAMPLES, sample_assets
from fondale.storage import FileTrouble, disk_words, save
from fondale.storage.patience import TOO_MUCH


class _Group(click.Group):
    """Commands that compute are loaded when one is asked for, or the list of all: the window needs none of them."""

    def _load(self, ctx: click.Context) -> None:
        ctx.obj.at_work()
        from fondale.cli import commands, workshop

        for command in (*commands.COMMANDS, *workshop.COMMANDS):
            self.add_command(command)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in self.commands:
            self._load(ctx)
        return super().get_command(ctx, cmd_name)

    def list_commands(self, ctx: click.Context) -> list[str]:
        self._load(ctx)
        return super().list_commands(ctx)


@click.group(cls=_Group, invoke_without_command=True, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="fondale")
@click.pass_context
def cli(ctx: click.Context) -> None:
    """Fondale plans miniature dioramas: scale, sight lines, light, wiring, paint and time.

    Without a command the window opens.
    """
    if ctx.invoked_subcommand is None:
        ctx.exit(ctx.obj.open_window(Window(today=ctx.obj.today)))


@cli.command("open")
@click.argument("file", type=FILE, required=False)
@click.option("--tell", is_flag=True, help="Say in the window, not here, why FILE cannot be opened.")
@click.pass_obj
def open_file(obj: Given, file: Path | None, tell: bool) -> int:
    """Open FILE in the window; without one, an empty project."""
    try:
        document = opened_apart(file) if file else None
    except FileTrouble as trouble:
        if not tell:
            raise
        return obj.open_window(Window(today=obj.today, trouble=str(trouble)))
    return obj.open_window(Window(document=document, today=obj.today))


@cli.command()
@click.option("--sample", type=click.Choice(list(SAMPLES)), default=next(iter(SAMPLES)), help="Which sample.")
@click.option("--tour", type=FILE, help="Go through all stations, write a picture of each into this folder, and end.")
@click.option("--save", "save_to", type=FILE, help="Write the sample to this file and do not open the window.")
@click.option("--today", type=click.DateTime(["%Y-%m-%d"]), help="Pretend that today is this day.")
@click.pass_obj
def demo(obj: Given, sample: str, tour: Path | None, save_to: Path | None, today: datetime | None) -> int:
    """Open the demo, with dates that follow today."""
    day = today.date() if today else obj.today
    if save_to is not None:
        save(SAMPLES[sample](day), save_to, sample_assets(sample))
        return 0
    return obj.open_window(Window(sample=sample, tour=tour, today=day))


def run(args: list[str], open_window: Callable[[Window], int], today: date, at_work: Callable[[], None] = lambda: None) -> int:
    """Run the command line, ``at_work`` before anything that computes here; returns the exit code."""
    try:
        result = cli.main(args, prog_name="fondale", standalone_mode=False, obj=Given(open_window, today, at_work))
    except click.exceptions.Exit as end:
        return end.exit_code
    except click.Abort:
        return 130
    except Trouble as error:
        click.echo(f"fondale: {error}", err=True)
        return 2
    except ValidationError as error:  # it can be typed, and cannot be
        from fondale.core.edits.edit import words_of

        click.echo(f"fondale: {words_of(error)}", err=True)
        return 2
    except MemoryError:
        click.echo(f"fondale: This {TOO_MUCH}.", err=True)
        return 2
    except OSError as error:
        click.echo(f"fondale: What was found could not be written: {disk_words(error)}.", err=True)
        return 2
    except click.UsageError as error:
        click.echo(f"fondale: {error.format_message()} Try: fondale --help", err=True)
        return 2
    except click.ClickException as error:
        error.show()
        return error.exit_code
    return result if isinstance(result, int) else 0
