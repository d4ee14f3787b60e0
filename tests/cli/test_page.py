# SPDX-License-Identifier: MIT
"""docs/cli.md says what the code does: every command, its arguments and options, the exit codes."""

import json
import re
from pathlib import Path

import click
import jsonschema
import pytest
from pydantic import TypeAdapter

from fondale.cli import front
from fondale.cli.json_shapes import ANSWERS
from fondale.demo import SHORT, sample_assets
from tests.conftest import TODAY

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
    assert all(f"`{short}`" in PAGE for short in SHORT)


def test_exit_codes_stand_there():
    told = {int(code) for code in re.findall(r"^\| (\d+) \|", PAGE, re.M)}
    assert told == {0, 1, 2, front.STOPPED, front.CUT_OFF}


def shape(name: str) -> dict:
    return TypeAdapter(ANSWERS[name]).json_schema()


def fields(schema: dict) -> set[str]:
    """Every field, those that can be null with a ?."""
    kinds = (schema, *schema.get("$defs", {}).values())
    return {
        f"{field}{'?' if {'type': 'null'} in value.get('anyOf', ()) else ''}"
        for kind in kinds
        for field, value in kind["properties"].items()
    }


@pytest.mark.parametrize("name", ANSWERS)
def test_the_fields_of_every_answer_stand_there(name):
    told = re.search(rf"^`{name}`: `(.*?)`[,;.]", PAGE, re.M | re.S)[1]
    assert {f + n for f, n in re.findall(r'"([a-z_0-9]+)"(\??)', told)} == fields(shape(name))


def closed(schema: dict) -> dict:
    """The same, and nothing else is allowed."""
    for kind in (schema, *schema.get("$defs", {}).values()):
        kind["additionalProperties"] = False
    return schema


@pytest.mark.parametrize("sample", SHORT)
def test_answers_are_what_their_schema_says(sample, tmp_path, capsys):
    file = tmp_path / "a.fondale"
    calls = [[name, str(file), "--json"] for name in ("check", "fits", "photo", "circuit", "plan")]
    calls += [["scale", "54", "mm", "--json"], ["bits", str(file), "drum, 300 mm across, 420 long", "--json"]]
    if sample == "hut":  # its light is worked out soonest
        calls.append(["light", str(file), "--json"])
    if sample == "heron":
        (tmp_path / "crane.stl").write_bytes(sample_assets(SHORT[sample])["assets/prints/quay-crane.stl"])
        calls.append(["mesh", str(tmp_path / "crane.stl"), "--unit", "mm", "--machine", "resin_small", "--json"])
    front.run(["demo", "--sample", sample, "--save", str(file)], lambda _window: 0, TODAY)
    for call in calls:
        assert front.run(call, lambda _window: 0, TODAY) in (0, 1), call
        jsonschema.validate(json.loads(capsys.readouterr().out), closed(shape(call[0])))


def test_schemas_are_printed(capsys):
    assert front.run(["schema", "plan"], lambda _window: 0, TODAY) == 0
    assert json.loads(capsys.readouterr().out) == shape("plan")
    assert front.run(["schema", "papers"], lambda _window: 0, TODAY) == 2
