"""The card file and every other format that is read or written."""
