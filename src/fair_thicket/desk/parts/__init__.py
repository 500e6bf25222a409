"""What more than one station uses."""
