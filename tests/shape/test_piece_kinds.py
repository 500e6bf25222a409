"""A kind of piece more is a struct and the area it takes up: it is pictured, named, judged, printed and shown."""

import io
from typing import Annotated, get_args

import msgspec
import pypdf
import pytest
import shapely

from cases import STASH
from fair_thicket import masks
from fair_thicket.advice import advise
from fair_thicket.edits.pieces import move_to
from fair_thicket.ink.painting import paint
from fair_thicket.laid.stack import stack
from fair_thicket.laid.visibility import see
from fair_thicket.making import print_card
from fair_thicket.model.basics import Key, Place
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.pieces import Impression, PaperPiece, Piece, Wash
from fair_thicket.model.stash import Stash
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.shape import paper
from making import pictures_of


class Twine(PaperPiece, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="twine"):
    """A length of twine, tied on."""

    id: Key
    length_mm: Annotated[float, msgspec.Meta(gt=0, le=400)]
    x: Place
    y: Place
    angle_deg: float = 0.0

    @property
    def noun(self) -> str:
        return "twine"


def twined(piece: Twine, stash: Stash) -> shapely.Polygon:
    del stash
    return shapely.box(-piece.length_mm / 2, -1.0, piece.length_mm / 2, 1.0)


@pytest.fixture
def work(monkeypatch: pytest.MonkeyPatch) -> Work:
    monkeypatch.setattr(paper, "SHAPES", {**paper.SHAPES, Twine: twined})
    twine = Twine("twine-1", 80.0, 69.85, 50.0, colour="#6e3b2b", lift_mm=1.0)
    figure = Impression("figure-1", "figure", 69.85, 50.0, colour="#c5d3a4")
    return Work(Card(pieces=(figure, twine)), STASH)


def test_it_is_pictured_and_hides_what_it_lies_on(work: Work) -> None:
    picture = paint(work, pictures_of(work), dpi=254)
    assert picture[500, 698].tolist() == [0x6E, 0x3B, 0x2B]
    assert picture[500, 400].tolist() == [0x6E, 0x3B, 0x2B]
    figure = next(one for one in see(work) if one.id == "figure-1")
    assert figure.hidden_by["twine-1"] > 20  # 2 mm of it all across


def test_it_is_named_and_moved_as_every_other(work: Work) -> None:
    assert name_pieces(work)["twine-1"] == "twine"
    moved = move_to(work, "twine-1", (69.85, 70.0))
    area = next(leaf.area for leaf in stack(moved) if leaf.key == "twine-1")
    assert area.bounds == pytest.approx((29.85, 69.0, 109.85, 71.0))


def test_what_it_does_to_others_is_told(work: Work) -> None:
    below = msgspec.structs.replace(work, card=Card(pieces=(*work.card.pieces, Twine("twine-2", 200.0, 69.85, 90.0))))
    found = {(one.code, one.pieces[0]) for one in advise(below) if one.pieces}
    assert any(key == "twine-2" for _, key in found)


def test_it_is_printed_by_its_name(work: Work) -> None:
    data = print_card([Side("front", work, masks.plan(work), [])], pictures_of(work))
    assert "twine" in pypdf.PdfReader(io.BytesIO(data)).pages[0].extract_text()


def test_every_kind_of_piece_has_its_area_and_a_new_one_without_is_named() -> None:
    """Washes have theirs by their own kinds; the struct that has none is what is missing."""
    kinds = [kind for kind in get_args(Piece) if not issubclass(kind, Wash)]
    assert sorted(kind.__name__ for kind in kinds) == sorted(kind.__name__ for kind in paper.SHAPES)
    with pytest.raises(KeyError, match="Twine"):
        paper.local_area(Twine("twine-1", 80.0, 69.85, 50.0), STASH)  # type: ignore[arg-type]
