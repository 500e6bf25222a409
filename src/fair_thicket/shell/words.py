"""The words of the shell: one row each, with what may be said with it."""

import argparse
import math
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import NamedTuple

from fair_thicket.model.card import Work
from fair_thicket.shell import assemble, card, colour, scan, sheets

Run = Callable[[argparse.Namespace], int]
Options = Callable[[argparse.ArgumentParser], object]


class Word(NamedTuple):
    """A word of the shell.

    Attributes
    ----------
    name, told : str
    run : callable of options
        Gives the exit code.
    options : callable of a parser
        Adds what may be said with it.
    """

    name: str
    told: str
    run: Run
    options: Options


def of_cards(
    name: str,
    told: str,
    ask: Callable[[Work, Mapping[str, bytes]], Mapping[str, object]],
    say: Callable[[Mapping[str, object]], Sequence[str]],
) -> Word:
    """Return a word that asks about each side of a card that bears anything.

    Parameters
    ----------
    ask : callable of (work, pictures)
        One JSON document, lengths in mm.
    say : callable of that document
        Lines for people.
    """
    return Word(name, told, partial(card.ask_of_sides, ask, say), _card_and_json)


def number(words: str) -> float:
    """Read a number above 0; argparse tells what is wrong with any other."""
    value = float(words)
    if not math.isfinite(value) or value <= 0:
        raise argparse.ArgumentTypeError(f"“{words[:20]}” is no number above 0")
    return value


def seconds(words: str) -> float:
    """Read a number from 0 on."""
    return 0.0 if words.strip() in {"0", "0.0"} else number(words)


def _json(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true", help="print one JSON document, lengths in mm")


def _card(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("card", type=Path, metavar="CARD.thicket")


def _card_and_json(parser: argparse.ArgumentParser) -> None:
    _card(parser)
    _json(parser)


def _scan(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("sheet", type=Path, metavar="SHEET")
    scale = parser.add_mutually_exclusive_group()
    scale.add_argument("--dpi", type=number, help="resolution of the scan, when the file does not say it")
    scale.add_argument(
        "--sheet",
        dest="size",
        metavar="letter|a4|WxH",
        help="size of the sheet, to work the resolution out from; WxH in mm, or with a unit: 8.5inx11in",
    )
    parser.add_argument("--photo", action="store_true", help="it is a photo; say --sheet, --card or --length with it")
    parser.add_argument("--card", action="store_true", help="the printed reference card lies beside the images")
    parser.add_argument("--length", metavar="MM", help="a length that is known: what the photo shows across")
    parser.add_argument(
        "--between", type=scan.ends_of, metavar="X,Y,X,Y", help="between which places, as shares of the photo"
    )
    parser.add_argument("--gap", type=number, metavar="MM", help="parts nearer than this are one image")
    _json(parser)


def _scene(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("scene", type=Path, metavar="SCENE", help="a card's card.json, a .thicket file or bare JSON")
    _json(parser)


def _span(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("border", type=Path, metavar="BORDER.svg", help="the die's outline, life size")
    parser.add_argument("--to", required=True, metavar="LENGTH", help="such as 8.5in or 216mm; a bare number is mm")
    parser.add_argument("--flip", action="store_true", help="cuts may be turned over")
    parser.add_argument(
        "--frame", action="store_true", help="both ends stay as they are, as a window frame's bars must"
    )
    parser.add_argument("--overlap", metavar="LENGTH", help="for the glue; 6 mm unless said otherwise")
    _json(parser)


def _regions(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("image", type=Path, metavar="IMAGE")
    parser.add_argument("--dpi", type=number, help="resolution of the picture, when the file does not say it")
    _json(parser)


def _runs(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("markers", type=Path, metavar="MARKERS.csv")
    parser.add_argument("--colour", type=colour.colour_of, required=True, metavar="#RRGGBB", help="the colour wanted")
    parser.add_argument("--shades", type=int, default=3, metavar="N", help="1 to 6; 3 unless said otherwise")
    parser.add_argument("--paper", type=colour.colour_of, default="#ffffff", metavar="#RRGGBB", help="white, usually")
    _json(parser)


def _colour(parser: argparse.ArgumentParser) -> None:
    _card(parser)
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="OUT.thicket")
    parser.add_argument("--markers", type=Path, metavar="MARKERS.csv", help="default: those that the card knows")
    parser.add_argument("--seed", type=int, default=0, help="another number proposes others")
    _json(parser)


def _job(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("job", type=Path, metavar="JOB.json")
    parser.add_argument("--seconds", type=seconds, default=2.0, help="how long it may think; 2 unless said")
    _json(parser)


def _sheets(parser: argparse.ArgumentParser) -> None:
    _card(parser)
    parser.add_argument(
        "-o", dest="out", type=Path, required=True, metavar="DIR", help="folder for lists and cut files"
    )
    parser.add_argument("--seconds", type=seconds, default=2.0, help="for each kind of sheet; 2 unless said")
    parser.add_argument("--supplies", type=Path, metavar="SUPPLIES.csv", help="your papers, as the Stash writes them")
    _json(parser)


def _assemble(parser: argparse.ArgumentParser) -> None:
    _card(parser)
    parser.add_argument("-o", dest="out", type=Path, metavar="FILE.pdf", help="print the order and the backs of pieces")
    parser.add_argument("--paper", choices=["letter", "a4"], help="default: by the card's unit")
    _json(parser)


def _rehearse(parser: argparse.ArgumentParser) -> None:
    _card_and_json(parser)
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="DIR", help="folder for the pictures")
    parser.add_argument("--plan", type=Path, metavar="PLAN.json", help="a plan as “masks --json” prints it")


def _print(parser: argparse.ArgumentParser) -> None:
    _card(parser)
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="FILE.pdf")
    parser.add_argument("--svg", type=Path, metavar="DIR", help="also write the sheets of masks as SVG to cut")
    parser.add_argument("--paper", choices=["letter", "a4"], help="default: by the card's unit")


def _render(parser: argparse.ArgumentParser) -> None:
    _card(parser)
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="FILE.png")
    parser.add_argument("--dpi", type=number, default=300.0)
    parser.add_argument("--side", choices=["front", "inside"], default="front")


WORDS: tuple[Word, ...] = (
    Word("scan", "find the stamped images on a scanned sheet", scan.scan, _scan),
    Word("masks", "plan presses and masks", card.masks, _scene),
    Word("visible", "what is seen of all", card.visible, _scene),
    Word("span", "span a length with cuts of a border die", scan.span, _span),
    Word("regions", "find the regions of an image that its lines close", colour.regions, _regions),
    Word("runs", "find the best run of shades out of a list of markers", colour.runs, _runs),
    Word("colour", "colour a card by the first suggestion", colour.colour, _colour),
    Word("nest", "nest outlines on as few sheets as may be", sheets.nest, _job),
    Word("stock", "plan how rectangles are cut from card stock", sheets.stock, _job),
    Word("sheets", "write the cut list and the cut files of a card", sheets.sheets, _sheets),
    Word("assemble", "plan heights, foam, glue, the order of the work and post", assemble.assemble, _assemble),
    Word("advice", "judge a card", card.advice, _card_and_json),
    Word("rehearse", "perform the plan on simulated paper", card.rehearse, _rehearse),
    Word("print", "print the plan as PDF, life size", card.print_plan, _print),
    Word("render", "picture the composed scene", card.render, _render),
)
"""In the order in which help tells them."""
