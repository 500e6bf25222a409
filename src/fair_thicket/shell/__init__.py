"""What each subcommand does: the same engines as the desk, in words or one JSON document."""
