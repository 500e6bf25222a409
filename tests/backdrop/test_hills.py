"""Hills drawn by points: smooth, through the points, never beyond them; on the card, in its file and on paper."""

import io
import itertools

import numpy as np
import pypdf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fair_thicket import masks
from fair_thicket.backdrop.border_judges import crest_spots
from fair_thicket.backdrop.hills import draw_hill, smooth_line
from fair_thicket.files.card_file import decode_card, encode_card
from fair_thicket.laid.stack import stack
from fair_thicket.making import print_card
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border, Form, Panel
from fair_thicket.model.stash import DRAWN_TAG
from fair_thicket.model.units import Unit
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.shape.paper import footprint

POINTS = [(20.0, 80.0), (60.0, 60.0), (100.0, 90.0)]


def test_the_line_passes_through_its_points_and_runs_out_level() -> None:
    line = smooth_line(POINTS, 0.0, 139.7)
    for x, y in POINTS:
        assert np.interp(x, line[:, 0], line[:, 1]) == pytest.approx(y, abs=0.05)
    assert line[0].tolist() == [0.0, 80.0]
    assert line[-1].tolist() == pytest.approx([139.7, 90.0])


@given(st.lists(st.tuples(st.integers(1, 40), st.floats(10, 90)), min_size=2, max_size=10, unique_by=lambda p: p[0]))
def test_the_line_never_swings_beyond_its_points(drawn: list[tuple[int, float]]) -> None:
    points = sorted((x * 3.0, y) for x, y in drawn)
    line = smooth_line(points, 0.0, 130.0)
    heights = [y for _, y in points]
    assert line[:, 1].min() >= min(heights) - 1e-9
    assert line[:, 1].max() <= max(heights) + 1e-9
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        between = line[(line[:, 0] >= x0) & (line[:, 0] <= x1), 1]
        steps = np.diff(between)
        assert (steps >= -1e-9).all() if y1 >= y0 else (steps <= 1e-9).all()


@pytest.mark.parametrize(
    ("points", "words"),
    [
        ([(20.0, 60.0)], "two points at least"),
        ([(20.0, 60.0), (21.0, 80.0)], "nearly one above the other"),
        ([(float(x * 4), 60.0) for x in range(30)], "24 points at the most"),
        ([(20.0, -10.0), (60.0, 60.0)], "leaves its sheet"),
        ([(20.0, 107.9), (60.0, 60.0)], "leaves its sheet"),
    ],
)
def test_what_is_no_hill_is_said(points: list[tuple[float, float]], words: str) -> None:
    with pytest.raises(PaperError, match=words):
        draw_hill(Work(), points, "#8aa465")


def test_a_hill_fills_its_card_below_the_line_and_is_kept_in_the_file() -> None:
    work, key, pictures = draw_hill(Work(), POINTS, "#8aa465")
    piece = work.card.find(key)
    assert isinstance(piece, Border)
    area = footprint(piece, work.stash)
    left, top, right, bottom = area.bounds
    assert (left, top, right, bottom) == pytest.approx((0, 60, 139.7, 107.95), abs=0.02)
    assert area.area == pytest.approx(
        np.trapezoid(107.95 - smooth_line(POINTS, 0, 139.7)[:, 1], dx=139.7 / 140), rel=1e-3
    )
    stamp = work.stash.find(piece.stamp)
    assert DRAWN_TAG in stamp.tags
    assert pictures[stamp.picture].startswith(b"\x89PNG")
    assert decode_card(encode_card(work), "hill") == work
    ((x, y),) = crest_spots(work, piece)
    assert (x, y) == pytest.approx((60, 60), abs=0.6)


def test_two_hills_have_names_of_their_own_and_lie_on_their_panel() -> None:
    panel = Panel("panel-1", Form("rectangle", 100.0, 80.0), 69.85, 54.0)
    work, first, _ = draw_hill(Work(Card(pieces=(panel,))), [(30.0, 60.0), (90.0, 50.0)], "#8aa465", on="panel-1")
    work, second, _ = draw_hill(work, [(30.0, 80.0), (90.0, 70.0)], "#4b8050", on="panel-1")
    assert first != second
    assert len({one.stamp for one in work.card.pieces if isinstance(one, Border)}) == 2
    panel_area = footprint(panel, work.stash)
    for leaf in stack(work):
        if isinstance(leaf.piece, Border):
            assert panel_area.buffer(1e-6).covers(leaf.area)


@pytest.mark.parametrize(("unit", "told"), [(Unit.INCH, ["at 0 in", "at 5 in"]), (Unit.MM, ["at 20 mm", "at 120 mm"])])
def test_a_guide_to_cut_along_is_printed_with_its_heights(unit: Unit, told: list[str]) -> None:
    work, _, pictures = draw_hill(Work(Card(unit=unit)), [(30.0, 67.95), (110.0, 67.95)], "#8aa465")
    plan = masks.plan(work)
    data = print_card([Side("front", work, plan, [])], pictures, paper="letter")
    texts = [page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages]
    page = next(text for text in texts if "Hills to cut" in text)
    for words in told:
        assert words in page
    level = "1 9/16 in" if unit is Unit.INCH else "40 mm"
    assert page.count(level) == (6 if unit is Unit.INCH else 7 + 1)  # once more in "at 40 mm"
    assert "metal ruler" in page
