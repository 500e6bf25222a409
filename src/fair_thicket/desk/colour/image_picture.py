"""An image of the card in its colours with its lines, for the map and the row of images."""

from PySide6.QtGui import QImage

from fair_thicket.desk.parts.coloured_stamp import picture_laid
from fair_thicket.edits.images import Image, paper_under
from fair_thicket.ink.drawn import drawn_of
from fair_thicket.ink.layings import Laying, lay_image
from fair_thicket.laid.stack import stack
from fair_thicket.model.card import WHITE, Work
from fair_thicket.model.pieces import INK, Cutout


def picture_of(work: Work, pictures: dict[str, bytes], image: Image) -> QImage:
    """Picture an image in its colours with its lines, at 300 dpi."""
    stamp = work.stash.find(image.stamp)
    laying = lay_image(work.card, work.stash, stack(work), image.key)
    if laying is None:
        laying = Laying(stamp, (), 0.0, work.card.shade_order)
    paper = paper_under(work.card, image) if isinstance(image.piece, Cutout) else WHITE
    return picture_laid(
        laying, pictures.get(stamp.picture, b""), drawn_of(work), paper=paper, ink=image.piece.ink or INK
    )
