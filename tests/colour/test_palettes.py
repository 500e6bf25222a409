"""Palettes of pictures made by hand, and Oklab against a reference library."""

import numpy as np
import pytest
from coloraide import Color

from fair_thicket.colour.offers import offer_runs
from fair_thicket.colour.palettes import match_palette, palette_of
from fair_thicket.colour.suggesting import suggest
from fair_thicket.ink.difference import difference_of
from fair_thicket.ink.oklab import from_oklab, to_oklab
from fair_thicket.laid.visibility import look
from fair_thicket.model.card import Work
from fair_thicket.model.supplies import Marker


def test_oklab_agrees_with_a_reference_library_and_goes_back() -> None:
    """Coloraide 8's Oklab; it takes the matrices to more digits."""
    chance = np.random.default_rng(2)
    levels = chance.random((200, 3)).astype(np.float32)
    found = to_oklab(levels)
    expected = np.array([Color("srgb", one.tolist()).convert("oklab").coords() for one in levels])
    assert np.abs(found - expected).max() < 2e-4
    assert from_oklab(found) == pytest.approx(levels, abs=2e-3)


def test_main_colours_are_found_with_their_shares_white_included() -> None:
    picture = np.full((100, 100, 3), 255, np.uint8)
    picture[:30], picture[30:45, :50] = (79, 138, 74), (156, 47, 51)
    noisy = np.clip(picture + np.random.default_rng(1).normal(0, 4, picture.shape), 0, 255).astype(np.uint8)
    found = palette_of(noisy)
    assert [round(tint.share, 2) for tint in found[:3]] == pytest.approx([0.62, 0.3, 0.075], abs=0.03)
    for tint, colour in zip(found, ("#ffffff", "#4f8a4a", "#9c2f33"), strict=False):
        assert difference_of(tint.colour, colour) < 4


@pytest.mark.parametrize("pixels", [np.zeros((1, 1), np.uint8), np.full((40, 30), 200, np.uint8)])
def test_a_picture_of_one_tone_has_one_colour(pixels: np.ndarray) -> None:
    assert [tint.share for tint in palette_of(pixels)] == [1.0]


def test_colours_are_matched_to_own_families_with_the_distance(markers: list[Marker]) -> None:
    picture = np.zeros((60, 60, 3), np.uint8)
    picture[:], picture[:30] = (156, 47, 51), (79, 138, 74)
    matches = match_palette(palette_of(picture), offer_runs(markers, 3))
    assert {match.family for match in matches} == {"fern", "toadstool"}
    assert all(match.off < 2 for match in matches)
    assert match_palette(palette_of(picture), []) == []


def test_proposals_keep_to_the_families_that_are_asked_for(
    demo: tuple[Work, dict[str, bytes]], markers: list[Marker]
) -> None:
    work, _ = demo
    for one in suggest(work, look(work), markers, only=("fern", "lamp", "dusk"), seconds=60):
        assert set(one.families) <= {"fern", "lamp", "dusk"}
