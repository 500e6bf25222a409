"""The station Assembly."""
