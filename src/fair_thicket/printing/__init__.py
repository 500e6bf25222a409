"""Pages and cut files, life size: what each engine prints of a card, set out on sheets of the maker's paper."""
