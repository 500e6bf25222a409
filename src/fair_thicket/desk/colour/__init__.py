"""The station of colour: one image large, its parts and their runs, and the colouring list."""
