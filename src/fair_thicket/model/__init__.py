"""The values of the trade: units, formats, stash, card, plans, findings. Frozen; no algorithm, no numpy, no Qt."""
