"""What a page may be, and how its size is known: the choices of the intake, and how what was read is told."""

from fair_thicket.intake import sorting as sort
from fair_thicket.intake.sorting import Sorting, Way
from fair_thicket.model.formats import SHEETS
from fair_thicket.model.plan import SheetImage

WAYS: tuple[tuple[str, Way], ...] = (
    ("a scan, size as the file says", Way()),
    ("a scan at 150 dpi", Way(dpi=150)),
    ("a scan at 300 dpi", Way(dpi=300)),
    ("a scan at 600 dpi", Way(dpi=600)),
    ("a scan of a letter sheet", Way(sheet_mm=SHEETS["letter"])),
    ("a scan of an A4 sheet", Way(sheet_mm=SHEETS["a4"])),
    ("a photo of a letter sheet", Way(kind="photo", sheet_mm=SHEETS["letter"])),
    ("a photo of an A4 sheet", Way(kind="photo", sheet_mm=SHEETS["a4"])),
    ("a photo with the reference card", Way(kind="card")),
    ("a photo, one length known", Way(kind="length")),
)


def scan_demo_sheet() -> Sorting:
    """Let the simulated scanner scan the demo sheet, laid a little askew."""
    from fair_thicket.demo import sheet as demo_sheet
    from fair_thicket.simulators.scanner import Glass

    pixels, _ = demo_sheet(Glass(skew_deg=1.5, seed=3))
    return sort.sort_pixels(pixels, Way(dpi=300.0), name="the demo sheet")


def key_of(image: SheetImage) -> object:
    """Tell an image from the others of its page, whatever is done to them."""
    return image.members or (round(image.cx, 2), round(image.cy, 2))


def tell_facts(sorting: Sorting, waiting: int) -> str:
    """Tell in one line how a page was read, and how many wait."""
    sheet = sorting.sheet
    facts = [f"{sheet.dpi:g} dpi"]
    if sheet.skew_from in {"edges", "lines"} and abs(sheet.skew_deg) >= 0.05:
        facts.append(f"lay {abs(sheet.skew_deg):.1f}° askew, straightened")
    elif sheet.skew_from in {"corners", "card", "length"}:
        facts = [f"photo made flat by the {'sheet' if sheet.skew_from == 'corners' else sheet.skew_from}"]
    if sorting.accuracy:
        facts.append(f"sizes true to about {sorting.accuracy:.0%}")
    if waiting:
        facts.append(f"{waiting} more waiting")
    return " · ".join(facts)
