"""Questions that the desk asks the maker."""
