"""The station of the sheets: what to make, and how it lies on sheets, plates and card stock."""
