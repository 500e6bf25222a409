"""What is done at the table, step by step."""

import msgspec


class Step(msgspec.Struct, frozen=True):
    """One thing to do at the table.

    Attributes
    ----------
    kind : str
        ``wait``, ``lay``, ``move``, ``turn``, ``stamp``, ``check``, ``cover``, ``ink`` or ``lift``.
    press : int
        Index of the press it belongs to; the number of presses for what comes after them all.
    words : str
    pieces : tuple of str
        Impressions concerned.
    minutes : float
        By the maker's rates.
    key : str
        The same for the same thing to do in another plan: what is ticked off stays ticked.
    """

    kind: str
    press: int
    words: str
    pieces: tuple[str, ...] = ()
    minutes: float = 0.0
    key: str = ""
