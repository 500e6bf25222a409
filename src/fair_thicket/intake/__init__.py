"""Paper to stash: scanned sheets become separate stamps at true size."""

from fair_thicket.intake.picture import Picture, read_picture
from fair_thicket.intake.sheet import scan_file, scan_sheet

__all__ = ["Picture", "read_picture", "scan_file", "scan_sheet"]
