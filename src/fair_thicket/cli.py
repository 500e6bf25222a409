"""The shell face: the same engines as the desk, in words for people or one JSON document.

Exit codes: 0 done, 1 cannot (one line on stderr), 2 wrong usage.
"""

import argparse
import math
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Any

from fair_thicket import __version__
from fair_thicket.shell import assemble, card, colour, scan, sheets
from fair_thicket.shell.output import speak


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the shell face; returns the exit code."""
    given = list(sys.argv[1:] if arguments is None else arguments)

    def run() -> int:
        options = _parser(with_engines=asks_engines(given)).parse_args(given)
        return int(options.run(options))

    return speak(run)


OWN_WORDS = frozenset(
    {
        "advice", "assemble", "colour", "masks", "nest", "open", "print", "regions", "rehearse", "render", "runs",
        "scan", "sheets", "span", "stock", "visible", "--demo", "--version",
    }
)  # fmt: skip
"""Words that are here without the engines' own being asked for: loading those takes half a second."""


def asks_engines(words: Sequence[str]) -> bool:
    """Whether words may be an engine's own, or ask for all there are."""
    return bool(words) and words[0] not in OWN_WORDS


def _parser(*, with_engines: bool) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="fair-thicket",
        description="Rehearse a stamped scene card before the first impression.",
        epilog="Without a subcommand the desk opens, with CARD when one is named first: fair-thicket open CARD.thicket",
    )
    parser.add_argument("--version", action="version", version=f"Fair Thicket {__version__}")
    parser.add_argument("--demo", action="store_true", help="open the demo card")
    parser.set_defaults(run=_open_desk, card=None)
    commands = parser.add_subparsers(title="subcommands", metavar="")

    opened = _command(commands, "open", _open_desk, "open a card on the desk")
    opened.add_argument("card", type=Path)
    opened.set_defaults(demo=False)

    scanned = _command(commands, "scan", scan.scan, "find the stamped images on a scanned sheet")
    scanned.add_argument("sheet", type=Path, metavar="SHEET")
    scale = scanned.add_mutually_exclusive_group()
    scale.add_argument("--dpi", type=_number, help="resolution of the scan, when the file does not say it")
    scale.add_argument(
        "--sheet",
        dest="size",
        metavar="letter|a4|WxH",
        help="size of the sheet, to work the resolution out from; WxH in mm, or with a unit: 8.5inx11in",
    )
    scanned.add_argument("--photo", action="store_true", help="it is a photo; say --sheet, --card or --length with it")
    scanned.add_argument("--card", action="store_true", help="the printed reference card lies beside the images")
    scanned.add_argument("--length", metavar="MM", help="a length that is known: what the photo shows across")
    scanned.add_argument(
        "--between", type=scan.ends_of, metavar="X,Y,X,Y", help="between which places, as shares of the photo"
    )
    scanned.add_argument("--gap", type=_number, metavar="MM", help="parts nearer than this are one image")
    _json_flag(scanned)

    of_scenes = (("masks", card.masks, "plan presses and masks"), ("visible", card.visible, "what is seen of all"))
    for name, run, words in of_scenes:
        command = _command(commands, name, run, words)
        command.add_argument(
            "scene", type=Path, metavar="SCENE", help="a card's card.json, a .thicket file or bare JSON"
        )
        _json_flag(command)

    spanned = _command(commands, "span", scan.span, "span a length with cuts of a border die")
    spanned.add_argument("border", type=Path, metavar="BORDER.svg", help="the die's outline, life size")
    spanned.add_argument("--to", required=True, metavar="LENGTH", help="such as 8.5in or 216mm; a bare number is mm")
    spanned.add_argument("--flip", action="store_true", help="cuts may be turned over")
    spanned.add_argument(
        "--frame", action="store_true", help="both ends stay as they are, as a window frame's bars must"
    )
    spanned.add_argument("--overlap", metavar="LENGTH", help="for the glue; 6 mm unless said otherwise")
    _json_flag(spanned)

    _add_colour_words(commands)
    _add_sheet_words(commands)
    advice = _command(commands, "advice", card.advice, "judge a card")
    rehearse = _command(commands, "rehearse", card.rehearse, "perform the plan on simulated paper")
    printed = _command(commands, "print", card.print_plan, "print the plan as PDF, life size")
    render = _command(commands, "render", card.render, "picture the composed scene")
    for command in (advice, rehearse, printed, render):
        command.add_argument("card", type=Path, metavar="CARD.thicket")
    _json_flag(advice)
    _json_flag(rehearse)
    rehearse.add_argument("-o", dest="out", type=Path, required=True, metavar="DIR", help="folder for the pictures")
    rehearse.add_argument("--plan", type=Path, metavar="PLAN.json", help="a plan as “masks --json” prints it")
    printed.add_argument("-o", dest="out", type=Path, required=True, metavar="FILE.pdf")
    printed.add_argument("--svg", type=Path, metavar="DIR", help="also write the sheets of masks as SVG to cut")
    printed.add_argument("--paper", choices=["letter", "a4"], help="default: by the card's unit")
    render.add_argument("-o", dest="out", type=Path, required=True, metavar="FILE.png")
    render.add_argument("--dpi", type=_number, default=300.0)
    render.add_argument("--side", choices=["front", "inside"], default="front")
    if with_engines:
        _add_engine_words(commands)
    return parser


def _add_colour_words(commands: Any) -> None:
    found = _command(commands, "regions", colour.regions, "find the regions of an image that its lines close")
    found.add_argument("image", type=Path, metavar="IMAGE")
    found.add_argument("--dpi", type=_number, help="resolution of the picture, when the file does not say it")
    _json_flag(found)

    shades = _command(commands, "runs", colour.runs, "find the best run of shades out of a list of markers")
    shades.add_argument("markers", type=Path, metavar="MARKERS.csv")
    shades.add_argument("--colour", type=colour.colour_of, required=True, metavar="#RRGGBB", help="the colour wanted")
    shades.add_argument("--shades", type=int, default=3, metavar="N", help="1 to 6; 3 unless said otherwise")
    shades.add_argument("--paper", type=colour.colour_of, default="#ffffff", metavar="#RRGGBB", help="white, usually")
    _json_flag(shades)

    made = _command(commands, "colour", colour.colour, "colour a card by the first suggestion")
    made.add_argument("card", type=Path, metavar="CARD.thicket")
    made.add_argument("-o", dest="out", type=Path, required=True, metavar="OUT.thicket")
    made.add_argument("--markers", type=Path, metavar="MARKERS.csv", help="default: those that the card knows")
    made.add_argument("--seed", type=int, default=0, help="another number proposes others")
    _json_flag(made)


def _add_sheet_words(commands: Any) -> None:
    for name, run, words in (
        ("nest", sheets.nest, "nest outlines on as few sheets as may be"),
        ("stock", sheets.stock, "plan how rectangles are cut from card stock"),
    ):
        command = _command(commands, name, run, words)
        command.add_argument("job", type=Path, metavar="JOB.json")
        command.add_argument("--seconds", type=_seconds, default=2.0, help="how long it may think; 2 unless said")
        _json_flag(command)
    made = _command(commands, "sheets", sheets.sheets, "write the cut list and the cut files of a card")
    made.add_argument("card", type=Path, metavar="CARD.thicket")
    made.add_argument("-o", dest="out", type=Path, required=True, metavar="DIR", help="folder for lists and cut files")
    made.add_argument("--seconds", type=_seconds, default=2.0, help="for each kind of sheet; 2 unless said")
    made.add_argument("--supplies", type=Path, metavar="SUPPLIES.csv", help="your papers, as the Stash writes them")
    _json_flag(made)
    put = _command(commands, "assemble", assemble.assemble, "plan heights, foam, glue, the order of the work and post")
    put.add_argument("card", type=Path, metavar="CARD.thicket")
    put.add_argument("-o", dest="out", type=Path, metavar="FILE.pdf", help="print the order and the backs of pieces")
    put.add_argument("--paper", choices=["letter", "a4"], help="default: by the card's unit")
    _json_flag(put)


def _add_engine_words(commands: Any) -> None:
    """Add the words of the engines' own; the desk starts without them."""
    from fair_thicket.engines import ENGINES

    for word in (word for engine in ENGINES for word in engine.words):
        command = _command(commands, word.name, partial(card.ask_engine, word), word.told)
        command.add_argument("card", type=Path, metavar="CARD.thicket")
        _json_flag(command)


def _command(commands: Any, name: str, run: Any, words: str) -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = commands.add_parser(name, help=words, description=f"{words.capitalize()}.")
    parser.set_defaults(run=run)
    return parser


def _json_flag(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true", help="print one JSON document, lengths in mm")


def _number(words: str) -> float:
    """Read a number above 0; argparse tells what is wrong with any other."""
    value = float(words)
    if not math.isfinite(value) or value <= 0:
        raise argparse.ArgumentTypeError(f"“{words[:20]}” is no number above 0")
    return value


def _seconds(words: str) -> float:
    """Read a number from 0 on."""
    return 0.0 if words.strip() in {"0", "0.0"} else _number(words)


def _open_desk(options: argparse.Namespace) -> int:
    from fair_thicket.desk.frame.application import run

    return run(card=options.card, demo=options.demo)
