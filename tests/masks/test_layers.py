"""Layered stamps: registered to each other, placed as one, planned as several."""

from pathlib import Path

import msgspec
import numpy as np
import pytest

from fair_thicket import masks
from fair_thicket.files.card_file import open_card, save_card
from fair_thicket.ink.painting import compose
from fair_thicket.ink.prints import decode_picture
from fair_thicket.intake.layers import join_layers, move_layer, register
from fair_thicket.intake.taking import encode_clean
from fair_thicket.library import open_library
from fair_thicket.making import print_card
from fair_thicket.masks.differences import levels_apart
from fair_thicket.model.card import Work, name_pieces
from fair_thicket.model.errors import PaperError
from fair_thicket.model.keys import piece_key
from fair_thicket.model.plan import Press
from fair_thicket.model.stash import Stamp
from fair_thicket.printing.plan_pdf import Side
from making import PX_PER_MM, framed_png, stamp, work_of


def ring_of(width: float, height: float) -> tuple[tuple[float, float], ...]:
    return ((-width / 2, -height / 2), (width / 2, -height / 2), (width / 2, height / 2), (-width / 2, height / 2))


@pytest.fixture
def layered() -> tuple[Stamp, dict[str, bytes]]:
    """A frame of 20 mm and a solid patch of 16 by 6 mm within it."""
    frame = stamp("frame", 20)
    patch = msgspec.structs.replace(stamp("patch"), width_mm=16.0, height_mm=6.0, outline=ring_of(16, 6))
    solid = np.full((round(6 * PX_PER_MM), round(16 * PX_PER_MM)), 90, np.uint8)
    pictures = {"images/frame.png": framed_png(20, 20), "images/patch.png": encode_clean(solid)}
    return join_layers([patch, frame], pictures, name="toad")


def test_layers_are_registered_middle_in_middle(layered: tuple[Stamp, dict[str, bytes]]) -> None:
    whole, pictures = layered
    assert (whole.width_mm, whole.height_mm) == (20, 20)
    assert [layer.name for layer in whole.layers] == ["patch", "frame"]
    for layer in whole.layers:
        assert (layer.x, layer.y) == pytest.approx((0, 0), abs=0.13)
    assert set(pictures) == set(whole.pictures)
    passing = decode_picture(pictures[whole.picture])
    middle = passing[passing.shape[0] // 2, passing.shape[1] // 2]
    assert middle == pytest.approx(1 - 90 / 255 * (1 - 28 / 255) ** 2, abs=0.03)


def test_a_layer_goes_where_its_silhouette_fits() -> None:
    """An L and the square that fills its foot: by hand the square's middle lies 5 mm left of and 5 mm below the L's."""
    corner = ((-10.0, -10.0), (0.0, -10.0), (0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (-10.0, 10.0))
    x, y = register(ring_of(20, 10), corner)
    assert (x, y) == pytest.approx((0, 5), abs=0.15)
    x, y = register(ring_of(10, 20), corner)
    assert (x, y) == pytest.approx((-5, 0), abs=0.15)


def test_a_layer_may_be_moved_a_little_and_the_whole_is_printed_anew(layered: tuple[Stamp, dict[str, bytes]]) -> None:
    whole, pictures = layered
    after, made = move_layer(whole, pictures, 0, (0.5, -1.0))
    assert (after.layers[0].x, after.layers[0].y) == pytest.approx(
        (whole.layers[0].x + 0.5, whole.layers[0].y - 1.0), abs=1e-6
    )
    assert (after.outline, after.width_mm, after.layers[1]) == (whole.outline, whole.width_mm, whole.layers[1])
    assert after.picture != whole.picture
    before, now = decode_picture(pictures[whole.picture]), decode_picture(made[after.picture])
    assert np.roll(now, round(1.0 * PX_PER_MM), axis=0)[100:130, 118] == pytest.approx(before[100:130, 118], abs=0.05)
    with pytest.raises(PaperError, match="more than 1 mm over the edge"):
        move_layer(whole, pictures, 0, (3.5, 0.0))


def test_what_cannot_be_layered_is_told(layered: tuple[Stamp, dict[str, bytes]]) -> None:
    with pytest.raises(PaperError, match="2 to 6 stamps"):
        join_layers([stamp("a")], {}, name="x")
    with pytest.raises(PaperError, match="layered already"):
        join_layers([layered[0], stamp("a")], {}, name="x")


@pytest.fixture
def card(layered: tuple[Stamp, dict[str, bytes]]) -> tuple[Work, dict[str, bytes]]:
    """A fern behind a layered toad behind a snail."""
    whole = msgspec.structs.replace(layered[0], id="toad", name="toad")
    work = work_of(("fern", 40, 40), ("toad", 48, 40), ("snail", 60, 44), stamps=(whole,))
    return work, {**layered[1], **{f"images/{key}.png": framed_png(10, 10) for key in ("fern", "snail")}}


def test_layers_take_a_press_each_in_their_order_and_one_mask(card: tuple[Work, dict[str, bytes]]) -> None:
    plan = masks.plan(card[0])
    assert plan.presses == (
        Press(("snail-3",), ()),
        Press(("toad-2/1",), ("snail-3",)),
        Press(("toad-2/2",), ("snail-3",)),
        Press(("fern-1",), ("toad-2",)),
    )
    assert [(mask.stamp, mask.serves) for mask in plan.masks] == [("snail", ("snail-3",)), ("toad", ("toad-2",))]
    assert (plan.placements, plan.deepest_pile, plan.optimal) == (2, 1, True)
    assert plan.press_of("toad-2") == 2


def test_the_rehearsal_of_layers_equals_the_scene_and_a_mask_left_out_is_a_ghost(
    card: tuple[Work, dict[str, bytes]],
) -> None:
    work, pictures = card
    plan = masks.plan(work)
    made = masks.rehearse(work, pictures, plan)
    assert made.differences == ()
    assert levels_apart(made.papers[-1], compose(work, pictures)).max() <= 2
    ghosts = masks.rehearse(work, pictures, plan, left_out={0}).differences
    assert {(one.kind, one.front, one.back) for one in ghosts} == {("ghost", "snail-3", "toad-2")}


def test_steps_and_names_tell_the_layers(card: tuple[Work, dict[str, bytes]]) -> None:
    work, pictures = card
    plan = masks.plan(work)
    steps = masks.list_steps(work, plan)
    words = [step.words for step in steps if step.kind == "stamp"]
    assert "toad, layer 1" in words[1]
    assert "toad, layer 2" in words[2]
    assert "line toad up on the layer before" in words[2]
    assert name_pieces(work)["toad-2/2"] == "toad, layer 2"
    assert piece_key("toad-2/2") == "toad-2"
    told = steps
    assert print_card([Side("front", work, plan, told)], pictures).startswith(b"%PDF")


def test_a_layered_image_survives_its_card_and_the_library(
    card: tuple[Work, dict[str, bytes]], layered: tuple[Stamp, dict[str, bytes]], tmp_path: Path
) -> None:
    work, pictures = card
    save_card(tmp_path / "card.thicket", work, pictures)
    again, kept = open_card(tmp_path / "card.thicket")
    assert again == work
    assert kept == pictures
    library = open_library(tmp_path / "library.sqlite")
    (number,) = library.keep([layered[0]], layered[1])
    assert library.load(number) == layered
    library.drop([number])
    library.close()


def test_two_of_a_layered_image_share_no_press_of_one_rubber(card: tuple[Work, dict[str, bytes]]) -> None:
    toad = card[0].stash.find("toad")
    work = work_of(("toad", 30, 40), ("toad", 90, 40), stamps=(toad,))
    plan = masks.plan(work)
    assert len(plan.presses) == 3  # the second begins while the first gets its second layer
    assert plan.optimal
    for press in plan.presses:
        layers = [key.rpartition("/")[2] for key in press.impressions]
        assert len(layers) == len(set(layers))
