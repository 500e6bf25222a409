"""What a rehearsal may differ by from the card as composed, and why: every length named, none over 0.35 mm.

A tolerance explains nothing farther from the edge that it names; all that it explained is summed.
"""

SEEN_DELTA = 6.0
"""CIEDE2000 from which two places are told apart at a glance."""
SEEN_MM2 = 0.3
"""A patch of less is not seen on a card."""
NEAR_PX = 6
"""Places that differ no farther apart than twice this (a millimetre) are one patch to the eye."""
CUT_INSIDE_MM = 0.3
"""A mask that the maker has cut inside the line lets what stands behind reach so far over the front image's own edge
(common practice: 0.2 to 0.3 mm)."""
SKIP_MM = 0.4
"""Band that a stamp skips beside a pile, for every layer of masking paper beyond the first (our own estimate); no
tolerance: what is skipped is told."""
