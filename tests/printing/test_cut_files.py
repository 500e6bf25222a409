"""Cut files: what the simulated cutter cuts is what was asked; SVG and DXF say the same to other readers."""

import io
import random
import xml.etree.ElementTree as ET

import msgspec
import numpy as np
import pytest
import shapely
from PySide6.QtCore import QByteArray
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

from fair_thicket.demo import CARD_FILES
from fair_thicket.files.card_file import open_card
from fair_thicket.model.card import Card
from fair_thicket.model.errors import InputError
from fair_thicket.model.pieces import Form, Panel
from fair_thicket.model.supplies import Paper
from fair_thicket.packing.raster_nest import Spot
from fair_thicket.printing.cut_file import CutFile, cut_file, laid, to_dxf, to_svg
from fair_thicket.printing.sheet_files import cut_files_of, left_out_of
from fair_thicket.shape.outline import only_areas
from fair_thicket.sheets import plan_sheets
from fair_thicket.simulators.cutter import run_cutter
from making import work_of

RING = shapely.Polygon([(20, 20), (80, 20), (80, 70), (20, 70)], [[(30, 30), (60, 30), (60, 60), (30, 60)]])
DISC = shapely.Point(120, 60).buffer(18)


def made(*areas: shapely.Polygon, corners: bool = False) -> CutFile:
    return cut_file("sheet", (200.0, 120.0), [only_areas(area) for area in areas], with_corners=corners)


def test_the_cutter_cuts_what_was_asked_openings_first() -> None:
    cutting = run_cutter(to_svg(made(RING, DISC, corners=True)))
    assert cutting.size_mm == pytest.approx((200.0, 120.0), abs=0.01)
    assert cutting.faults == []
    assert len(cutting.pieces) == 3  # the ring, what fell out of it, and the disc
    ring = next(piece for piece in cutting.pieces if piece.interiors)
    assert ring.hausdorff_distance(RING) < 0.1
    assert cutting.cut_mm == pytest.approx(RING.length + DISC.length, rel=1e-3)
    assert [path.layer for path in cutting.paths].count("draw") == 3
    assert cutting.minutes > cutting.cut_mm / 30 / 60


@pytest.mark.parametrize("number", [1, 2, 4])
def test_every_cut_file_of_the_demo_is_cut_within_a_tenth_of_a_millimetre(number: int) -> None:
    work, _ = open_card(CARD_FILES[number])
    plan = plan_sheets(work, seconds=0.0)
    files = cut_files_of(plan)
    assert files
    for file in files:
        cutting = run_cutter(to_svg(file))
        assert [words for words in cutting.faults if "narrower" not in words] == []
        assert file.size_mm[0] >= file.size_mm[1] or file.name.startswith("images"), "its sheet lies on the mat"
        rings = [shapely.Polygon(ring) for ring in file.cut]
        asked = shapely.union_all([shapely.Polygon(ring.exterior) for ring in rings])
        cut = shapely.union_all([shapely.Polygon(piece.exterior) for piece in cutting.pieces])
        assert shapely.hausdorff_distance(asked, cut) < 0.1
        picture = cutting.picture(4.0)
        assert picture.sum() / 16 == pytest.approx(cut.area, rel=0.01, abs=2.0)


def test_images_on_a_stamping_sheet_are_cut_where_they_lie() -> None:
    work, _ = open_card(CARD_FILES[1])
    plan = plan_sheets(work, seconds=0.0)
    (one,) = plan.stamping
    file = next(file for file in cut_files_of(plan) if file.name.startswith("images"))
    wanted = [laid(plan.find(spot.id).area, spot) for spot in one.nesting.sheets[0].spots]
    cut = [shapely.Polygon(ring) for ring in file.cut]
    for area in wanted:
        outline = shapely.Polygon(max(shapely.get_parts(area), key=lambda part: part.area).exterior)
        assert min(outline.hausdorff_distance(ring) for ring in cut) < 0.1
    assert file.draw  # registration corners: it was stamped before


def test_papers_of_one_name_have_files_of_their_own_and_what_is_too_large_is_told() -> None:
    pieces = tuple(
        Panel(key, Form("ellipse", width, width), 60, 50, colour=colour)
        for key, width, colour in (("moon", 40.0, "#5f8fa3"), ("sun", 30.0, "#4b8050"), ("disc", 95.0, "#6b4f3a"))
    )
    work = msgspec.structs.replace(work_of(), card=Card(pieces=pieces))
    papers = [
        Paper("pad", "#5f8fa3", sheets_left=5),
        Paper("Pad", "#4b8050", sheets_left=5),
        Paper("small pad", "#6b4f3a", width_mm=100.0, height_mm=100.0, sheets_left=9),
    ]
    plan = plan_sheets(work, papers, seconds=0.0)
    names = [file.name for file in cut_files_of(plan)]
    assert {"shapes-pad-1", "shapes-pad-paper-2-1"} <= set(names)
    assert len(names) == len(set(names))
    (told,) = left_out_of(plan)
    assert "small pad" in told


def test_lines_that_two_things_share_are_cut_once_and_faults_are_told() -> None:
    square = shapely.box(10, 10, 40, 40)
    assert len(made(square, square).cut) == 1
    wrong = CutFile(
        "wrong",
        (100.0, 100.0),
        (
            tuple(shapely.box(10, 10, 60, 60).exterior.coords)[:-1],
            tuple(shapely.box(20, 20, 30, 30).exterior.coords)[:-1],
            tuple(shapely.box(80, 10, 81, 60).exterior.coords)[:-1],
            tuple(shapely.box(80, 10, 81, 60).exterior.coords)[:-1],
        ),
    )
    told = " ".join(run_cutter(to_svg(wrong)).faults)
    for words in ("1 openings are cut after", "2 pieces or openings are narrower", "1 lines are cut twice"):
        assert words in told
    still = to_svg(made(square)).replace(b" Z", b"")
    assert "stay open" in run_cutter(still).faults[0]


@pytest.mark.parametrize(
    "data", [b"", b"hello", b"<svg", b"<?xml version='1.0'?><!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>"]
)
def test_what_is_no_cut_file_is_told(data: bytes) -> None:
    with pytest.raises(InputError, match="cannot be read as SVG"):
        run_cutter(data)


def test_another_reader_draws_the_svg_alike() -> None:
    """Read back by QtSvg: its picture of the filled paths against ours."""
    data = to_svg(made(RING, DISC)).replace(b'fill="none"', b'fill="#000000" fill-rule="evenodd"')
    renderer = QSvgRenderer(QByteArray(data))
    image = QImage(800, 480, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFFFF)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    dark = np.array([[image.pixelColor(x, y).red() < 128 for x in range(0, 800, 4)] for y in range(0, 480, 4)])
    # paths of their own: the opening is filled as well
    whole = shapely.union_all([shapely.Polygon(RING.exterior), DISC])
    assert dark.sum() == pytest.approx(whole.area, rel=0.02)
    assert ET.fromstring(data).attrib["width"] == "200.0000mm"  # noqa: S314 - our own bytes


def pairs_of(data: bytes) -> list[tuple[int, str]]:
    lines = data.decode("utf-8").splitlines()
    return [(int(code), value.strip()) for code, value in zip(lines[::2], lines[1::2], strict=False)]


def test_the_dxf_says_the_same_to_whoever_reads_its_group_codes() -> None:
    """Read by hand, group code by group code (DXF reference: 8 layer, 10 and 20 vertices, 70 closed)."""
    file = made(RING, DISC, corners=True)
    lines: list[dict[str, object]] = []
    for code, value in pairs_of(to_dxf(file)):
        if code == 0:
            lines.append({"kind": value, "x": [], "y": [], "layer": "", "closed": 0})
        elif code == 8:
            lines[-1]["layer"] = value
        elif code == 70 and lines[-1]["kind"] == "LWPOLYLINE":
            lines[-1]["closed"] = int(value) & 1
        elif code in (10, 20) and lines[-1]["kind"] == "LWPOLYLINE":
            lines[-1]["x" if code == 10 else "y"].append(float(value))  # type: ignore[attr-defined]
    found = [one for one in lines if one["kind"] == "LWPOLYLINE"]
    cut = [one for one in found if one["layer"] == "cut"]
    assert len(cut) == 3
    assert all(one["closed"] for one in cut)
    assert len([one for one in found if one["layer"] == "draw"]) == 3
    areas = sorted(shapely.Polygon([(x, 120 - y) for x, y in zip(one["x"], one["y"], strict=True)]).area for one in cut)  # type: ignore[call-overload]
    asked = sorted([shapely.Polygon(RING.exterior).area, 900.0, DISC.area])
    assert areas == pytest.approx(asked, rel=1e-6)


def test_a_spot_turns_openings_along() -> None:
    dice = random.Random(3)
    for _ in range(20):
        spot = Spot("ring", dice.uniform(-50, 50), dice.uniform(-50, 50), dice.uniform(0, 360))
        moved = laid(only_areas(RING), spot)
        assert moved.area == pytest.approx(RING.area)
        assert len(moved.interiors) == 1
    assert io.BytesIO(to_dxf(made(RING))).read(4).strip() == b"0"
