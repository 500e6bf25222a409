"""Stand-ins for devices outside: a scanner, a camera, a cutting plotter. No engine knows of them."""
