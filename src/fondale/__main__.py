"""The `fondale` command: the command line, and the window where no other command is given."""

import gc
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


def main() -> int:
    """Entry point."""
    gc.disable()  # the window has a collector of its own, on its own thread; a command ends soon
    from fondale.cli import run

    return run(sys.argv[1:], open_window, date.today())


if __name__ == "__main__":
    sys.exit(main())
