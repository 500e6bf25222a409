"""Bad pictures: one sentence each, and nothing worse."""

import struct
import zlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from fair_thicket.intake import read_picture, scan_file
from fair_thicket.model.errors import PictureError


def page(mode: str = "L", size: tuple[int, int] = (600, 500)) -> Image.Image:
    """A white page with a black square of 100 px."""
    picture = Image.new("L", size, 255)
    picture.paste(0, (200, 200, 300, 300))
    return picture.convert(mode)


def png_claiming(width: int, height: int) -> bytes:
    """A PNG whose header claims a size that its few bytes do not hold."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


def half(data: bytes) -> bytes:
    return data[: len(data) // 2]


def saved(path: Path, picture: Image.Image, **how: object) -> bytes:
    picture.save(path, **how)
    return path.read_bytes()


BAD: dict[str, tuple[Callable[[Path], bytes], str]] = {
    "text.png": (lambda path: b"this is no picture", "is not a picture"),
    "empty.png": (lambda path: b"", "is not a picture"),
    "cut.png": (lambda path: half(saved(path, page(), dpi=(300, 300))), "damaged or cut short"),
    "cut.jpg": (lambda path: half(saved(path, page(), dpi=(300, 300))), "damaged or cut short"),
    "cut.tif": (lambda path: half(saved(path, page(), compression="tiff_lzw")), "(damaged or cut short|not a picture)"),
    "endless.png": (lambda path: png_claiming(60_000, 60_000), "claims"),
    "lying.png": (lambda path: png_claiming(3000, 3000), "damaged or cut short"),
    "empty-size.png": (lambda path: png_claiming(0, 10), "(empty|damaged|not a picture)"),
    "film.png": (
        lambda path: saved(path, page(), save_all=True, append_images=[page().rotate(9)], duration=100),
        "holds 2 pictures",
    ),
    "pages.tif": (lambda path: saved(path, page(), save_all=True, append_images=[page()]), "holds 2 pictures"),
    "white.png": (lambda path: saved(path, Image.new("L", (600, 600), 255), dpi=(300, 300)), "is blank"),
    "black.png": (lambda path: saved(path, Image.new("L", (600, 600), 4), dpi=(300, 300)), "nearly black"),
    "silent.png": (lambda path: saved(path, page()), "does not say its resolution"),
    "absurd.png": (lambda path: saved(path, page(), dpi=(1, 1)), "does not say its resolution"),
    "uneven.png": (lambda path: saved(path, page(), dpi=(300, 150)), "does not say its resolution"),
    "coarse.png": (lambda path: saved(path, page(size=(6000, 5000)), dpi=(72, 72)), "would make the page 2117 mm long"),
    "stamp.png": (lambda path: saved(path, Image.new("L", (30, 30), 255), dpi=(300, 300)), "only 30 × 30 pixels"),
}


@pytest.mark.parametrize("name", BAD)
def test_a_bad_scan_is_refused_in_one_sentence(name: str, tmp_path: Path) -> None:
    make, words = BAD[name]
    path = tmp_path / name
    path.write_bytes(make(path))
    with pytest.raises(PictureError, match=words) as caught:
        scan_file(path)
    message = str(caught.value)
    assert message.startswith(name)
    assert message.endswith((".", "?"))
    assert "\n" not in message


def test_what_is_not_there_or_a_folder_is_refused(tmp_path: Path) -> None:
    with pytest.raises(PictureError, match="is not there"):
        read_picture(tmp_path / "none.png")
    with pytest.raises(PictureError, match="not a picture"):
        read_picture(tmp_path)


@pytest.mark.parametrize("dpi", [0.0, -300.0, float("nan"), float("inf"), 1e6])
def test_an_absurd_resolution_is_refused(dpi: float, tmp_path: Path) -> None:
    saved(tmp_path / "page.png", page())
    with pytest.raises(PictureError, match="not a scanner's resolution"):
        scan_file(tmp_path / "page.png", dpi=dpi)


def test_a_sheet_of_another_shape_is_refused(tmp_path: Path) -> None:
    saved(tmp_path / "page.png", page())
    with pytest.raises(PictureError, match="not shaped like"):
        scan_file(tmp_path / "page.png", sheet_mm=(50, 200))
    with pytest.raises(PictureError, match="above nothing"):
        scan_file(tmp_path / "page.png", sheet_mm=(0, 200))


ODD: dict[str, tuple[str, dict[str, object]]] = {
    "grey.png": ("L", {"dpi": (300, 300)}),
    "colour.png": ("RGB", {"dpi": (300, 300)}),
    "clear.png": ("RGBA", {"dpi": (300, 300)}),
    "palette.png": ("P", {"dpi": (300, 300)}),
    "one-bit.png": ("1", {"dpi": (300, 300)}),
    "page.jpg": ("L", {"dpi": (300, 300), "quality": 90}),
    "cmyk.jpg": ("CMYK", {"dpi": (300, 300), "quality": 95}),
    "cmyk.tif": ("CMYK", {"dpi": (300, 300)}),
    "float.tif": ("F", {"dpi": (300, 300)}),
    "page.webp": ("RGB", {"lossless": True}),
}


@pytest.mark.parametrize("name", ODD)
def test_every_usual_kind_of_picture_gives_the_square_at_its_size(name: str, tmp_path: Path) -> None:
    mode, how = ODD[name]
    saved(tmp_path / name, page(mode), **how)
    (image,) = scan_file(tmp_path / name, dpi=300).images
    assert (image.width_mm, image.height_mm) == pytest.approx((100 / 300 * 25.4,) * 2, abs=0.12)


def test_sixteen_bit_greys_are_brought_down_by_their_full_range(tmp_path: Path) -> None:
    deep = np.where(np.asarray(page()) > 128, 61000, 3000).astype(np.uint16)
    Image.fromarray(deep).save(tmp_path / "deep.png")
    pixels = read_picture(tmp_path / "deep.png").pixels
    assert pixels.dtype == np.uint8
    assert (int(pixels.max()), int(pixels.min())) == (237, 11)


def test_a_page_turned_by_its_exif_entry_is_turned(tmp_path: Path) -> None:
    picture = page()
    exif = picture.getexif()
    exif[0x0112] = 6
    picture.save(tmp_path / "turned.jpg", exif=exif, dpi=(300, 300))
    assert read_picture(tmp_path / "turned.jpg").pixels.shape == (600, 500)


def test_resolution_is_read_as_stated(tmp_path: Path) -> None:
    saved(tmp_path / "page.png", page(), dpi=(600, 600))
    assert read_picture(tmp_path / "page.png").dpi == 600
