"""What can go wrong in the maker's hands: one base, so that whoever talks to the maker can catch them all."""


class Trouble(Exception):
    """Something that the maker can mend; the text says what is wrong and what to do."""
