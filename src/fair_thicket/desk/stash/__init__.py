"""The station of the stash: reading pages, library, supplies."""
