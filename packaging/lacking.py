# SPDX-License-Identifier: MIT
"""Which libraries that Qt's wheels do not carry are missing here, by trying to load each.

``lacking.py LIBRARIES`` says so in one line and ends with 1; with ``--names`` it prints the packages alone, those of Python among them.
The list names a library and its package: a|b is its name on Debian 12, then that on Ubuntu 24.04 and Debian 13.
"""

import ctypes
import sys


def main() -> int:
    lacks = []
    with open(sys.argv[1], encoding="utf-8") as rows:
        for library, package in (row.split() for row in rows):
            try:
                ctypes.CDLL(library)
            except OSError:
                lacks.append(package)
    if "--names" in sys.argv:
        try:
            import ensurepip  # noqa: F401
            import venv  # noqa: F401
        except ImportError:
            lacks.append("python3-venv")
        print(*dict.fromkeys(lacks))
    elif lacks:
        try:
            with open("/etc/os-release", encoding="utf-8") as told:
                newer = 'VERSION_ID="12"' not in told.read()
        except OSError:
            newer = True
        names = " ".join(dict.fromkeys(name.split("|")[-1 if newer else 0] for name in lacks))
        print(
            f"fondale: The window needs packages of the display that are not here. Install them and start it again: sudo apt install {names}",
            file=sys.stderr,
        )
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
