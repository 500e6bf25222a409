"""Papers, inks and markers in and out as CSV; and the weights of papers."""

from pathlib import Path

import pytest

from fair_thicket.files.supplies_csv import read_supplies, write_supplies
from fair_thicket.model.errors import InputError
from fair_thicket.model.supplies import Ink, Marker, Paper, parse_weight, pounds_to_gsm, say_weight

SUPPLIES = [
    Paper("ivory base", "#fbf6e6", weight_gsm=298.0, sheets_left=12),
    Ink("=pond", "#2c6e7f", "pon"),
    Marker("fern, light", "#9cc08a", "fe·1", "fern"),
]


@pytest.mark.parametrize(
    ("pounds", "basis", "gsm"),
    [(110, "cover", 298), (80, "cover", 216), (65, "cover", 176), (70, "text", 104), (100, "text", 148)],
)
def test_basis_weights_convert_by_their_definition(pounds: float, basis: str, gsm: float) -> None:
    """By hand: 500 cover sheets of 20 by 26 in are 167.7 m2, so 110 lb (49 895 g) are 297.5 g/m2; text likewise."""
    assert pounds_to_gsm(pounds, basis) == pytest.approx(gsm, abs=1)


def test_weights_are_read_and_said_as_makers_do() -> None:
    assert parse_weight("300") == parse_weight("300 gsm") == parse_weight("300g/m²") == 300
    assert parse_weight("110 lb cover") == parse_weight("110lb cover") == pytest.approx(297.5, abs=0.1)
    assert say_weight(297.5) == "298 g/m² (110 lb cover)"
    for words in ("", "heavy", "110 lb", "-3", "nan", "1e9 gsm", "0"):
        with pytest.raises(InputError):
            parse_weight(words)


def test_what_goes_out_comes_in_again(tmp_path: Path) -> None:
    path = tmp_path / "supplies.csv"
    path.write_bytes(write_supplies(SUPPLIES))
    assert "'=pond" in path.read_text()  # no spreadsheet runs it
    assert read_supplies(path) == SUPPLIES


def test_tables_of_spreadsheets_are_read_whatever_their_dress(tmp_path: Path) -> None:
    path = tmp_path / "supplies.csv"
    table = "what;name;colour;weight\npaper;kraft;#b08d5f;300 gsm\n"
    for data in (table.encode("utf-8-sig"), table.encode("utf-16"), table.replace("kraft", "crème").encode("cp1252")):
        path.write_bytes(data)
        (paper,) = read_supplies(path)
        assert paper.weight_gsm == 300


BAD: dict[str, tuple[bytes, str]] = {
    "empty": (b"", "has no columns"),
    "headings only": (b"what,name\n", "nothing below them"),
    "an ink without its colour": (b"what,name,colour\nink,pond,\n", "line 2: a colour is written"),
    "a marker without its colour": (b"what,name\nmarker,pond\n", "line 2: a colour is written"),
    "another table": (b"a,b\n1,2\n", "has no columns"),
    "a formula": (b"what,name\nink,=1+1\n", "line 2: .*is a formula"),
    "no kind": (b"what,name\nglue,stick\n", "neither paper, ink nor marker"),
    "a colour that is none": (b"what,name,colour\nink,pond,blue\n", "written like #3c6e47"),
    "a weight that is none": (b"what,name,weight\npaper,ivory,heavy\n", "line 2: .*not a paper weight"),
    "a length that is none": (b"what,name,width\npaper,ivory,nan\n", "not a length"),
    "sheets below none": (b"what,name,sheets left\npaper,ivory,-4\n", "line 2"),
    "no name": (b"what,name\nink,\n", "line 2"),
    "bytes": (b"what,name\x00\x00\n", "not text"),
    "a field without end": (b'what,name\nink,"' + b"x" * 200_000, "no table that can be read|line 2"),
}


@pytest.mark.parametrize("name", BAD)
def test_a_bad_table_is_told_in_one_sentence(name: str, tmp_path: Path) -> None:
    data, words = BAD[name]
    path = tmp_path / "supplies.csv"
    path.write_bytes(data)
    with pytest.raises(InputError, match=words) as caught:
        read_supplies(path)
    assert "\n" not in str(caught.value)


def test_a_table_that_is_not_there_is_told(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="is not there"):
        read_supplies(tmp_path / "none.csv")


def test_a_bare_list_of_names_and_colours_is_markers_where_markers_are_asked_for(tmp_path: Path) -> None:
    path = tmp_path / "markers.csv"
    path.write_text("Name,Color\nleaf,#4F8A4A\nmoss,#8aa465\n", encoding="utf-8")
    markers = read_supplies(path, as_markers=True)
    assert [(type(one).__name__, one.name, one.colour) for one in markers] == [
        ("Marker", "leaf", "#4f8a4a"),
        ("Marker", "moss", "#8aa465"),
    ]
    with pytest.raises(InputError, match="no columns"):
        read_supplies(path)
