"""What the program makes, as fingerprints: figures, sentences, pictures and pages of known cards and of a scan.

    .venv/bin/python -m bench.outcomes --prepare FOLDER     the cards, a scanned page, jobs
    .venv/bin/python -m bench.outcomes --tell FOLDER        prints a fingerprint for each word said over each of them
    .venv/bin/python -m bench.outcomes --tell FOLDER --against TOLD.json    ends with 3 at the first that differs

Two trees that tell the same make the same of all of these. The cards are some of the eighteen compositions, cards
with washes, resists, an inside and pins, and the demo's, front and inside.
"""

import argparse
import contextlib
import hashlib
import io
import json
import shutil
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

HERE = Path(__file__).parents[1]
sys.path.insert(0, str(HERE / "tests"))
DIFFERS = 3


def prepare(folder: Path) -> None:
    """Write the cards, a scanned page of the demo's drawings, and jobs."""
    from PIL import Image

    from cases import CASES
    from cases_more import inside, night, pinned, resisted
    from fair_thicket.demo import CARD_FILES, SHEET_MM, drawings
    from fair_thicket.files.card_file import save_card
    from fair_thicket.simulators.scanner import Glass, lay_out, scan_page
    from making import drawn_for

    folder.mkdir(parents=True, exist_ok=True)
    for number, make in enumerate((*CASES[2::3], inside, night, resisted, pinned)):
        work = make()
        save_card(folder / f"{number:02d}-{make.__name__}.thicket", work, drawn_for(work))
    for file in CARD_FILES[:4]:
        shutil.copy(file, folder / f"demo-{file.name}")
    made = drawings()[:10]
    pixels = scan_page(made, lay_out(made, SHEET_MM, gap_mm=11), SHEET_MM, Glass(dpi=300, skew_deg=1.5))
    Image.fromarray(pixels).save(folder / "page.png", dpi=(300, 300))
    shutil.copy(HERE / "src/fair_thicket/demo/art/toad-postmaster.svg", folder / "toad.svg")
    shutil.copy(HERE / "src/fair_thicket/demo/supplies.csv", folder / "supplies.csv")
    markers = "name,code,colour\n" + "".join(
        f"m{n},{n},#{(n * 37) % 256:02x}{(n * 91) % 256:02x}{(n * 53) % 256:02x}\n" for n in range(1, 60)
    )
    (folder / "markers.csv").write_text(markers)


def words_for(folder: Path, out: Path) -> Iterator[list[str]]:
    """Yield what is said, quick things first."""
    cards = sorted(folder.glob("*.thicket"))
    yield ["scan", f"{folder}/page.png", "--json"]
    yield ["regions", f"{folder}/toad.svg", "--json"]
    yield ["runs", f"{folder}/markers.csv", "--colour", "#4f8a4a", "--json"]
    for card in cards:
        yield ["masks", str(card), "--json"]
        yield ["visible", str(card), "--json"]
        yield ["render", str(card), "-o", f"{out}/card.png", "--dpi", "110"]
    for card in cards:
        yield ["sheets", str(card), "-o", f"{out}/sheets", "--seconds", "0", "--json"]
        yield ["advice", str(card), "--json"]
        yield ["colour", str(card), "--markers", f"{folder}/markers.csv", "-o", f"{out}/coloured.thicket", "--json"]
    for card in cards:
        yield ["assemble", str(card), "--json"]
        yield ["rehearse", str(card), "-o", f"{out}/frames", "--json"]
        yield ["print", str(card), "-o", f"{out}/plan.pdf", "--svg", f"{out}/masks"]


def tell(folder: Path) -> Iterator[tuple[str, str]]:
    """Yield each thing that is said and the fingerprint of all that came of it."""
    from fair_thicket.cli import main as say

    with tempfile.TemporaryDirectory() as place:
        out = Path(place)
        for words in words_for(folder, out):
            told = io.StringIO()
            with contextlib.redirect_stdout(told), contextlib.redirect_stderr(told):
                done = say(words)
            mark = hashlib.sha256(f"{done} {told.getvalue()}".replace(place, "").encode())
            for file in sorted(out.rglob("*")):
                if file.is_file():
                    mark.update(file.name.encode() + _content(file))
            shutil.rmtree(out)
            out.mkdir()
            yield f"{words[0]} {Path(words[1]).name}", mark.hexdigest()[:16]


def _content(file: Path) -> bytes:
    """Return what a file holds; of a card what it says, for the archive bears the time."""
    if file.suffix == ".dxf":  # bears its time; the SVG beside it says the same
        return b""
    if file.suffix != ".thicket":
        return file.read_bytes()
    import zipfile

    with zipfile.ZipFile(file) as archive:
        return archive.read("card.json")


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("--prepare", type=Path)
    words.add_argument("--tell", type=Path)
    words.add_argument("--against", type=Path)
    options = words.parse_args()
    if options.prepare:
        prepare(options.prepare)
        return
    known = json.loads(options.against.read_text()) if options.against else None
    found = {}
    for what, mark in tell(options.tell):
        found[what] = mark
        if known is not None and known.get(what) not in (mark, None):
            print(what)
            sys.exit(DIFFERS)
    if known is None:
        print(json.dumps(found, indent=1))


if __name__ == "__main__":
    main()
