"""Small things about words."""

from fondale.core.model.base import NAME_MOST


def clipped(words: str, most: int) -> str:
    """Words with an ellipsis for what goes beyond ``most`` letters."""
    return words if len(words) <= most else f"{words[: most - 1].rstrip()}…"


def as_name(words: str) -> str:
    """A name made of others, never longer than a name may be."""
    return clipped(words, NAME_MOST)


def with_article(noun: str) -> str:
    """``a drum``, ``an oil drum``."""
    return f"{'an' if noun[:1].lower() in set('aeio') else 'a'} {noun}"
