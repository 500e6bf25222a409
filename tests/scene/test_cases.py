"""Each of the eighteen cases (common practice): composed, pictured rightly, seen rightly, judged, planned and kept."""

import json
from pathlib import Path

import numpy as np
import pytest

from cases import CASES
from fair_thicket import masks
from fair_thicket.files.card_file import decode_card, encode_card, open_card, save_card
from fair_thicket.ink.painter import Look as Manner
from fair_thicket.ink.painting import paint
from fair_thicket.laid.visibility import look, sights_of
from fair_thicket.model.card import Work
from fair_thicket.model.keys import piece_key
from fair_thicket.model.pieces import Cutout, Impression, Wash
from fair_thicket.model.plan import SHEET
from fair_thicket.scene import judge
from making import framed_png
from painter import PX, Painter


@pytest.fixture(params=CASES, ids=[case.__name__ for case in CASES])
def case(request: pytest.FixtureRequest) -> Work:
    """One case after the other."""
    return request.param()  # type: ignore[no-any-return]


def pictures_of(work: Work) -> dict[str, bytes]:
    return {stamp.picture: framed_png(stamp.width_mm, stamp.height_mm) for stamp in work.stash.stamps}


def test_the_picture_and_the_visible_areas_agree_with_an_independent_painter(case: Work) -> None:
    """Pictures within 0.5 % of the pixels; areas within 1 %, or half a pixel along the edge of small ones."""
    other = Painter(json.loads(encode_card(case)))
    ours = paint(case, {}, dpi=PX * 25.4, look=Manner(lines=False))
    assert ours.shape == other.picture.shape
    unlike = np.abs(ours.astype(float) / 255 - other.picture).max(axis=2) > 2 / 255
    assert unlike.mean() < 0.005
    view = look(case)
    edge = dict.fromkeys((piece.id for piece in case.card.pieces), 0.0)
    for leaf, seen in zip(view.leaves, view.seen, strict=True):
        edge[leaf.piece.id] += seen.length
    for sight in sights_of(view):
        piece = case.card.find(sight.id)
        if getattr(piece, "translucent", False) or isinstance(piece, Wash):
            continue
        if sight.hangs and sight.off_panel_mm2:  # the painter's picture ends at the card's edge
            continue
        assert other.seen[sight.id] == pytest.approx(sight.visible_mm2, rel=0.01, abs=edge[sight.id] / PX / 2), sight.id


def test_it_opens_as_it_was_saved(case: Work, tmp_path: Path) -> None:
    assert decode_card(encode_card(case), "case") == case
    save_card(tmp_path / "case.thicket", case, pictures_of(case))
    assert open_card(tmp_path / "case.thicket")[0] == case


def test_it_is_judged_and_planned(case: Work) -> None:
    findings = judge(case)
    assert findings
    assert all(one.title and one.text for one in findings)
    plan = masks.plan(case)
    stamped = [piece.id for piece in case.card.pieces if isinstance(piece, Impression)]
    on_card = [press for press in plan.presses if press.surface != SHEET and not press.is_ink]
    assert sorted(key for press in on_card for key in press.impressions) == sorted(stamped)
    cut = {
        piece.id
        for piece in case.card.pieces
        if isinstance(piece, Cutout) and piece.opening is None and not case.stash.find(piece.stamp).kind.is_plain
    }
    on_sheet = [piece_key(key) for press in plan.presses if press.surface == SHEET for key in press.impressions]
    assert set(on_sheet) == cut
    rehearsal = masks.rehearse(case, pictures_of(case), plan)
    assert not rehearsal.differences
