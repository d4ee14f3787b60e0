# SPDX-License-Identifier: MIT
"""What can go wrong in the maker's hands: one base, so that whoever talks to the maker can catch them all."""

import re

_CONTROLS = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202d\u202e\u2066-\u2068]")  # \u202d and later: turn the rest of a line round


def printable(text: str) -> str:
    """The text without characters that steer a terminal, or make a line read from its end; ends of lines and tabs stay."""
    return _CONTROLS.sub("", text)


class Trouble(Exception):
    """Something that the maker can mend; the text says what is wrong and what to do. It may be printed, whatever names it quotes."""

    def __str__(self) -> str:
        return printable(super().__str__())
