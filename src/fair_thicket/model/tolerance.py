"""Every tolerance of the house, with its unit and its reason."""

OVERLAP_MM2 = 0.05
"""Two footprints that share less than this do not overlap: a shared corner that no scissors can show."""

REACH_MM = 3.0
"""A stamp pressed beside its mark may print this far around its own footprint: masks are cut with care there."""

NEAR_MM = 0.8
"""Edges closer than this without overlapping seem to kiss by accident (common practice)."""

COVERED_SHARE = 0.35
"""More than this share hidden is too much for a figure unless the maker says otherwise (common practice)."""

LOST_SHARE = 0.85
"""More than this share hidden: the impression is hardly worth stamping."""

REHEARSAL_DPI = 300
"""Pixels per inch of rehearsed paper and of the clean pictures of stamps."""

PILE_LIMIT = 3
"""From this many layers of masking paper on, a stamp bridges at their edge (common practice: two show faintly)."""

OUTLINE_MM = 0.05
"""How far a traced outline may be simplified: a quarter of a fine pen line."""
