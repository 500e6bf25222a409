"""SVG in and out: units, transforms, holes; and hostile files, each told in one sentence, quickly."""

import math
import time
from pathlib import Path

import pytest

from fair_thicket.files.outline_svg import outline_svg
from fair_thicket.intake.drawing_file import parse_drawing, read_drawing
from fair_thicket.model.errors import DrawingError
from fair_thicket.model.plan import SheetImage
from fair_thicket.shape.outline import to_area

CUT = 'fill="none" stroke="#f00" stroke-width="0.1"'


def svg(body: str, size: str = 'width="60mm" height="40mm" viewBox="0 0 60 40"', head: str = "") -> bytes:
    return (
        f'{head}<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}>{body}</svg>'
    ).encode()


def dies(body: str, **how: str) -> tuple[SheetImage, ...]:
    return parse_drawing(svg(body, **how), "cut.svg").images


@pytest.mark.parametrize(
    "size",
    [
        'width="60mm" height="40mm" viewBox="0 0 60 40"',
        'width="6cm" height="4cm" viewBox="0 0 60 40"',
        'width="2.362204724in" height="1.574803150in" viewBox="0 0 60 40"',
        'width="226.771654" height="151.181102" viewBox="0 0 60 40"',
        'width="170.0787402pt" height="113.3858268pt" viewBox="0 0 60 40"',
    ],
)
def test_a_die_has_its_true_size_in_any_unit(size: str) -> None:
    (die,) = dies(f'<rect x="10" y="5" width="30" height="20" {CUT}/>', size=size)
    assert (die.kind, die.cx, die.cy) == ("die shape", pytest.approx(25, abs=0.01), pytest.approx(15, abs=0.01))
    assert (die.width_mm, die.height_mm) == pytest.approx((30, 20), abs=0.01)


@pytest.mark.parametrize(
    "body",
    [
        f'<g transform="translate(20 10) rotate(90) scale(2)"><rect width="5" height="6" {CUT}/></g>',
        f'<defs><rect id="r" width="12" height="10"/></defs><use href="#r" x="8" y="10" {CUT}/>',
        f'<defs><rect id="r" width="12" height="10"/></defs><use xlink:href="#r" transform="translate(8,10)" {CUT}/>',
        f'<path d="M8 10h12v10h-12z" {CUT}/>',
        "<style>.c{fill:none;stroke:red;stroke-width:.1}</style><polygon class='c' points='8,10 20,10 20,20 8,20'/>",
        '<path style="fill:none;stroke:#000;stroke-width:0.1" d="M8 10 L20 10 20 20 8 20 8 10"/>',
    ],
)
def test_transforms_uses_styles_and_classes_are_followed(body: str) -> None:
    (die,) = dies(body)
    assert (die.cx, die.cy) == pytest.approx((14, 15), abs=0.01)
    assert (die.width_mm, die.height_mm) == pytest.approx((12, 10), abs=0.01)


def test_arcs_and_curves_are_flattened_closely() -> None:
    arc, circle = dies(
        f'<path d="M5 20 A10 10 0 0 1 25 20 A10 10 0 0 1 5 20 Z" {CUT}/><circle cx="45" cy="20" r="10" {CUT}/>'
    )
    for die in (arc, circle):
        assert to_area(die.outline).area == pytest.approx(math.pi * 100, rel=2e-3)


def test_a_cut_file_without_a_size_is_in_pixels_of_which_96_are_an_inch() -> None:
    """CSS Values and Units 3, section 6.2: 1in = 96px; a cut file needs no page."""
    (die,) = dies(f'<rect x="10" y="5" width="96" height="48" {CUT}/>', size="")
    assert (die.width_mm, die.height_mm) == pytest.approx((25.4, 12.7), abs=0.01)


def test_outlines_within_an_outline_are_its_openings() -> None:
    ring, plain = dies(
        f'<path d="M5 5h20v20h-20z M10 10h10v10h-10z" {CUT} fill-rule="evenodd"/>'
        f'<rect x="30" y="5" width="20" height="20" {CUT}/><rect x="35" y="10" width="5" height="5" {CUT}/>'
    )
    assert [len(die.pockets) for die in (ring, plain)] == [1, 1]
    assert to_area(ring.pockets[0]).area == pytest.approx(100, rel=1e-3)


def test_a_drawing_becomes_a_stamp_of_its_ink() -> None:
    body = '<circle cx="30" cy="20" r="10" fill="none" stroke="#000" stroke-width="1"/><circle cx="30" cy="20" r="2"/>'
    (stamp,) = parse_drawing(svg(body), "draw.svg").images
    assert stamp.kind == "image"
    assert (stamp.width_mm, stamp.height_mm) == pytest.approx((21, 21), abs=0.1)
    assert to_area(stamp.outline).area == pytest.approx(math.pi * 10.5**2, rel=0.01)


def test_the_maker_may_say_which_it_is() -> None:
    body = '<rect x="10" y="5" width="30" height="20" fill="#000"/>'
    assert parse_drawing(svg(body), "x.svg").images[0].kind == "image"
    assert parse_drawing(svg(body), "x.svg", as_dies=True).images[0].kind == "die shape"


def test_an_outline_written_comes_in_again_at_its_size(tmp_path: Path) -> None:
    outer = ((0.0, 0.0), (31.25, 0.0), (31.25, 17.5), (0.0, 17.5))
    hole = ((5.0, 5.0), (9.0, 5.0), (9.0, 8.0), (5.0, 8.0))
    path = tmp_path / "out.svg"
    path.write_bytes(outline_svg("a <post> & more", (outer, hole)))
    (die,) = read_drawing(path).images
    assert (die.width_mm, die.height_mm) == pytest.approx((31.25, 17.5), abs=0.002)
    assert to_area(die.pockets[0]).area == pytest.approx(12, rel=1e-3)


BOMB = (
    '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">'
    '<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;">]>'
)
OUTSIDE = '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'
DOUBLING = "".join(f'<g id="g{k}"><use href="#g{k - 1}"/><use href="#g{k - 1}"/></g>' for k in range(1, 40))
HOSTILE: dict[str, tuple[bytes, str]] = {
    "entities": (svg("<text>&c;</text>", head=BOMB), "entities of its own"),
    "a file from outside": (svg("<text>&x;</text>", head=OUTSIDE), "entities of its own"),
    "nan": (svg('<path d="M0 0 L nan 5 L 5 5 z"/>'), "not finite"),
    "endless": (svg('<rect width="1e999" height="5"/>'), "not finite"),
    "infinite": (svg('<circle r="inf" cx="1" cy="1"/>'), "not finite"),
    "a million vertices": (svg(f'<path d="M0 0 {"L 1.5 2.25 " * 1_000_000} z"/>'), "simplify them"),
    "no height of the view": (svg("<rect width='5' height='5'/>", size='viewBox="0 0 60 0"'), "sketch.svg"),
    "no size": (svg("<rect width='5' height='5'/>", size='width="0" height="0"'), "give it a width"),
    "no size said": (svg("<rect width='5' height='5'/>", size=""), "does not say how large"),
    "a size of its surroundings": (svg("<rect width='5' height='5'/>", size='width="100%"'), "does not say how large"),
    "too large": (svg("<rect width='5' height='5'/>", size='width="90m" height="9000cm"'), "sketch.svg"),
    "it uses itself": (svg('<g id="a"><use href="#a"/></g>'), "repeats itself without end"),
    "they use each other": (
        svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>'), "repeats itself without end",
    ),
    "it doubles and doubles": (svg(f'<rect id="g0" width="1" height="1"/>{DOUBLING}'), "repeats its parts"),
    "cut short": (svg("<rect width='5' height='5'/>")[:-20], "cut short"),
    "empty": (b"", "not an SVG drawing"),
    "no drawing": (b"<html><body/></html>", "not an SVG drawing"),
    "bytes": (bytes(range(256)) * 40, "not an SVG drawing"),
    "nothing drawn": (svg(""), "draws nothing"),
    "white on white": (svg('<rect width="9" height="9" fill="#fff"/>'), "draws nothing"),
    "nested": (svg("<g>" * 5000 + "</g>" * 5000), "nested"),
    "many": (svg("<rect/>" * 60_000), "more than 50000 elements"),
    "only words to load": (svg('<image href="http://127.0.0.1/x.png" width="9" height="9"/>'), "draws nothing"),
    "a wrong unit": (svg("<rect width='5' height='5'/>", size='width="5 apples" height="3 pears"'), "sketch.svg"),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_drawing_is_told_in_one_sentence_at_once(name: str) -> None:
    data, words = HOSTILE[name]
    start = time.perf_counter()
    with pytest.raises(DrawingError, match=words) as caught:
        parse_drawing(data, "sketch.svg")
    assert "\n" not in str(caught.value)
    assert time.perf_counter() - start < 5


def test_scripts_handlers_and_what_is_loaded_are_left_out_of_a_drawing() -> None:
    body = (
        "<script>alert(1)</script><style>@import url(http://127.0.0.1/a.css); .c{fill:#000}</style>"
        '<rect class="c" x="5" y="5" width="20" height="10" onclick="run()"/><image href="file:///etc/hostname"/>'
    )
    (stamp,) = parse_drawing(svg(body), "x.svg").images
    assert (stamp.width_mm, stamp.height_mm) == pytest.approx((20, 10), abs=0.1)


def test_a_doctype_alone_does_no_harm() -> None:
    head = '<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://127.0.0.1/svg11.dtd">'
    (die,) = parse_drawing(svg(f'<rect width="9" height="9" {CUT}/>', head=head), "x.svg").images
    assert die.width_mm == pytest.approx(9, abs=0.01)


def test_a_file_that_is_not_there_is_told(tmp_path: Path) -> None:
    with pytest.raises(DrawingError, match="is not there"):
        read_drawing(tmp_path / "none.svg")
