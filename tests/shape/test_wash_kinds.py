"""A kind of wash more is a struct and a row: it is pictured, planned, told, printed and offered as every other."""

import io
from typing import ClassVar, Literal, get_args

import msgspec
import numpy as np
import pytest
import shapely
from pypdf import PdfReader

from cases import STASH
from fair_thicket import masks
from fair_thicket.advice import advise
from fair_thicket.ink.painting import compose, paint
from fair_thicket.making import print_card
from fair_thicket.model.card import Card, Work, name_pieces
from fair_thicket.model.pieces import AnyWash, Blend, Form, Impression, Stencilled, Texture, Wash, as_kind
from fair_thicket.model.stash import Stash
from fair_thicket.printing.plan_pdf import Side
from fair_thicket.shape import wash_kinds
from fair_thicket.shape.outline import Area
from fair_thicket.shape.wash_kinds import WashKind, kind_of, offered_kinds
from making import pictures_of

SKY = Blend("sky-1", Form("rectangle", 100.0, 60.0), 69.85, 50.0, colour="#5f8fa3", coats=2)


class Dragged(Wash, frozen=True, forbid_unknown_fields=True, omit_defaults=True, tag="dragged", kw_only=True):
    """Ink dragged on with a dry brush, in stripes of a width, mm."""

    stripe_mm: float = 6.0
    hides: ClassVar[Literal["never", "white", "always"]] = "always"

    @property
    def noun(self) -> str:
        return "dry brush"


def striped(piece: Dragged, stash: Stash, form: Area) -> Area:
    """Every second stripe of the form."""
    del stash
    left, top, right, bottom = form.bounds
    stripes = [
        shapely.box(x, top, x + piece.stripe_mm, bottom) for x in np.arange(left, right, 2 * piece.stripe_mm).tolist()
    ]
    return shapely.intersection(form, shapely.union_all(stripes))


DRAGGED = WashKind(
    choice="ink, dragged on dry",
    mind="Wipe the brush first.",
    area=striped,
    step="Drag the {name} over with a nearly dry brush, in {coats}",
    coats="One dry stroke",
    last="Wash the brush at once.",
)


@pytest.fixture
def work(monkeypatch: pytest.MonkeyPatch) -> Work:
    monkeypatch.setattr(wash_kinds, "WASHES", {**wash_kinds.WASHES, Dragged: DRAGGED})
    dragged = as_kind(SKY, Dragged, id="brush-1", colour="#ffffff")
    return Work(Card(pieces=(SKY, dragged, Impression("figure-1", "figure", 60, 60, colour="#bb7744"))), STASH)


def test_it_is_pictured_by_every_painter(work: Work) -> None:
    """White stripes 6 mm wide cover the sky, 6 mm between them do not: 19.85 to 25.85 white, to 31.85 sky."""
    for picture in (paint(work, pictures_of(work), dpi=254), compose(work, pictures_of(work), dpi=254)):
        assert picture[230, 228].tolist() == [255, 255, 255]
        assert picture[230, 288].max() < 200


def test_it_is_named_planned_and_told_in_its_own_words(work: Work) -> None:
    assert name_pieces(work)["brush-1"] == "dry brush"
    made = masks.plan(work)
    told = [step.words for step in masks.rehearse(work, pictures_of(work), made).steps]
    assert "Drag the dry brush over with a nearly dry brush, in 2 thin coats, a pause after each" in told


def test_it_is_judged_as_other_washes_are(work: Work) -> None:
    away = msgspec.structs.replace(work.card.find("brush-1"), x=900.0)
    found = advise(msgspec.structs.replace(work, card=Card(pieces=(SKY, away))))
    assert ("lands-nowhere", ("brush-1",)) in {(one.code, one.pieces) for one in found}


def test_its_page_is_printed(work: Work) -> None:
    printed = print_card([Side("front", work, masks.plan(work), [])], pictures_of(work))
    pages = [page.extract_text().replace("\n", " ") for page in PdfReader(io.BytesIO(printed)).pages]
    (page,) = [text for text in pages if "Ink the dry brush" in text]
    assert "One dry stroke. Dry in about" in page
    assert "Wash the brush at once." in page


def test_it_is_offered_after_the_others(work: Work) -> None:
    assert [row.choice for _, row in offered_kinds(work.card.find("sky-1"))][-1] == "ink, dragged on dry"  # type: ignore[arg-type]


def test_every_kind_of_the_program_has_a_row_and_words_of_its_own() -> None:
    rows = [row for _, row in offered_kinds(SKY)]
    assert {kind for kind, _ in offered_kinds(SKY)} == set(get_args(AnyWash))
    assert len(rows) == len({row.choice for row in rows}) == len({row.step for row in rows})
    assert all(kind_of(as_kind(SKY, kind)) is row for kind, row in offered_kinds(SKY))


def test_a_wash_made_another_kind_keeps_what_all_have_and_loses_what_only_its_own_has() -> None:
    stepped = Stencilled("sky-1", SKY.form, 69.85, 50.0, 12.0, colour="#5f8fa3", coats=2, name="mine", stencil="wave")
    marks = as_kind(stepped, Texture, pitch_mm=7.0)
    assert (marks.name, marks.angle_deg, marks.coats, marks.pitch_mm) == ("mine", 12.0, 2, 7.0)
    assert as_kind(marks, Stencilled).stencil == ""


def test_a_kind_without_a_row_is_named() -> None:
    with pytest.raises(KeyError, match="Dragged"):
        kind_of(as_kind(SKY, Dragged))
