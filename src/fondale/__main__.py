# SPDX-License-Identifier: MIT
"""The `fondale` command: the command line, and the window where no other command is given."""

import gc
import io
import sys
from datetime import date
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fondale.app.window import Window


def open_window(window: "Window") -> int:
    """Start the window with the simulated instruments; Qt is loaded only here."""
    from fondale.instruments import simulated
    from fondale.qt.application import start

    return start(window, simulated())


def at_work() -> None:
    """What this process is when it computes itself, without a window: a child, so that one line is said whatever becomes of it."""
    from fondale.storage.patience import bound_memory, work_in_a_child

    work_in_a_child("fondale")
    gc.enable()
    bound_memory()


def main() -> int:
    """Entry point."""
    gc.disable()  # the window has a collector of its own, on its own thread
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(encoding="utf-8", errors="replace")  # names of files may be no text
    try:
        from fondale.cli import run
    except KeyboardInterrupt:
        print("fondale: Stopped. Nothing was written.", file=sys.stderr)
        return 130
    return run(sys.argv[1:], open_window, date.today(), at_work)


if __name__ == "__main__":
    sys.exit(main())
