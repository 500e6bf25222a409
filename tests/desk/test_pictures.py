"""Pictures of stamps and dies in the library and the drawer."""

from PySide6.QtGui import QColor, QGuiApplication
from pytestqt.qtbot import QtBot

from fair_thicket.desk.parts.pictures import StampPictures, box_of
from fair_thicket.model.stash import Kind, Stamp
from fair_thicket.shape.die_picture import CUT_PAPER

SIDE = 10.0
SQUARE = ((-SIDE, -SIDE), (SIDE, -SIDE), (SIDE, SIDE), (-SIDE, SIDE))
WINDOW = tuple((x / 2, y / 2) for x, y in SQUARE)


def test_a_die_is_shown_as_the_paper_it_cuts_with_an_edge_as_heavy_as_a_stamped_line(qtbot: QtBot) -> None:
    assert isinstance(QGuiApplication.instance(), QGuiApplication)
    die = Stamp("frame", "frame", 2 * SIDE, 2 * SIDE, SQUARE, "none.png", (WINDOW,), kind=Kind.DIE)
    for px_per_mm in (1.5, 4.0, 12.0):
        picture = StampPictures({}).sample(die, px_per_mm).toImage()
        middle = picture.height() // 2
        row = [picture.pixelColor(x, middle) for x in range(picture.width())]
        paper = [colour for colour in row if colour == QColor(*CUT_PAPER)]
        assert len(paper) > 0.3 * SIDE * px_per_mm  # both bars of the frame
        assert row[len(row) // 2].alpha() == 0  # its opening is open
        dark = "".join("#" if one.alpha() > 90 and one.lightness() < 150 else " " for one in row).split()
        assert len(dark) == 4, "".join(dark)  # each edge that is crossed stands out
    assert box_of(die).width() == 2 * SIDE + 1


def test_what_is_stamped_is_shown_by_its_own_picture(qtbot: QtBot) -> None:
    stamp = Stamp("dot", "dot", 2 * SIDE, 2 * SIDE, SQUARE, "none.png")
    pictures = StampPictures({})
    assert pictures.sample(stamp, 4.0).toImage() == pictures.get(stamp, 4.0).toImage()
    assert pictures.get(stamp, 4.0, ground=QColor("white")).toImage() != pictures.get(stamp, 4.0).toImage()
