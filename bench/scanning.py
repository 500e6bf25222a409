"""A 600 dpi letter page of 25 images to stamps, against decoding its PNG: python -m bench.scanning."""

import subprocess
import sys
import tempfile
from pathlib import Path

from PIL import Image

from bench.timing import best_of, tell
from fair_thicket.demo import SHEET_MM, drawings
from fair_thicket.intake import read_picture, scan_file
from fair_thicket.intake.scanner import Glass, lay_out, scan_page


def make_page(path: Path) -> None:
    made = (drawings() * 2)[:25]
    pixels = scan_page(made, lay_out(made, SHEET_MM, gap_mm=11), SHEET_MM, Glass(dpi=600, skew_deg=1, lid=None))
    Image.fromarray(pixels).save(path, dpi=(600, 600))


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
        decode = best_of(5, lambda: read_picture(path))
        whole = best_of(5, lambda: scan_file(path))
        tell("600 dpi page to stamps, times its decoding", whole / decode, "x", 4)
        print(f"      decode {decode:.2f} s, whole {whole:.2f} s")
        imports = (
            "import sys; from pathlib import Path; from fair_thicket.intake import scan_file, read_picture; import cv2"
        )
        idle = peak_of(imports, path)
        peak = peak_of(imports + "; scan_file(Path(sys.argv[1]))", path)
        tell("peak memory, times the decoded page", (peak - idle) / pixels.nbytes, "x", 8)


if __name__ == "__main__":
    main()
