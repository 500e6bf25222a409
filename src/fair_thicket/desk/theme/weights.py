"""How the weight of a finding looks and reads: never by colour alone."""

from PySide6.QtGui import QColor

from fair_thicket.desk.theme import BERRY, FERN, HONEY
from fair_thicket.model.finding import Weight

WEIGHT_COLOURS = {Weight.TROUBLE: BERRY, Weight.CAUTION: HONEY, Weight.NOTE: QColor("#6f8fa6"), Weight.GOOD: FERN}
WEIGHT_WORDS = {Weight.TROUBLE: "trouble", Weight.CAUTION: "caution", Weight.NOTE: "note", Weight.GOOD: "good"}
