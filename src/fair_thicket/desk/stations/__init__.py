"""One station for each part of the work, in the order of the work."""
