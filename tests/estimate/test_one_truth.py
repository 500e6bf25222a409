"""Every place that names a height, an envelope, minutes or a length of cutting names the same."""

from collections.abc import Callable

import msgspec
import pytest

from cases import CASES
from fair_thicket.advice import advise
from fair_thicket.assembly.planning import Assembly
from fair_thicket.demo import CARD_FILES
from fair_thicket.engines import assemble
from fair_thicket.estimate.minutes import careful_mm, cutting_min, gluing_min, printing_min
from fair_thicket.estimate.post import envelope_for, glued_height, outer_size
from fair_thicket.files.card_file import open_card
from fair_thicket.masks import plan_with_pins
from fair_thicket.masks.prices import cost_of
from fair_thicket.masks.timetable import list_steps
from fair_thicket.model.card import Card, Work, sides_of
from fair_thicket.model.masking import Masking, Pin, Rates
from fair_thicket.model.pieces import CARD_EDGE, Border, Cutout, Form, Panel
from fair_thicket.model.plan import SHEET, MaskPlan
from fair_thicket.model.stash import Kind, Stash
from fair_thicket.printing.assembly_pages import _say_post
from making import square, stamp, work_of
