"""Pictures of patterned papers: in colour, of the size that the file says."""

from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from fair_thicket.ink.patterns import main_colour
from fair_thicket.intake.patterned import MOST_SIDE_PX, read_patterned
from fair_thicket.model.errors import PictureError


def test_a_picture_keeps_its_colours_and_its_size(tmp_path: Path) -> None:
    path = tmp_path / "moss.png"
    Image.new("RGB", (600, 300), (95, 125, 60)).save(path, dpi=(150, 150))
    found = read_patterned(path)
    assert found.width_mm == pytest.approx(600 / 150 * 25.4, rel=1e-3)
    assert (found.width_px, found.height_px) == (600, 300)
    assert main_colour(found.png) == "#5f7d3c"


def test_a_large_scan_is_kept_smaller_and_stays_as_wide(tmp_path: Path) -> None:
    path = tmp_path / "sheet.jpg"
    Image.new("RGB", (5100, 3300), (200, 180, 160)).save(path, dpi=(600, 600))
    found = read_patterned(path)
    assert found.width_px == MOST_SIDE_PX
    assert found.width_mm == pytest.approx(8.5 * 25.4, rel=1e-3)
    assert cv2.imdecode(np.frombuffer(found.png, np.uint8), cv2.IMREAD_COLOR).shape[1] == MOST_SIDE_PX


@pytest.mark.parametrize(("name", "data"), [("none.png", b""), ("words.png", b"hello"), ("tiny.png", None)])
def test_what_is_no_such_picture_is_told(tmp_path: Path, name: str, data: bytes | None) -> None:
    path = tmp_path / name
    if data is None:
        Image.new("RGB", (3, 3)).save(path)
    else:
        path.write_bytes(data)
    with pytest.raises(PictureError) as told:
        read_patterned(path)
    assert str(told.value).endswith(".")
    assert name in str(told.value)


def test_a_grey_picture_has_three_channels(tmp_path: Path) -> None:
    path = tmp_path / "grey.png"
    Image.new("L", (40, 40), 128).save(path)
    assert read_patterned(path).dpi is None
    assert main_colour(read_patterned(path).png) == "#808080"
