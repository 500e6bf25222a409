"""What concerns ink on paper, on the scene: washes, blends, stencils, inked parts."""
