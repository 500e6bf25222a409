"""Ink and paper as they look: mixing, contrast, what lies over what, and the pictures of a card."""
