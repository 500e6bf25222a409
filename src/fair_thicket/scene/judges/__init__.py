"""Judges of an arrangement: each looks at one thing and drafts findings; remedies are tried by `scene.judging`."""
