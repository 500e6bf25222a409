"""The intake against the truth on pages and photos that are meant to be hard (see `pages`)."""

import msgspec
import numpy as np
import pytest
from pages import LETTER, OTHERS, PLAIN, Tally, first, hard_pages, photo, photo_with_card, scan, second, tally

from fair_thicket.intake import scan_sheet
from fair_thicket.intake.photo import Photographed, photograph_of_sheet, photograph_with_card
from fair_thicket.model.errors import PictureError
from fair_thicket.model.plan import SheetImage
from fair_thicket.simulators.camera import Camera
from making import EVERY


@pytest.fixture(scope="module")
def tallies() -> dict[tuple[str, int], tuple[Tally, tuple[SheetImage, ...]]]:
    """What comes of every other of eight pages, at 150 or 300 dpi in turn; with EVERY_CASE=1 of all, at both."""
    found = {}
    for number, page in enumerate(hard_pages()[:: 1 if EVERY == 1 else 2]):
        for dpi in (150, 300) if EVERY == 1 else ((300, 150)[number % 2],):
            pixels, places = scan(page, dpi)
            images = scan_sheet(pixels, dpi=dpi).images
            found[page.name, dpi] = tally(images, places), images
    return found


def test_of_all_images_98_in_100_are_found_as_one_piece(tallies: dict) -> None:
    drawings = sum(one.drawings for one, _ in tallies.values())
    found = sum(one.found for one, _ in tallies.values())
    assert drawings >= (270 if EVERY == 1 else 60)
    assert found >= 0.98 * drawings, {key: one.missed for key, (one, _) in tallies.items() if one.missed}


def test_at_most_1_in_100_is_found_where_none_is(tallies: dict) -> None:
    drawings = sum(one.drawings for one, _ in tallies.values())
    spurious = [words for one, _ in tallies.values() for words in one.spurious]
    assert len(spurious) <= 0.01 * drawings, spurious


def test_sizes_are_true_to_15_hundredths_of_a_millimetre_at_300_dpi(tallies: dict) -> None:
    errors = [error for (_, dpi), (one, _) in tallies.items() if dpi == 300 for error in one.errors]
    assert np.mean(errors) < 0.15
    assert max(errors) < 0.3


def test_exactly_the_four_lines_of_words_are_known_as_greetings(tallies: dict) -> None:
    for (name, _), (_, images) in tallies.items():
        greetings = sum(image.kind == "greeting" for image in images)
        assert greetings == (4 if name == "words" else 0), name


def images_of(photographed: Photographed) -> list[SheetImage]:
    found = photographed.detected.group()
    return photographed.detected.take(found.groups, found.greetings)


PHOTOS = {
    "30 degrees toward the foot": ([first(name, 26 + k % 4 * 4) for k, name in enumerate(PLAIN[:12])],
                                   Camera(tilt_deg=30)),
    "both ways and turned, in shadow": ([second(name, 24 + k % 4 * 4) for k, name in enumerate(OTHERS[:14])],
                                        Camera(tilt_deg=15, swing_deg=-20, turn_deg=6, shadow=0.25, distance_mm=470,
                                               seed=3)),
}  # fmt: skip


@pytest.mark.parametrize("name", list(PHOTOS)[:: 1 if EVERY == 1 else 2])
def test_sizes_in_a_photo_of_a_whole_sheet_are_true_to_1_in_100(name: str) -> None:
    shot = photo(*PHOTOS[name])
    made = tally(tuple(images_of(photograph_of_sheet(shot.pixels, LETTER))), shot.places, share=True)
    assert (made.missed, made.spurious) == ([], [])
    assert np.mean(made.errors) < 0.01
    assert max(made.errors) < 0.02


def test_sizes_in_a_photo_with_the_reference_card_are_true_to_1_in_100() -> None:
    drawings = [first(name, 24 + k % 3 * 4) for k, name in enumerate(PLAIN[3:12])]
    shot = photo_with_card(drawings, Camera(tilt_deg=20, swing_deg=10, distance_mm=330, wide_deg=42, seed=5))
    made = photograph_with_card(shot.pixels)
    left, top, _, _ = made.detected.page.bare[0]
    images = [
        msgspec.structs.replace(one, cx=one.cx - left - 4, cy=one.cy - top - 4)  # from the card's own corner
        for one in images_of(made)
    ]
    told = tally(tuple(images), shot.places, share=True)
    assert (told.missed, told.spurious) == ([], [])
    assert np.mean(told.errors) < 0.01


def test_what_a_photo_does_not_show_is_said() -> None:
    blank = np.full((900, 700), 225, np.uint8)
    with pytest.raises(PictureError, match="all four edges"):
        photograph_of_sheet(blank, LETTER)
    with pytest.raises(PictureError, match="0 of the reference card's four markers"):
        photograph_with_card(blank)
