"""docs/cli.md says what the code does: every command, its arguments and options, the exit codes."""

import re
from pathlib import Path

import click

from fondale.cli import front

PAGE = (Path(__file__).parents[2] / "docs" / "cli.md").read_text("utf-8")
ROWS = {found[1]: found[2] for found in re.finditer(r"^\| `fondale ([a-z]+)(.*?)` \| ", PAGE, re.M)}


def test_every_command_stands_on_the_page_and_no_other():
    assert set(ROWS) == set(front.cli.commands)


def test_every_option_and_argument_stands_there_and_no_other():
    for name, command in front.cli.commands.items():
        options = {o for p in command.params if isinstance(p, click.Option) for o in p.opts if o.startswith("--")}
        assert set(re.findall(r"--[a-z-]+", ROWS[name])) == options, name
        arguments = [p.name.upper() for p in command.params if isinstance(p, click.Argument) and not isinstance(p.type, click.Choice)]
        assert re.findall(r"\b[A-Z]{4,}\b", re.sub(r"\[?--\S+( or)? ?[A-Z1:]+", "", ROWS[name])) == arguments, name


def test_choices_are_those_of_the_code():
    from fondale.demo import SHORT

    assert all(f"`{short}`" in PAGE for short in SHORT)


def test_exit_codes_stand_there():
    told = {int(code) for code in re.findall(r"^\| (\d+) \|", PAGE, re.M)}
    assert told == {0, 1, 2, front.STOPPED, front.CUT_OFF}
