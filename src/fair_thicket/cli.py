"""The shell face: the same engines as the desk, in words for people or one JSON document.

Exit codes: 0 done, 1 cannot (one line on stderr), 2 wrong usage.
"""

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from fair_thicket import __version__
from fair_thicket.shell import words
from fair_thicket.shell.output import speak


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the shell face; returns the exit code."""
    given = list(sys.argv[1:] if arguments is None else arguments)

    def run() -> int:
        options = _parser().parse_args(given)
        return int(options.run(options))

    return speak(run)


def _parser() -> argparse.ArgumentParser:
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
    for word in words.WORDS:
        word.options(_command(commands, word.name, word.run, word.told))
    return parser


def _command(commands: Any, name: str, run: Any, words: str) -> argparse.ArgumentParser:
    parser: argparse.ArgumentParser = commands.add_parser(name, help=words, description=f"{words.capitalize()}.")
    parser.set_defaults(run=run)
    return parser


def _open_desk(options: argparse.Namespace) -> int:
    from fair_thicket.desk.frame.application import run

    return run(card=options.card, demo=options.demo)
