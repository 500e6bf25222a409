"""The station of paper: the plan, life size."""
