"""What the stations are made of."""
