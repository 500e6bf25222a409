"""What to have at hand for a step, and what to mind where it can hurt."""

from types import MappingProxyType

AT_HAND = MappingProxyType(
    {
        "platform": "stamping platform, stamps, ink, white card",
        "markers": "markers, scrap paper to try them on",
        "trimmer": "trimmer, card stock",
        "die": "dies, machine, low-tack tape",
        "scissors": "fine scissors",
        "brush": "blending brushes, inks, masks, low-tack tape",
        "tape": "double-sided tape",
        "glue": "liquid glue with a fine tip, a weight",
        "foam": "foam tape, tweezers",
        "heat tool": "stamping platform, anti-static powder, embossing ink, powder, heat tool, tweezers, "
        "heat-proof mat",
        "block": "clear block, stamp, ink, scrap card to try it on",
        "knife": "sharp knife, metal ruler, cutting mat",
        "hands": "all that is cut out, low-tack tape to hold it for a while",
        "tweezers": "sequins, drops or gems, tweezers",
        "envelope": "scales, ruler, envelope",
    }
)
LABEL = "The maker's own label and local rules come first."
CAUTIONS = MappingProxyType(
    {
        "trimmer": f"Metal ruler, cut away from the hand, cap the blade. {LABEL}",
        "scissors": f"Cut away from the hand; blades away from children. {LABEL}",
        "die": f"Fingers off the rollers; dies are blades. {LABEL}",
        "markers": f"Alcohol markers: air the room, no flame, caps on. {LABEL}",
        "heat tool": f"Over 250 °C: tweezers, heat-proof mat, nothing that burns; do not breathe powder. {LABEL}",
        "knife": f"Metal ruler, cut away from the hand, a fresh blade, cap it. {LABEL}",
        "glue": f"Air the room; off the skin. {LABEL}",
    }
)
"""By tool (common practice)."""
