"""The station of the scene: bench, thicket, drawer, and edits of pieces."""
