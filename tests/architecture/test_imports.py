# SPDX-License-Identifier: MIT
"""What loads what: a list is written without the libraries of PDF, and nothing of Fondale speaks to a network."""

import ast
import subprocess
import sys
from pathlib import Path

SOURCE = Path(__file__).parents[2] / "src" / "fondale"
NETWORK = {"socketserver", "http", "urllib", "ftplib", "smtplib", "telnetlib", "xmlrpc", "requests", "httpx", "aiohttp", "websockets"}


def test_a_list_is_written_without_the_libraries_of_pdf():
    code = "import sys, fondale.papers.lists; print([m for m in ('reportlab', 'icalendar', 'PIL') if m in sys.modules])"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.strip() == "[]"


def test_nothing_is_sent_anywhere():
    """No module of ours imports anything that speaks to a network; a pair of sockets of the process itself is none."""
    found = set()
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text("utf-8"))):
            names = (
                [a.name for a in node.names]
                if isinstance(node, ast.Import)
                else [node.module or ""]
                if isinstance(node, ast.ImportFrom)
                else []
            )
            found |= {(file.name, n.split(".")[0]) for n in names if n.split(".")[0] in NETWORK or "QtNetwork" in n}
            found |= {(file.name, "socket") for n in names if n == "socket" and file.name != "ending.py"}
    assert not found
