"""The card laid out: its leaves from the back to the front, what hides what, what is seen, the masks' paper on it."""
