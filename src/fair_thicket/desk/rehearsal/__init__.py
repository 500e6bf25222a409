"""The station of the rehearsal."""
