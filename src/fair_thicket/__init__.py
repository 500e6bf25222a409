"""Fair Thicket: rehearse a stamped scene card before the first impression."""

__version__ = "0.1.0"
