"""Small things about words."""


def clipped(words: str, most: int) -> str:
    """Words with an ellipsis for what goes beyond ``most`` letters."""
    return words if len(words) <= most else f"{words[: most - 1].rstrip()}…"


def with_article(noun: str) -> str:
    """``a drum``, ``an oil drum``."""
    return f"{'an' if noun[:1].lower() in set('aeio') else 'a'} {noun}"
