"""Each kind of advice, with its measure worked out by hand."""

import math

import msgspec
import pytest

from cases import Maker
from fair_thicket import edits
from fair_thicket.edits import adding, arranging
from fair_thicket.ink.contrast import contrast
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Card, Work
from fair_thicket.model.finding import Finding, Weight
from fair_thicket.model.pieces import Cutout, Form, Panel, Strip, Window
from fair_thicket.model.stash import Stash
from fair_thicket.scene import judge
from fair_thicket.scene.judges.facts import Facts
from making import stamp, work_of


def told(work: Work, code: str) -> Finding:
    """The one finding of a kind; every other is no matter here."""
    (finding,) = [one for one in judge(work) if one.code == code]
    return finding


def silent(work: Work, code: str) -> bool:
    return all(one.code != code for one in judge(work, remedies=False))


def mended(work: Work, finding: Finding) -> Work:
    assert finding.remedy is not None
    return edits.apply_remedy(work, finding.remedy)


def test_a_face_under_a_leaf_is_told_with_its_share_and_who_hides_it() -> None:
    """The face is 8 by 6 mm, 10 to 4 mm above the middle; a box hides its left half."""
    m = Maker()
    figure = m.put("figure", (50, 60), cut=True)
    panel = m.panel(Form("rectangle", 10, 10), (45, 53))
    finding = told(m.work, "face")
    assert finding.measure == pytest.approx(0.5, abs=0.02)  # the figure is narrower than the face at its shoulders
    assert finding.pieces == (figure, panel)
    assert finding.weight is Weight.TROUBLE
    assert finding.title == "Face under the panel"
    assert silent(mended(m.work, finding), "face")


def test_feet_in_the_air_are_told_with_the_gap_to_the_ground() -> None:
    """Feet 12 mm below a middle at 40; a border whose highest crests reach 8 mm above its middle at 80."""
    m = Maker()
    m.put("wave", (69.85, 80))
    figure = m.put("figure", (60, 40), cut=True)
    finding = told(m.work, "floats")
    crest = min(y for x, y in ((-10, -8), (10, -8))) + 80
    assert crest - 52 <= finding.measure <= crest - 52 + 4  # beside a crest it is a little more
    assert "above the wave" in finding.text
    assert silent(mended(m.work, finding), "floats")
    standing = edits.move_by(m.work, {figure}, (0, finding.measure + 0.5))
    assert silent(standing, "floats")
    assert silent(edits.move_to(m.work, figure, (60, 107.95 - 12)), "floats")  # the card's own foot is ground


def test_a_figure_sunk_to_the_waist_is_told_with_the_share_of_its_height() -> None:
    """24 mm high, feet at 72; a panel-wide border hides what is below 60 + 8 - ... its edge at the middle line."""
    m = Maker()
    m.put("figure", (69.85, 60), cut=True)
    m.put("wave", (69.85, 64), start_mm=20.0)
    finding = told(m.work, "sunk")
    assert finding.unit == "share"
    assert 0.4 < finding.measure < 0.7
    assert silent(mended(m.work, finding), "sunk")


@pytest.mark.parametrize(
    ("x", "angle", "is_told"), [(120, 0.0, True), (20, 0.0, False), (20, 180.0, True), (100, 90.0, False)]
)
def test_a_figure_looks_out_only_over_the_near_edge(x: float, angle: float, is_told: bool) -> None:
    m = Maker()
    m.put("figure", (x, 60), angle_deg=angle)
    assert silent(m.work, "gaze") is not is_told


def test_words_under_a_leaf_come_back_to_the_front() -> None:
    m = Maker()
    strip = m.strip("for you", (60, 40))
    m.put("leaf", (68, 49), cut=True)
    finding = told(m.work, "words")
    assert finding.remedy.words == "Bring the strip “for you” to the front"
    after = mended(m.work, finding)
    assert after.card.pieces[-1].id == strip
    assert silent(after, "words")


def test_words_too_pale_are_told_with_their_contrast_and_take_dark_ink() -> None:
    m = Maker()
    m.strip("for you", (60, 40), ink="#aaaaaa")
    finding = told(m.work, "contrast")
    assert finding.measure == pytest.approx(contrast("#aaaaaa", "#ffffff"))
    assert finding.weight is Weight.TROUBLE  # below 3 to 1
    assert silent(mended(m.work, finding), "contrast")
    assert silent(edits.set_pieces(m.work, {m.work.card.pieces[0].id}, ink="#595959"), "contrast")


def test_a_stamped_greeting_is_judged_against_the_washed_panel_beneath_it() -> None:
    m = Maker()
    panel = m.panel(Form("rectangle", 120, 90), colour="#808080")
    m.put("greeting", (60, 40), on=panel)
    assert told(m.work, "contrast").measure == pytest.approx(contrast("#26302b", "#808080"))
    m.do(lambda work: adding.add_wash(work, "#202020", on=panel)[0])
    assert told(m.work, "contrast").measure < 1.5


def test_words_without_room_are_told_with_the_nearest_distance() -> None:
    """The greeting's box ends at 60 + 22; the leaf's tip is 12 mm left of its middle."""
    m = Maker()
    m.put("greeting", (60, 40))
    m.put("leaf", (60 + 22 + 1.0 + 12, 38), cut=True, margin_mm=0.0)
    finding = told(m.work, "room")
    assert finding.measure == pytest.approx(1.0, abs=0.05)
    assert silent(mended(m.work, finding), "room")


@pytest.mark.parametrize(
    ("angle", "is_told"), [(0.0, False), (0.2, False), (1.4, True), (-2.9, True), (3.0, False), (91.0, True)]
)
def test_a_slight_tilt_of_words_looks_like_a_slip(angle: float, is_told: bool) -> None:
    m = Maker()
    m.strip("for you", (60, 50), angle_deg=angle)
    assert silent(m.work, "tilt") is not is_told
    if is_told:
        finding = told(m.work, "tilt")
        assert finding.remedy.words == "Straighten it"
        assert mended(m.work, finding).card.pieces[0].angle_deg == round(angle / 90) * 90


def test_what_hangs_over_is_measured_and_the_envelope_takes_so_much() -> None:
    """A disc of 14 mm whose middle is 1 mm inside: 13 mm over; the A2 envelope leaves 5 3/4 - 5 1/2 in less 3 mm."""
    m = Maker()
    disc = m.put("disc", (1.0, 50))
    assert told(m.work, "hangs-over").measure == pytest.approx(13.0)
    spare = (5.75 - 5.5) * 25.4 - 3.0
    finding = told(m.work, "envelope")
    assert finding.measure == pytest.approx(13.0 - spare)
    after = mended(m.work, finding)
    assert after.card.find(disc).trim_to == "card"
    assert silent(after, "envelope")
    assert silent(edits.move_by(m.work, {disc}, (13.0 - spare + 0.01, 0)), "envelope")


def test_a_mat_off_its_middle_by_a_little_is_uneven_and_by_much_is_meant() -> None:
    m = Maker()
    panel = m.panel(Form("rectangle", 120, 90), (70.35, 53.975))
    finding = told(m.work, "uneven-lef")
    assert finding.measure == pytest.approx(1.0)
    assert mended(m.work, finding).card.find(panel).x == pytest.approx(69.85)
    assert silent(edits.move_by(m.work, {panel}, (3.0, 0)), "uneven-lef")


def test_a_hat_off_the_head_is_told_with_the_distance_and_put_back() -> None:
    m = Maker()
    figure, hat = m.put("figure", (50, 60), cut=True), m.put("hat", (50, 46), cut=True)
    m.do(lambda work: arranging.place_at_contact(work, hat, by=figure, at=(0.0, -11.0), own=(0.0, 2.0)))
    assert silent(m.work, "apart")
    away = edits.move_by(m.work, {hat}, (3.0, 4.0))
    finding = told(away, "apart")
    assert finding.measure == pytest.approx(math.hypot(3, 4))
    assert mended(away, finding) == m.work


def test_two_edges_that_overlap_by_a_hair_are_told() -> None:
    m = Maker()
    m.put("disc", (40, 50))
    m.put("disc", (40 + 28 - 0.5, 50))
    finding = told(m.work, "tangent")
    assert finding.measure == pytest.approx(0.5, abs=0.15)
    assert silent(mended(m.work, finding), "tangent")


def test_an_inlay_dropped_into_its_opening_kisses_nothing() -> None:
    m = Maker()
    opening = Form("rectangle", 14, 18)
    sheet = m.panel(Form("rectangle", 60, 40), (60, 50), windows=(Window(opening),))
    inlay = m.panel(opening, (60, 50), on=sheet)
    assert isinstance(m.work.card.find(inlay), Panel)
    assert silent(m.work, "near")


def test_figures_at_one_height_a_piece_for_nothing_and_one_trimmed_away() -> None:
    m = Maker()
    for x in (15, 40, 65, 90, 115):
        m.put("moth", (x, 30), cut=True)
    finding = told(m.work, "one-height")
    assert finding.measure == 5
    assert silent(mended(m.work, finding), "one-height")
    hidden = m.put("word", (50, 80))
    panel = m.panel(Form("rectangle", 60, 30), (50, 80))
    assert told(m.work, "wasted").pieces[0] == hidden
    gone = m.put("moth", (110, 65), cut=True, trim_to=panel)
    finding = told(m.work, "trimmed-away")
    assert mended(m.work, finding).card.find(gone).trim_to == ""


def test_a_figure_behind_the_bar_is_outside_the_window() -> None:
    m = Maker()
    m.put("moth", (69.85, 15), cut=True)
    form = Form("rectangle", 120, 90)
    m.panel(form, windows=adding.frame_of(form, 20.0))
    finding = told(m.work, "covered")
    assert finding.title == "Moth is outside the window"
    assert finding.weight is Weight.TROUBLE


def test_limits_decide_from_where_on_advice_speaks() -> None:
    m = Maker()
    m.put("disc", (40, 50))
    m.put("disc", (40 + 28 + 0.6, 50))
    assert told(m.work, "near").measure == pytest.approx(0.6, abs=0.05)
    limits = msgspec.structs.replace(m.work.card.limits, near_mm=0.5)
    assert silent(edits.set_card(m.work, limits=limits), "near")


def test_two_greetings_on_one_panel_belong_together_and_a_figure_beside_one_does_not() -> None:
    panel = Panel("p", Form("rectangle", 80, 50), 60, 50)
    words = [Strip(key, 30, 8, 60, y, words="hello", on="p") for key, y in (("s", 45.0), ("t", 55.0))]
    toad = Cutout("toad-1", "toad", 60, 50, margin_mm=0.0, on="p")
    elsewhere = Strip("u", 30, 8, 60, 90, words="you")
    work = Work(Card(pieces=(panel, *words, toad, elsewhere)), Stash((stamp("toad"),)))
    facts = Facts(work, look(work))
    assert facts.is_family(words[0], words[1])
    assert not facts.is_family(words[0], toad)
    assert not facts.is_family(toad, words[0])
    assert not facts.is_family(words[0], elsewhere)
    assert facts.is_family(panel, toad)
    assert facts.is_family(toad, panel)


def test_moves_are_offered_the_shortest_first_by_sixteenths_or_by_millimetres() -> None:
    work = work_of(("toad", 60, 50))
    offers = list(Facts(work, look(work)).moves("toad-1", "Move it", steps=2))
    assert [words for words, _ in offers][:5] == [
        "Move it 1/16 in left", "Move it 1/16 in right", "Move it 1/16 in up", "Move it 1/16 in down",
        "Move it 1/8 in left",
    ]  # fmt: skip
    places = [(after().card.find("toad-1").x - 60, after().card.find("toad-1").y - 50) for _, after in offers]
    step = 25.4 / 16
    ways = [(-1, 0), (1, 0), (0, -1), (0, 1), (-2, 0), (2, 0), (0, -2), (0, 2)]
    assert places == [pytest.approx((x * step, y * step)) for x, y in ways]
