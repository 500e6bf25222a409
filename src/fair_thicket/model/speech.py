"""Words joined as in speech, for the sentences of every engine."""

from collections.abc import Sequence


def join_words(words: Sequence[str]) -> str:
    """Join words as in “a, b and c”; nothing for none."""
    if not words:
        return ""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
