"""Colouring: regions of an image, runs of the maker's own markers, and what is said of them."""
