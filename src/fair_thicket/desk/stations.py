"""One station for each part of the work, in the order of the work; a new one is a record here."""

from typing import TYPE_CHECKING

from fair_thicket.desk.frame.station import Pane, Station

if TYPE_CHECKING:
    from fair_thicket.desk.parts.pictures import StampPictures
    from fair_thicket.desk.session.session import Session

STASH, SCENE, MASKS, COLOUR, SHEETS = "stash", "scene", "masks", "colour", "sheets"
ASSEMBLY, REHEARSAL, PAPER = "assembly", "rehearsal", "paper"


def _stash(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.stash.station import StashStation

    return StashStation(session, pictures)


def _scene(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.scene.station import SceneStation

    return SceneStation(session, pictures)


def _masks(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.masks.station import MasksStation

    return MasksStation(session, pictures)


def _colour(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.colour.station import ColourStation

    del pictures
    return ColourStation(session)


def _sheets(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.sheets.station import SheetsStation

    return SheetsStation(session, pictures)


def _assembly(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.assembly.station import AssemblyStation

    del pictures
    return AssemblyStation(session)


def _rehearsal(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.rehearsal.station import RehearsalStation

    del pictures
    return RehearsalStation(session)


def _paper(session: "Session", pictures: "StampPictures") -> Pane:
    from fair_thicket.desk.paper.station import PaperStation

    del pictures
    return PaperStation(session)


STATIONS = [
    Station(STASH, "Stash", _stash),
    Station(SCENE, "Scene", _scene),
    Station(MASKS, "Masks", _masks),
    Station(COLOUR, "Colour", _colour),
    Station(SHEETS, "Sheets", _sheets),
    Station(ASSEMBLY, "Assembly", _assembly),
    Station(REHEARSAL, "Rehearsal", _rehearsal),
    Station(PAPER, "Paper", _paper),
]
