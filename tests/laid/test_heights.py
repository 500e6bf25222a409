"""Heights by hand: paper of 0.25 mm, foam of 1.6 mm, on a card of 140 x 108 mm."""

import pytest
import shapely

from fair_thicket import assembly
from fair_thicket.laid.heights import find_heights
from fair_thicket.model.card import Card, Work
from fair_thicket.model.masking import Masking, Rates
from fair_thicket.model.pieces import CARD_EDGE, Cutout, Embellishment, Form, Panel, PaperPiece, Strip, Window
from fair_thicket.model.stash import Stash
from making import stamp

PAPER, FOAM = 0.25, 1.6


def card_of(*pieces: PaperPiece) -> Work:
    masking = Masking(rates=Rates(paper_mm=PAPER))
    return Work(Card(pieces=pieces, masking=masking), Stash((stamp("toad", 20.0), stamp("snail", 20.0))))


def panel(key: str, x: float, y: float, w: float, h: float, **more: object) -> Panel:
    return Panel(key, Form("rectangle", w, h), x, y, **more)  # type: ignore[arg-type]


def test_flat_papers_lie_on_each_other() -> None:
    heights = find_heights(card_of(panel("mat", 70, 54, 130, 98), panel("sky", 70, 54, 120, 88)))
    assert [(one.bottom_mm, one.top_mm, one.how) for one in heights.rests] == [(0, 0.25, "flat"), (0.25, 0.5, "flat")]
    assert heights.most_mm == 0.5


def test_a_word_on_two_foams_stands_above_figures_on_one() -> None:
    """Panel 0.25; figures 0.25 + 1.6 = 1.85 to 2.10; the word 0.25 + 3.2 = 3.45 to 3.70, whatever it stands before."""
    figures = [Cutout(f"toad-{n}", "toad", x, 60, lift_mm=FOAM, margin_mm=0.0) for n, x in enumerate((40, 100))]
    word = Strip("word", 90, 10, 70, 62, lift_mm=2 * FOAM)
    heights = find_heights(card_of(panel("sky", 70, 54, 130, 98), *figures, word))
    assert [(heights.find(f"toad-{n}").bottom_mm, heights.find(f"toad-{n}").top_mm) for n in (0, 1)] == [
        (1.85, 2.1)
    ] * 2
    assert (heights.find("word").bottom_mm, heights.find("word").top_mm) == (3.45, 3.7)
    assert heights.find("word").how == "raised"
    assert {gap for gap, _ in heights.find("word").gaps} == {3.2, 1.35}


def test_figures_inside_a_frame_on_foam_lie_flat_below_it() -> None:
    frame = panel("frame", 70, 54, 130, 98, windows=(Window(Form("rectangle", 100, 70)),), lift_mm=FOAM)
    toad = Cutout("toad-1", "toad", 70, 54, margin_mm=0.0)
    heights = find_heights(card_of(panel("sky", 70, 54, 130, 98), toad, frame))
    assert (heights.find("toad-1").how, heights.find("toad-1").top_mm) == ("flat", 0.5)
    assert (heights.find("frame").bottom_mm, heights.find("frame").top_mm) == (1.85, 2.1)
    assert [(gap, round(area.area)) for gap, area in heights.find("frame").gaps] == [(1.6, 130 * 98 - 100 * 70)]


def test_half_on_a_hill_wants_a_shim_of_the_hills_height_under_what_hangs_and_nowhere_else() -> None:
    """A hill of 1.6 mm foam and 0.25 mm paper; a tractor of 40 mm, its left 25 mm over the hill."""
    hill = panel("hill", 35, 60, 70, 40, lift_mm=FOAM)
    tractor = panel("tractor", 65, 60, 40, 20)
    rest = find_heights(card_of(hill, tractor)).find("tractor")
    assert (rest.bottom_mm, rest.top_mm, rest.how) == (1.85, 2.1, "tipping")
    ((gap, hanging),) = rest.gaps
    assert gap == pytest.approx(FOAM + PAPER)
    assert hanging.equals_exact(shapely.box(70, 50, 85, 70), 0.02) or hanging.symmetric_difference(
        shapely.box(70, 50, 85, 70)
    ).area == pytest.approx(0, abs=0.1)


def test_what_is_held_on_both_sides_bridges() -> None:
    posts = [panel(f"post-{n}", x, 60, 20, 40, lift_mm=FOAM) for n, x in enumerate((30, 110))]
    rest = find_heights(card_of(*posts, panel("beam", 70, 60, 90, 12))).find("beam")
    assert rest.how == "bridging"
    assert [gap for gap, _ in rest.gaps] == [1.85]


def test_three_frames_glued_up_are_three_papers_high() -> None:
    frame = panel("frame", 70, 54, 130, 98, windows=(Window(Form("rectangle", 100, 70)),), layers=3)
    assert find_heights(card_of(frame)).most_mm == pytest.approx(3 * PAPER)


def test_a_word_of_one_and_one_before_vellum_and_two_behind() -> None:
    """Two blanks behind the vellum, the vellum, the word and a blank in front: 2 + 1 + 2 papers."""
    behind = panel("blanks", 70, 54, 40, 10, layers=2)
    vellum = panel("vellum", 70, 54, 44, 12, translucent=True)
    word = panel("word", 70, 54, 40, 10, layers=2)
    heights = find_heights(card_of(behind, vellum, word))
    assert heights.find("word").top_mm == pytest.approx(5 * PAPER)
    assert heights.find("vellum").bottom_mm == pytest.approx(2 * PAPER)


def test_over_the_cards_edge_nothing_is_under_a_piece_unless_it_is_trimmed() -> None:
    toad = Cutout("toad-1", "toad", 4, 54, margin_mm=0.0, lift_mm=FOAM)
    assert find_heights(card_of(toad)).find("toad-1").beyond.area == pytest.approx(6 * 20, rel=0.02)
    trimmed = Cutout("toad-1", "toad", 4, 54, margin_mm=0.0, lift_mm=FOAM, trim_to=CARD_EDGE)
    assert find_heights(card_of(trimmed)).find("toad-1").beyond.is_empty


def test_a_scrap_of_overlap_does_not_lift_a_piece_and_drops_stand_two_millimetres_high() -> None:
    raised = panel("raised", 30, 54, 40, 40, lift_mm=FOAM)
    beside = panel("beside", 69.99, 54, 40, 40)
    drops = Embellishment("drops", 4.0, 70, 54, shape="drop")
    heights = find_heights(card_of(raised, beside, drops))
    assert heights.find("beside").how == "flat"
    assert heights.find("drops").top_mm == pytest.approx(PAPER + 2.0)


def test_levels_share_nothing_and_cover_the_card() -> None:
    pieces = [
        Cutout(f"toad-{n}", "toad", 30 + 7 * n, 40 + 3 * n, 10.0 * n, margin_mm=0.0, lift_mm=0.8 * (n % 3))
        for n in range(9)
    ]
    heights = find_heights(card_of(*pieces))
    total = sum(area.area for _, area in heights.levels)
    whole = shapely.union_all([area for _, area in heights.levels])
    assert total == pytest.approx(whole.area, abs=0.5)
    assert whole.area == pytest.approx(139.7 * 107.95, rel=0.01)
    for rest in heights.rests:
        assert rest.top_mm <= heights.most_mm + 1e-6
        assert 0 <= rest.bottom_mm < rest.top_mm


def test_what_lies_half_on_a_raised_panel_tips_and_across_two_it_bridges_and_flat_it_is_steady() -> None:
    """Two panels 2 mm high with 20 mm between them; a strip of 10 mm lies on one, on both, on none."""

    def told(x: float, length: float) -> list[tuple[str, str]]:
        raised = [Panel(key, Form("rectangle", 30, 30), at, 50, lift_mm=2.0) for key, at in (("l", 35.0), ("r", 85.0))]
        strip = Panel("s", Form("rectangle", length, 10), x, 50)
        work = Work(Card(pieces=(*raised, strip)))
        return [(one.pieces[0], one.title.split(" ", 3)[3]) for one in assembly.judge(work) if one.code == "unsteady"]

    assert told(50.0, 24.0) == [("s", "tips")]
    assert told(60.0, 60.0) == [("s", "bridges a gap")]
    assert told(60.0, 10.0) == []
    assert told(35.0, 20.0) == []
    card = Work(Card(pieces=(
        Panel("l", Form("rectangle", 30, 30), 35, 50, lift_mm=2.0), Panel("s", Form("rectangle", 40, 20), 50, 50)
    )))  # fmt: skip
    (found,) = [one for one in assembly.judge(card) if one.code == "unsteady"]
    assert "4.0 cm² hang" in found.text  # from x 50 to 70, 20 mm high
