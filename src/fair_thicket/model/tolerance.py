"""Every tolerance of the house, with its unit and its reason."""

OVERLAP_MM2 = 0.05
"""Two footprints that share less than this do not overlap: a shared corner that no scissors can show."""

REACH_MM = 3.0
"""A stamp pressed beside its mark may print this far around its own footprint: masks are cut with care there."""

REHEARSAL_DPI = 300
"""Pixels per inch of rehearsed paper and of the clean pictures of stamps."""

PILE_LIMIT = 3
"""From this many layers of masking paper on, a stamp bridges at their edge (common practice: two show faintly)."""

OUTLINE_MM = 0.05
"""How far a traced outline may be simplified: a quarter of a fine pen line."""

SLIGHT_MM = 0.3
"""A halo or a ghost up to this width is hardly seen (common practice)."""
