"""A 600 dpi letter page of 25 images to stamps, against decoding its PNG: python -m bench.scanning."""

import subprocess
import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from bench.timing import best_of, tell
from fair_thicket.demo import SHEET_MM, drawings
from fair_thicket.intake import read_picture, scan_file
from fair_thicket.intake.sorting import Way, read_page
from fair_thicket.simulators.scanner import Glass, lay_out, scan_page


def make_page(path: Path, dpi: float = 600) -> None:
    made = (drawings() * 2)[:25]
    pixels = scan_page(made, lay_out(made, SHEET_MM, gap_mm=11), SHEET_MM, Glass(dpi=dpi, skew_deg=1, lid=None))
    Image.fromarray(pixels).save(path, dpi=(dpi, dpi))


def make_blotchy_page(path: Path, blotch_px: float, share: float) -> None:
    """Nine light grey drawings on an A4 page at 300 dpi, so faint that a share of each line has not printed."""
    chance = np.random.default_rng(3)
    page = np.full((3508, 2480), 250, np.uint8)
    noise = cv2.GaussianBlur(chance.random((877, 620)).astype(np.float32), (0, 0), blotch_px / 2)
    noise = cv2.resize(noise, (2480, 3508))
    printed = noise > np.quantile(noise, share)
    for number in range(9):
        drawn, middle = np.full_like(page, 255), (450 + number % 3 * 780, 600 + number // 3 * 1100)
        for ring in range(6):
            cv2.ellipse(drawn, middle, (280 - 30 * ring, 360 - 40 * ring), 10 * ring, 0, 360, 205, 6)
        page = np.where((drawn < 255) & printed, drawn, page)
    Image.fromarray(np.clip(page + chance.normal(0, 2, page.shape), 0, 255).astype(np.uint8)).save(path, dpi=(300, 300))


def tell_blotchy(folder: Path) -> None:
    """How long pages take whose ink has broken into hundreds of bits, against decoding them."""
    path = folder / "blotchy.png"
    for blotch_px, share in ((2.0, 0.3), (6.0, 0.5), (9.0, 0.45), (10.0, 0.4)):
        make_blotchy_page(path, blotch_px, share)
        decode, whole = best_of(3, lambda: read_picture(path)), best_of(2, lambda: scan_file(path))
        tell(f"blotches of {blotch_px:g} px over {share:.0%}, times its decoding", whole / decode, "x", 6)
        print(f"      decode {decode:.2f} s, whole {whole:.2f} s")


def peak_of(script: str, path: Path) -> int:
    """Peak resident memory of a child that runs a script on a path, bytes."""
    report = "print(open('/proc/self/status').read().split('VmHWM:')[1].split()[0])"
    done = subprocess.run(
        [sys.executable, "-c", f"{script}\n{report}", str(path)], check=True, capture_output=True, text=True
    )
    return int(done.stdout.split()[-1]) * 1024


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "page.png"
        make_page(path)
        images = len(scan_file(path).images)
        pixels = read_picture(path).pixels
        print(f"{pixels.shape[1]} x {pixels.shape[0]} pixels, {images} images found")
        # by turns, so that both meet the same moods of the machine
        turns = [(best_of(1, lambda: read_picture(path)), best_of(1, lambda: scan_file(path))) for _ in range(7)]
        decode, whole = (min(times) for times in zip(*turns, strict=True))
        tell("600 dpi page to stamps, times its decoding", whole / decode, "x", 3)
        print(f"      decode {decode:.2f} s, whole {whole:.2f} s")
        small = Path(folder) / "small.png"
        make_page(small, dpi=300)
        tell_blotchy(Path(folder))
        shown = best_of(5, lambda: read_page(small, Way()))
        tell("300 dpi page read and measured for the screen", shown, "s", 1.0)
        imports = (
            "import sys; from pathlib import Path; from fair_thicket.intake import scan_file, read_picture; import cv2"
        )
        idle = peak_of(imports, path)
        peak = peak_of(imports + "; scan_file(Path(sys.argv[1]))", path)
        tell("peak memory, times the decoded page", (peak - idle) / pixels.nbytes, "x", 8)


if __name__ == "__main__":
    main()
