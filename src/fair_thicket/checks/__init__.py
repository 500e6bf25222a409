"""What all judges share: what makes findings the same, when a remedy settles one, in which order they are told."""

from fair_thicket.checks.settling import Name, name_of, present, settles

__all__ = ["Name", "name_of", "present", "settles"]
