"""What the maker of the Fernside post has marked on her images: faces, feet, gaze, and where others hold on."""

from collections.abc import Mapping
from types import MappingProxyType

import msgspec

from fair_thicket.model.basics import Ring
from fair_thicket.model.stash import Contact, Stamp, Zone


def _box(left: float, top: float, right: float, bottom: float) -> Ring:
    return ((left, top), (right, top), (right, bottom), (left, bottom))


FACES: Mapping[str, Ring] = MappingProxyType(
    {
        "toad-postmaster": _box(-10, -10, 10, 4.5),
        "courier-snail": _box(7, -4.5, 14.6, 2.7),
        "dusk-moth": _box(-2.2, -5, 2.2, -0.5),
        "spotted-beetle": _box(5.5, -3, 10.5, 3.5),
        "ink-newt": _box(9.5, -6, 20.5, 1.5),
    }
)
LOOKS = MappingProxyType({"courier-snail": 0.0, "spotted-beetle": 0.0, "ink-newt": 0.0})
FLIES = frozenset({"dusk-moth", "letter"})
IS_GROUND = frozenset({"moss-cushion"})
CONTACTS: Mapping[str, tuple[Contact, ...]] = MappingProxyType(
    {
        "toad-postmaster": (
            Contact("hand", (-7.6, 7.6)),
            Contact("hand", (8.0, 7.6)),
            Contact("seat", (0.0, -15.6)),
        ),
        "courier-snail": (Contact("seat", (-3.8, -9.4)),),
        "stump-letterbox": (Contact("seat", (0.0, -11.0)),),
        "toadstool": (Contact("seat", (0.0, -12.6)),),
    }
)


def marked(stamp: Stamp) -> Stamp:
    """Return a stamp its marks; the feet that were guessed are taken as they are."""
    marks = msgspec.structs.replace(
        stamp.marks,
        zones=(Zone("face", FACES[stamp.id]),) if stamp.id in FACES else (),
        looks_deg=LOOKS.get(stamp.id),
        contacts=CONTACTS.get(stamp.id, ()),
        flies=stamp.id in FLIES,
        feet=None if stamp.id in FLIES | IS_GROUND else stamp.marks.feet,
        is_guess=False,
    )
    return msgspec.structs.replace(stamp, marks=marks)
