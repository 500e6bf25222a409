"""What all stations stand in: application, window, path, menus."""
