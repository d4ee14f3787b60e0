# SPDX-License-Identifier: MIT
"""Citations by key: every key in a docstring or comment is known, and every known source is used."""

import ast
import io
import re
import tokenize
from pathlib import Path

import pytest

from fondale.core.how import cite
from fondale.knowledge import table

ROOT = Path(__file__).parents[2]
KEY = re.compile(r"(?<!ignore)\[([a-z][a-z0-9]{3,})\]")
CITED = re.compile(r"cite\(([^)]*)\)")


def prose(file: Path) -> str:
    """Docstrings and comments."""
    text = file.read_text("utf-8")
    said = [t.string for t in tokenize.generate_tokens(io.StringIO(text).readline) if t.type == tokenize.COMMENT]
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef):
            said.append(ast.get_docstring(node) or "")
    return "\n".join(said)


def named() -> dict[str, Path]:
    """Keys that stand in prose or are cited, with a file that does."""
    out: dict[str, Path] = {}
    for folder in ("src", "tests", "benchmarks"):
        for file in (ROOT / folder).rglob("*.py"):
            out |= dict.fromkeys(KEY.findall(prose(file)), file)
            for args in CITED.findall(file.read_text("utf-8")):
                out |= dict.fromkeys(re.findall(r"[\"']([a-z0-9]+)[\"']", args), file)
    return out


def test_every_key_is_known_and_every_source_is_used():
    found, known = named(), set(table("sources"))
    assert {k: str(f) for k, f in found.items() if k not in known} == {}
    assert known - set(found) == set()


def test_a_source_is_cited_in_words():
    assert cite("drillis1966", "wcag22") == "Drillis and Contini 1966; WCAG 2.2"
    nobody = "nobody1900"
    with pytest.raises(KeyError):
        cite(nobody)
