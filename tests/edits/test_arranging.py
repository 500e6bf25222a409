"""Several pieces at once, new pieces by their measure, other formats, kept layouts, and where a drag catches."""

import pytest

from cases import STASH, Maker
from fair_thicket import edits
from fair_thicket.edits import adding, arranging, openings
from fair_thicket.edits.refit import refit
from fair_thicket.edits.tries import card_of_try, drop_try, go_to_try, keep_try
from fair_thicket.ink.lettering import words_width
from fair_thicket.model.card import Card, Work
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Border
from fair_thicket.model.units import MM_PER_INCH
from fair_thicket.scene.figures import figures_of
from fair_thicket.scene.snapping import catch
from fair_thicket.shape.paper import footprint


def bounds(work: Work, key: str) -> tuple[float, float, float, float]:
    return footprint(work.card.find(key), work.stash).bounds


@pytest.fixture
def three() -> tuple[Maker, list[str]]:
    """A disc, a bubble and a hat, 28, 32 and 14 mm wide."""
    m = Maker()
    return m, [m.put("disc", (30, 30)), m.put("bubble", (70, 50)), m.put("hat", (110, 60), cut=True)]


@pytest.mark.parametrize(("line", "index"), [("left", 0), ("right", 2), ("top", 1), ("foot", 3)])
def test_edges_come_into_line(three: tuple[Maker, list[str]], line: str, index: int) -> None:
    m, keys = three
    after = arranging.align(m.work, keys, line)
    edges = [bounds(after, key)[index] for key in keys]
    pick = min if index < 2 else max
    assert edges == pytest.approx([pick(bounds(m.work, key)[index] for key in keys)] * 3)


def test_a_single_piece_comes_to_the_cards_own_middle(three: tuple[Maker, list[str]]) -> None:
    m, keys = three
    left, _, right, _ = bounds(arranging.align(m.work, keys[:1], "middle"), keys[0])
    assert (left + right) / 2 == pytest.approx(139.7 / 2)


def test_gaps_become_equal_and_the_outermost_stay(three: tuple[Maker, list[str]]) -> None:
    m, keys = three
    after = arranging.distribute(m.work, keys, across=True)
    boxes = [bounds(after, key) for key in keys]
    assert boxes[1][0] - boxes[0][2] == pytest.approx(boxes[2][0] - boxes[1][2])
    assert boxes[0] == bounds(m.work, keys[0])
    with pytest.raises(PaperError, match="three or more"):
        arranging.distribute(m.work, keys[:2], across=True)


def test_a_half_turned_copy_lands_opposite_and_knows_its_origin() -> None:
    m = Maker()
    one = m.put("figure", (30, 40), angle_deg=10.0)
    after, (copy,) = arranging.half_turn(m.work, {one})
    piece = after.card.find(copy)
    assert (piece.x, piece.y, piece.angle_deg) == pytest.approx((139.7 - 30, 107.95 - 40, -170))
    assert piece.copy_of == one
    again, (second,) = arranging.duplicate(after, {copy})
    assert again.card.find(second).copy_of == one


def test_a_mirrored_cluster_turns_over_what_is_plain_and_only_leans_what_is_stamped() -> None:
    m = Maker()
    keys = {m.put("word", (30, 40), angle_deg=10.0), m.put("figure", (44, 60), angle_deg=-8.0)}
    after, made, turned = arranging.mirror_cluster(m.work, keys)
    word, figure = (after.card.find(key) for key in sorted(made, reverse=True))
    assert (word.x, word.angle_deg, word.flipped) == pytest.approx((109.7, -10, True))
    assert (figure.x, figure.angle_deg) == pytest.approx((95.7, 8))
    assert turned == [figure.id]
    mirror = footprint(word, after.stash)
    original = footprint(m.work.card.find(next(key for key in keys if key.startswith("word"))), m.work.stash)
    assert mirror.bounds == pytest.approx(
        (139.7 - original.bounds[2], original.bounds[1], 139.7 - original.bounds[0], original.bounds[3])
    )


def test_rows_stand_in_the_gaps_of_the_row_behind() -> None:
    m = Maker()
    corn = m.put("corn", (20, 40), cut=True)
    after, made = arranging.row(m.work, corn, 3, 12.0, rows=2, down_mm=8.0)
    places = [(after.card.find(key).x, after.card.find(key).y) for key in [corn, *made]]
    assert places == [(20, 40), (32, 40), (44, 40), (26, 48), (38, 48), (50, 48)]
    assert [piece.id for piece in after.card.pieces] == [corn, *made]  # lower rows in front
    with pytest.raises(PaperError, match="up to 60"):
        arranging.row(m.work, corn, 40, 12.0, rows=2)


def test_a_prop_finds_the_hand_and_the_hand_goes_over_it() -> None:
    m = Maker()
    figure = m.put("figure", (50, 60), cut=True)
    stick = m.put("stick", (60, 62), cut=True)
    by, at, _ = arranging.nearest_contact(m.work, stick)
    assert (by, at) == (figure, (8.0, 3.5))
    hand = ((5, 0), (12, 0), (12, 7), (5, 7))
    after = arranging.place_at_contact(m.work, stick, by=figure, at=at, own=(0.0, 4.0), hand=hand)
    assert (after.card.find(stick).x, after.card.find(stick).y) == pytest.approx((58, 59.5))
    assert after.card.find(figure).flaps[0].past == stick
    stamped = m.put("figure", (100, 60))
    with pytest.raises(PaperError, match="stamped hand"):
        arranging.place_at_contact(m.work, stick, by=stamped, at=at, own=(0.0, 4.0), hand=hand)
    assert arranging.nearest_contact(edits.move_to(m.work, stick, (10, 10)), stick) is None


def test_strips_are_cut_to_the_length_of_their_words() -> None:
    short, high = adding.strip_for("hi", 4.0)
    long, _ = adding.strip_for("a little post for you", 4.0)
    assert long - short == pytest.approx(words_width("a little post for you", 4.0) - words_width("hi", 4.0), abs=0.1)
    assert high == pytest.approx(8.8)
    tailed, _ = adding.strip_for("hi", 4.0, ("fishtail", "fishtail"))
    assert tailed - short == pytest.approx(high)
    assert words_width("hi", 8.0) == pytest.approx(2 * words_width("hi", 4.0))


def test_layers_leave_the_border_that_was_asked_for() -> None:
    work, mat = adding.add_layer(Work(Card(), STASH), MM_PER_INCH / 16)
    work, panel = adding.add_layer(work, MM_PER_INCH / 8)
    assert work.card.find(panel).on == mat
    outer, inner = work.card.find(mat).form, work.card.find(panel).form
    assert (outer.width_mm, outer.height_mm) == pytest.approx((5.375 * MM_PER_INCH, 4.125 * MM_PER_INCH))
    assert (inner.width_mm, inner.height_mm) == pytest.approx((5.125 * MM_PER_INCH, 3.875 * MM_PER_INCH))
    with pytest.raises(PaperError, match="leaves nothing"):
        adding.add_layer(work, 70)


def test_things_that_are_no_pieces_are_refused_and_scatter_that_does_not_fit() -> None:
    work = Work(Card(), STASH)
    with pytest.raises(PaperError, match="inner die smaller"):
        openings.add_ring(work, 20, 30)
    with pytest.raises(PaperError, match="do not fit"):
        adding.add_embellishment(work, "scatter", at=(50, 50), size_mm=20, count=50, reach_mm=30)
    made, key = adding.add_embellishment(work, "scatter", at=(50, 50), count=7, seed=3)
    assert made == adding.add_embellishment(work, "scatter", at=(50, 50), count=7, seed=3)[0]
    assert len(made.card.find(key).spots) == 7


# -- other formats -------------------------------------------------------------------------------------------------


def test_a_scene_fitted_to_a_slimline_and_back_stands_where_it_stood() -> None:
    m = Maker()
    m.do(lambda work: adding.add_layer(work, MM_PER_INCH / 8)[0])
    for x, y in ((12, 80), (60, 70), (129, 90)):
        m.put("figure", (x, y), cut=True)
    border = m.put("wave", (69.85, 100))
    slim = refit(m.work, format="slimline")
    assert slim.work.card.panel == pytest.approx((8.5 * MM_PER_INCH, 3.5 * MM_PER_INCH))
    assert slim.misfits == ()
    panel = slim.work.card.pieces[0]
    assert (panel.form.width_mm, panel.form.height_mm) == pytest.approx((8.25 * MM_PER_INCH, 3.25 * MM_PER_INCH))
    spanning = slim.work.card.find(border)
    assert isinstance(spanning, Border)
    assert spanning.length_mm == pytest.approx(8.5 * MM_PER_INCH)
    for piece in slim.work.card.pieces:
        left, top, right, bottom = footprint(piece, STASH).bounds
        if piece.id.startswith("figure"):
            assert left >= 0
            assert top >= 0
            assert right <= slim.work.card.panel[0]
            assert bottom <= slim.work.card.panel[1]
    back = refit(slim.work, format="a2").work
    for piece in m.work.card.pieces:
        assert (back.card.find(piece.id).x, back.card.find(piece.id).y) == pytest.approx((piece.x, piece.y), abs=1e-3)


def test_what_no_longer_fits_is_told() -> None:
    m = Maker()
    m.put("vines", (69.85, 54))
    made = refit(m.work, format="custom", custom_mm=(60.0, 90.0))
    assert made.work.card.panel == (90.0, 60.0)
    assert made.misfits == ("The vines (4 9/16 × 3 in) is larger than the new front.",)


# -- layouts -------------------------------------------------------------------------------------------------------


def test_layouts_are_kept_told_apart_and_gone_back_to() -> None:
    m = Maker()
    figure = m.put("figure", (30, 60))
    kept = keep_try(m.work, " left ")
    moved = keep_try(edits.move_by(kept, {figure}, (60, 0)), "right")
    assert [one.name for one in moved.card.tries] == ["left", "right"]
    assert go_to_try(moved, "left").card.find(figure).x == 30
    assert card_of_try(moved.card, "right").find(figure).x == 90
    assert figures_of(go_to_try(moved, "left")).balance.off[0] < 0 < figures_of(moved).balance.off[0]
    assert [one.name for one in drop_try(moved, "left").card.tries] == ["right"]
    with pytest.raises(PaperError, match="Give the layout a name"):
        keep_try(m.work, "  ")
    with pytest.raises(KeyError):
        go_to_try(moved, "none")


# -- catching ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("moved", "others", "by", "words"),
    [
        ((65, 10, 75, 20), [], (-0.15, 0), {"middle of the card"}),
        ((40.6, 30, 50.6, 40), [(10, 30, 20, 40), (70, 30, 80, 40)], (-0.6, 0), {"equal gaps"}),
        ((50.4, 30, 60.4, 40), [(10, 30, 20, 40), (30, 30, 40, 40)], (-0.4, 0), {"equal gaps"}),
        ((100, 50.7, 110, 60.7), [(20, 10, 34, 60)], (0, -0.7), {"edge"}),
        ((100, 80, 110, 90), [(20, 10, 30, 20)], (0, 0), set()),
    ],
)
def test_a_drag_catches_on_the_nearest_place_worth_stopping_at(
    moved: tuple, others: list, by: tuple[float, float], words: set[str]
) -> None:
    found = catch(moved, others, (139.7, 107.95), within_mm=1.0)
    if words:
        assert found.by[0] == pytest.approx(by[0]) or found.by[1] == pytest.approx(by[1])
        assert words & {guide.words for guide in found.guides}
    else:
        assert found.guides == ()


def test_of_two_contacts_in_reach_the_nearer_is_taken_whichever_piece_comes_first() -> None:
    for first, second in (((50, 60), (76, 60)), ((76, 60), (50, 60))):
        m = Maker()
        figures = [m.put("figure", first, cut=True), m.put("figure", second, cut=True)]
        stick = m.put("stick", (60, 62), cut=True)
        found = arranging.nearest_contact(m.work, stick, within_mm=40.0)
        assert found is not None
        assert (found[0], found[1]) == (figures[0 if first == (50, 60) else 1], (8.0, 3.5))
