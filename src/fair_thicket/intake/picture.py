"""Picture files read with care: what they claim is checked before their pixels are unpacked."""

import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from fair_thicket.model.errors import PictureError

MOST_PIXELS = 150_000_000
"""A letter page at 1200 dpi is 135 megapixels; more is no scan of a sheet."""
MOST_BYTES = 600_000_000
LEAST_DPI, MOST_DPI = 50.0, 2400.0
EXIF_IFD = 0x8769
CAMERA_TAGS = (0x829A, 0x829D, 0x920A)
KNOWN_FORMATS = ("PNG", "JPEG", "TIFF", "WEBP")


@dataclass(frozen=True)
class Picture:
    """A decoded page.

    Attributes
    ----------
    pixels : (rows, columns) or (rows, columns, 3) uint8
        Grey, or red green blue (sRGB 0..255).
    dpi : float or None
        What the file says; None when it says nothing usable.
    is_photo : bool
        Whether a camera took it: the file tells of an exposure, which no scanner does.
    """

    pixels: NDArray[np.uint8]
    dpi: float | None
    is_photo: bool = False


def read_picture(path: Path) -> Picture:
    """Read a scan.

    Parameters
    ----------
    path : Path
        PNG, JPEG, TIFF or WebP; grey, colour, 16 bit or CMYK. Turned as its EXIF entry says; transparent parts become
        white paper; of several pages or frames only a single one is accepted.

    Raises
    ------
    PictureError
        One sentence: not there, not a picture, truncated, too large, empty, animated.
    """
    name = path.name
    try:
        if not path.is_file() and path.exists() and not path.is_dir():
            raise PictureError(f"{name} is no file; choose the file of a scan.")
        if path.stat().st_size > MOST_BYTES:
            raise PictureError(f"{name} is larger than 600 MB; scan the sheet again at 300 or 600 dpi.")
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # Pillow warns of odd metadata and of size; the size is checked below
            with Image.open(path, formats=KNOWN_FORMATS) as image:
                return _decode(image, name)
    except PictureError:
        raise
    except FileNotFoundError:
        raise PictureError(f"{name} is not there; choose the file of a scan.") from None
    except (UnidentifiedImageError, IsADirectoryError):
        raise PictureError(f"{name} is not a picture; a scan is a PNG, JPEG, TIFF or WebP file.") from None
    except Image.DecompressionBombError:
        raise PictureError(_too_large(name)) from None
    except PermissionError:
        raise PictureError(f"{name} may not be read; allow it, or copy the scan elsewhere.") from None
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError, OverflowError, KeyError, TypeError) as problem:
        # Pillow's decoders raise any of these on broken files
        raise PictureError(f"{name} is damaged or cut short ({_first_words(problem)}); scan the sheet again.") from None


def _decode(image: Image.Image, name: str) -> Picture:
    width, height = image.size
    if width < 1 or height < 1:
        raise PictureError(f"{name} is empty (no pixels); scan the sheet again.")
    if width * height > MOST_PIXELS:
        raise PictureError(_too_large(name, width, height))
    frames = getattr(image, "n_frames", 1)
    if frames != 1:
        raise PictureError(f"{name} holds {frames} pictures; save the one page as a file of its own.")
    dpi = _read_dpi(image)
    turned = ImageOps.exif_transpose(image) if image.getexif().get(0x0112, 1) != 1 else image
    return Picture(_to_pixels(turned), dpi, _is_photo(image))


def _is_photo(image: Image.Image) -> bool:
    """Whether the file's own notes (EXIF 2.32, exposure time, aperture, focal length) say that a camera took it."""
    try:
        taken = image.getexif().get_ifd(EXIF_IFD)
    except Exception:  # Pillow raises anything on damaged notes; the pixels may be whole all the same
        return False
    return any(tag in taken for tag in CAMERA_TAGS)


def _to_pixels(image: Image.Image) -> NDArray[np.uint8]:
    if image.mode in {"1", "L"}:
        return np.asarray(image.convert("L"))
    if image.mode.startswith(("I", "F")):
        return _from_deep(image)
    if "A" in image.getbands() or "transparency" in image.info:
        rgba = image.convert("RGBA")
        paper = Image.new("RGBA", rgba.size, (255, 255, 255, 255))
        return np.asarray(Image.alpha_composite(paper, rgba).convert("RGB"))
    return np.asarray(image.convert("RGB"))


def _from_deep(image: Image.Image) -> NDArray[np.uint8]:
    """Bring 16-bit, 32-bit and float greys down to 8 bit, by the range that the values use."""
    values = np.nan_to_num(np.asarray(image, dtype=np.float32), nan=0.0, posinf=0.0, neginf=0.0)
    top = float(values.max(initial=0.0))
    scale = 1.0 if top <= 1.0 else next(full for full in (255.0, 65535.0, 4294967295.0, top) if top <= full)
    return np.asarray(np.clip(values / scale * 255, 0, 255), dtype=np.uint8)


def _read_dpi(image: Image.Image) -> float | None:
    """Resolution that the file states; None for none, for nonsense, and for two that differ."""
    stated: Any = image.info.get("dpi")
    try:
        across, down = (float(value) for value in stated)
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    if not (LEAST_DPI <= across <= MOST_DPI) or abs(across - down) > 0.02 * across:
        return None
    return round(across, 1) if abs(across - round(across)) < 0.05 else across


def _too_large(name: str, width: int = 0, height: int = 0) -> str:
    claimed = f"claims {width} × {height} pixels" if width else "claims far too many pixels"
    return f"{name} {claimed}; a sheet at 600 dpi has about 5100 × 6600: scan it at 300 or 600 dpi."


def _first_words(problem: BaseException) -> str:
    text = str(problem).splitlines()[0] if str(problem) else type(problem).__name__
    return text[:60]
