"""What paper allows: surfaces, the order of stamping and gluing, and refusals with their reason."""

import pytest

from cases import STASH, Maker
from fair_thicket import edits
from fair_thicket.edits import adding, arranging, cutouts
from fair_thicket.laid.stack import stack
from fair_thicket.laid.visibility import see
from fair_thicket.model.card import Card, Work, carried_by, name_pieces, order_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.pieces import Blend, Cutout, Form, Impression, Panel


def ids(work: Work) -> list[str]:
    return [piece.id for piece in work.card.pieces]


def test_washes_come_first_then_stamped_then_glued_and_what_is_carried_follows_its_carrier() -> None:
    cut, stamped = Cutout("c", "leaf", 0, 0), Impression("i", "leaf", 0, 0)
    panel, child = Panel("p", Form("rectangle", 9, 9), 0, 0), Impression("k", "leaf", 0, 0, on="p")
    wash = Blend("w", Form("rectangle", 9, 9), 0, 0)
    assert [one.id for one in order_pieces((child, cut, panel, stamped, wash))] == ["w", "i", "c", "p", "k"]
    ring = (Panel("a", Form("rectangle", 9, 9), 0, 0, on="b"), Panel("b", Form("rectangle", 9, 9), 0, 0, on="a"))
    assert sorted(one.id for one in order_pieces(ring)) == ["a", "b"]  # nothing is lost, whatever a file says
    assert carried_by((panel, child), "p") == ["k"]


def test_what_is_stamped_cannot_come_in_front_of_what_is_glued_over_it() -> None:
    m = Maker()
    stamped = m.put("figure", (40, 40))
    glued = m.put("leaf", (44, 44), cut=True)
    with pytest.raises(PaperError, match=r"figure is stamped.*cannot be in front of what is glued.*Cut the figure out"):
        edits.set_order(m.work, [glued, stamped])
    with pytest.raises(PaperError, match="stamped"):
        edits.step_past_overlap(m.work, {stamped}, 1)
    away = edits.move_by(m.work, {glued}, (50, 0))
    assert ids(edits.set_order(away, [glued, stamped])) == [stamped, glued]  # where it shows nowhere nothing is said


def test_what_lies_on_a_piece_stays_in_front_of_it_and_nothing_comes_between() -> None:
    m = Maker()
    bubble = m.put("bubble", (50, 50))
    inner = m.put("hat", (50, 50), cut=True, on=bubble)
    other = m.put("leaf", (54, 52), cut=True)
    with pytest.raises(PaperError, match="hat lies on the bubble"):
        edits.set_order(m.work, [inner, bubble, other])
    with pytest.raises(PaperError, match="hat is glued to the bubble, and the two go together"):
        edits.set_order(m.work, [bubble, other, inner])
    assert ids(edits.step_past_overlap(m.work, {other}, -1)) == [other, bubble, inner]
    assert ids(edits.to_end(m.work, {bubble}, front=True)) == [other, bubble, inner]


def test_a_wash_stays_behind() -> None:
    m = Maker()
    figure = m.put("figure", (40, 40))
    m.do(lambda work: adding.add_wash(work, "#c0d0e0")[0])
    wash = m.work.card.pieces[0].id
    with pytest.raises(PaperError, match="inked before anything else"):
        edits.set_order(m.work, [figure, wash])


def test_moving_and_turning_take_along_what_is_carried_and_held() -> None:
    m = Maker()
    bubble = m.put("bubble", (50, 50))
    child = m.put("hat", (60, 50), on=bubble)
    hat = m.put("hat", (20, 20), cut=True)
    figure = m.put("figure", (50, 80), cut=True)
    m.do(lambda work: arranging.place_at_contact(work, hat, by=figure, at=(0.0, -11.0), own=(0.0, 2.0)))
    moved = edits.move_by(m.work, {bubble, figure}, (3, -2))
    assert (moved.card.find(child).x, moved.card.find(child).y) == (63, 48)
    assert moved.card.find(hat).x == pytest.approx(m.work.card.find(hat).x + 3)
    turned = edits.turn_by(m.work, {bubble}, 90)
    assert (turned.card.find(child).x, turned.card.find(child).y) == pytest.approx((50, 60))
    assert turned.card.find(child).angle_deg == 90
    both = edits.turn_by(m.work, {bubble, child}, 90)
    assert both.card.find(child).angle_deg == 90  # led, not turned twice


def test_taking_pieces_off_leaves_no_loose_ends() -> None:
    m = Maker()
    panel = m.panel(Form("rectangle", 100, 80))
    figure = m.put("figure", (50, 50), cut=True, on=panel, trim_to=panel)
    bubble = m.put("bubble", (80, 50), on=panel)
    word = m.put("word", (80, 50), on=bubble)
    hat = m.put("hat", (50, 38), cut=True, on=panel)
    m.do(lambda work: arranging.place_at_contact(work, hat, by=figure, at=(0.0, -11.0), own=(0.0, 2.0)))
    bare = edits.delete(m.work, {panel})
    assert bare.card.find(figure).on == ""
    assert bare.card.find(figure).trim_to == ""
    assert word not in ids(edits.delete(m.work, {bubble}))
    assert edits.delete(m.work, {figure}).card.find(hat).held is None


def test_ink_falls_only_on_its_surface_and_paper_hangs_over() -> None:
    m = Maker()
    strip = m.panel(Form("rectangle", 20, 10), (50, 50))
    m.put("greeting", (50, 50), on=strip)
    sights = {sight.id: sight for sight in see(m.work)}
    words = sights[m.work.card.pieces[-1].id]
    assert (words.visible_mm2, words.off_panel_mm2) == pytest.approx((20 * 7, (44 - 20) * 7))
    over = m.put("disc", (0, 50))
    sight = {one.id: one for one in see(m.work)}[over]
    assert sight.hangs
    assert sight.visible_mm2 == pytest.approx(sight.area_mm2)
    assert sight.off_panel_mm2 == pytest.approx(sight.area_mm2 / 2)


def test_an_image_is_cut_out_and_stamped_again_in_its_place() -> None:
    m = Maker()
    figure = m.put("figure", (50, 50), colour="#aabbcc", angle_deg=7.0)
    before = m.work
    cut = cutouts.cut_out(before, figure)
    assert isinstance(cut.card.find(figure), Cutout)
    assert cutouts.stamp_instead(cut, figure) == before
    with pytest.raises(PaperError, match="cut already"):
        cutouts.cut_out(cut, figure)
    die = m.put("bubble", (80, 50))
    with pytest.raises(PaperError, match="plain paper"):
        cutouts.stamp_instead(m.work, die)
    with pytest.raises(PaperError, match="two or more"):
        cutouts.join(m.work, {figure})


def test_a_joint_cutout_keeps_its_images_where_they_were() -> None:
    m = Maker()
    first = m.put("figure", (50, 50), cut=True, angle_deg=30.0)
    second = m.put("leaf", (60, 56), cut=True, angle_deg=-20.0, margin_mm=0.0)
    m.change(first, margin_mm=0.0)
    apart = [leaf.area for leaf in stack(m.work)]
    joint, key = cutouts.join(m.work, {first, second})
    (leaf,) = stack(joint)
    assert leaf.key == key
    assert leaf.area.symmetric_difference(apart[0].union(apart[1])).area < 0.01


def test_pieces_are_named_and_numbered() -> None:
    m = Maker()
    right = m.put("figure", (90, 50))
    left = m.put("figure", (30, 50), cut=True)
    m.panel(Form("rectangle", 20, 20), windows=adding.frame_of(Form("rectangle", 20, 20), 3.0))
    m.strip("for you", (50, 20))
    names = name_pieces(m.work)
    assert (names[left], names[right]) == ("figure 1", "figure 2")
    assert {"frame", "strip “for you”"} <= set(names.values())
    assert name_pieces(Work(Card(), STASH)) == {}


def test_a_piece_is_made_with_another_image_in_its_place() -> None:
    m = Maker()
    figure, hat = m.put("figure", (50, 60), cut=True, angle_deg=5.0), m.put("hat", (50, 46), cut=True)
    m.do(lambda work: arranging.place_at_contact(work, hat, by=figure, at=(0.0, -11.0), own=(0.0, 2.0)))
    after = cutouts.swap_image(m.work, figure, "leaf")
    swapped = after.card.find(figure)
    assert (swapped.stamp, swapped.x, swapped.angle_deg) == ("leaf", 50, 5.0)
    assert after.card.find(hat).held is None
    with pytest.raises(PaperError, match="take one of its kind"):
        cutouts.swap_image(m.work, figure, "bubble")
    strip = m.strip("for you", (50, 20))
    with pytest.raises(PaperError, match="Only an image"):
        cutouts.swap_image(m.work, strip, "leaf")
