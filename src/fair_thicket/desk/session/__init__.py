"""The card that is worked on, its undo, and the thinking about it off the interface thread."""
