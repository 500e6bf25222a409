"""Random edits of every kind over any card, sensible and wild: what hands, mistakes and accidents would ask for."""

import random
from collections.abc import Callable

import msgspec

from fair_thicket import edits
from fair_thicket.backdrop.frames import grow_piece, is_frame
from fair_thicket.backdrop.hills import draw_hill
from fair_thicket.backdrop.joining import Joining
from fair_thicket.backdrop.joints import move_joint
from fair_thicket.backdrop.reaching import reach_across, slide_border
from fair_thicket.backdrop.rows import make_rows, step_borders
from fair_thicket.backdrop.spanning import span_area
from fair_thicket.backdrop.stencils import step_stencil
from fair_thicket.backdrop.texture import lay_texture
from fair_thicket.edits import (
    adding,
    arranging,
    cutouts,
    extending,
    flaps,
    ink_edits,
    openings,
    rings,
    tries,
    word_forms,
)
from fair_thicket.edits.refit import refit
from fair_thicket.edits.trimming import trim_base
from fair_thicket.model.card import Work
from fair_thicket.model.errors import ThicketError
from fair_thicket.model.finishes import FINISHES
from fair_thicket.model.formats import Fold
from fair_thicket.model.limits import Limits
from fair_thicket.model.masking import MaskWay, Pin
from fair_thicket.model.pieces import (
    Blend,
    Border,
    Cover,
    Cutout,
    Form,
    Impression,
    PaperPiece,
    Paste,
    Piece,
    Splatter,
    Stencilled,
    Strip,
    Texture,
    Through,
    Wash,
    Water,
    Window,
    as_kind,
)
from fair_thicket.model.sides import turn_over
from fair_thicket.model.stash import Kind
from fair_thicket.shape.outline import to_area
from wild_colours import colour_wildly

Edit = Callable[[Work, random.Random], Work]
COLOURS = ("#c04040", "#4060c0", "#40a060", "#202020", "#ffffff", None)


def wild_edit(work: Work, dice: random.Random) -> Work:
    """Make one random edit; the work itself where the edit finds nothing to do or is refused.

    Whatever is no refusal in one sentence goes on to the caller: it is a bug.
    """
    try:
        return dice.choice(EDITS)(work, dice)
    except ThicketError:
        return work


def _spot(work: Work, dice: random.Random) -> tuple[float, float]:
    width, height = work.card.panel
    far = dice.choice([1.0, 1.0, 1.0, 1.3, 12.0])
    return dice.uniform(-0.2, far) * width, dice.uniform(-0.2, far) * height


def _one(work: Work, dice: random.Random, *kinds: type) -> Piece | None:
    found = [piece for piece in work.card.pieces if not kinds or isinstance(piece, kinds)]
    return dice.choice(found) if found else None


def _some(work: Work, dice: random.Random) -> set[str]:
    ids = [piece.id for piece in work.card.pieces]
    return set(dice.sample(ids, min(len(ids), dice.choice([1, 1, 2, 3, len(ids)])))) if ids else set()


def _stamp(work: Work, dice: random.Random, *kinds: Kind) -> str:
    keys = [one.id for one in work.stash.stamps if not kinds or one.kind in kinds]
    return dice.choice(keys or [one.id for one in work.stash.stamps])


def _number(dice: random.Random) -> float:
    """Draw a number that a maker might type: mostly sensible, now and then far off."""
    return dice.choice([dice.uniform(0.5, 60), dice.uniform(-5, 400), dice.uniform(500, 5000), 0.0])


def _on(*kinds: type) -> Callable[[Callable[[Work, random.Random, Piece], Work]], Edit]:
    def take(change: Callable[[Work, random.Random, Piece], Work]) -> Edit:
        def edit(work: Work, dice: random.Random) -> Work:
            piece = _one(work, dice, *kinds)
            return work if piece is None else change(work, dice, piece)

        return edit

    return take


def _swap(work: Work, piece: Piece) -> Work:
    return msgspec.structs.replace(work, card=edits.place_pieces(work.card, [piece]))


def _set_way(work: Work, dice: random.Random) -> Work:
    piece = _one(work, dice)
    if piece is None:
        return work
    masking = work.card.masking
    ways = (*masking.ways, MaskWay(piece.id, dice.choice(["whole", "part"]), dice.choice([None, -0.5, 2.0, 9.0])))
    return edits.set_card(work, masking=msgspec.structs.replace(masking, ways=ways))


def _pin(work: Work, dice: random.Random) -> Work:
    chosen = tuple(sorted(_some(work, dice)))
    if not chosen:
        return work
    kind = dice.choice(["first", "unmasked", "together", "press", "cut"])
    pins = (*work.card.masking.pins, Pin(kind, chosen, dice.choice([0, 1, 3, 60])))
    return edits.set_card(work, masking=msgspec.structs.replace(work.card.masking, pins=pins))


def _lift(work: Work, dice: random.Random) -> Work:
    piece, past = _one(work, dice), _one(work, dice)
    if piece is None or past is None:
        return work
    width, height = work.card.panel
    ring = flaps.part_by_line(work, piece.id, _spot(work, dice), (width / 2, height / 2), _spot(work, dice))
    return flaps.send_part(work, piece.id, ring, past=past.id, side=dice.choice(["over", "under"]))


def _strand(work: Work, dice: random.Random) -> Work:
    piece, past = _one(work, dice, Cutout, Border), _one(work, dice)
    if piece is None or past is None:
        return work
    ring = flaps.strand_at(work, piece.id, (piece.x + dice.uniform(-30, 30), piece.y + dice.uniform(-20, 20)))
    return flaps.send_part(work, piece.id, ring, past=past.id, side=dice.choice(["over", "under"]))


def _hand(work: Work, dice: random.Random) -> Work:
    piece, holder = _one(work, dice), _one(work, dice)
    if piece is None or holder is None or piece.id == holder.id:
        return work
    hand = ((-3.0, -3.0), (3.0, -3.0), (0.0, 4.0)) if dice.random() < 0.5 else None
    return arranging.place_at_contact(work, piece.id, by=holder.id, at=(2.0, 1.0), own=(0.0, 0.0), hand=hand)


def _span(work: Work, dice: random.Random, piece: Piece) -> Work:
    assert isinstance(piece, Border)
    stamp = work.stash.find(piece.stamp)
    found = span_area(to_area(stamp.outline, stamp.pockets), piece.length_mm, Joining(may_flip=dice.random() < 0.5))
    return _swap(work, msgspec.structs.replace(piece, cuts=found.cuts))


def _joint(work: Work, dice: random.Random, piece: Piece) -> Work:
    assert isinstance(piece, Border)
    if len(piece.cuts) < 2:
        return work
    moved, _ = move_joint(work.stash.find(piece.stamp), piece, 0, dice.uniform(0, piece.length_mm))
    return _swap(work, moved)


def _frame(work: Work, dice: random.Random, piece: Piece) -> Work:
    if not is_frame(work, piece):
        return work
    return _swap(work, grow_piece(work, piece.id, dice.uniform(40, 600), dice.uniform(40, 400))[0])


def _steps(work: Work, dice: random.Random, piece: Piece) -> Work:
    if not isinstance(piece, Through) or not work.stash.has(piece.stencil):
        return work
    stepped = step_stencil(work.stash.find(piece.stencil), piece, dice.randint(2, 5), dice.uniform(-9, 20))
    return _swap(work, msgspec.structs.replace(piece, lays=stepped.lays))


def _cover(work: Work, dice: random.Random, piece: Piece) -> Work:
    cover = Cover(dice.choice(["disc", "counter", "tape", "sheet"]), Form("rectangle", 20.0, 10.0))
    return ink_edits.cover_wash(work, piece.id, cover, _spot(work, dice))


def _hill(work: Work, dice: random.Random) -> Work:
    width, height = work.card.panel
    points = [(width * share, height * dice.uniform(0.3, 0.9)) for share in (0.1, 0.5, 0.9)]
    return draw_hill(work, points, "#4b8050")[0]


def _ring(work: Work, dice: random.Random) -> Work:
    chosen = sorted(_some(work, dice))
    if len(chosen) < 2:
        return work
    make = dice.choice([rings.ring_with_flap, rings.ring_with_cutout])
    return make(work, chosen)


def _turn_over(work: Work, _dice: random.Random) -> Work:
    return turn_over(work)


def _stash_edit(work: Work, dice: random.Random) -> Work:
    key = _stamp(work, dice)
    return dice.choice(
        [
            lambda: edits.rename_stamp(work, key, dice.choice(["", "a newt", "n" * 130])),
            lambda: edits.set_copies(work, key, dice.choice([0, 1, 3, 25])),
            lambda: edits.drop_stamp(work, key),
        ]
    )()


def _tries_edit(work: Work, dice: random.Random) -> Work:
    names = [one.name for one in work.card.tries]
    if not names or dice.random() < 0.5:
        return tries.keep_try(work, dice.choice(["left", "right", "with a moth", "x" * 90]))
    return dice.choice([tries.go_to_try, tries.go_to_try, tries.drop_try])(work, dice.choice(names))


def _outlined(work: Work, dice: random.Random, piece: Piece) -> Work:
    other = _one(work, dice)
    if other is None:
        return work
    return extending.cover_by_outline(work, piece.id, other.id, room_mm=_number(dice), inside=dice.random() < 0.3)


def _card_edit(work: Work, dice: random.Random) -> Work:
    fields: dict[str, object] = dice.choice(
        [
            {"title": dice.choice(["a / b", "t" * 200, ""])},
            {"mask_rim_mm": dice.choice([0.0, 0.5, -0.3, 9.0])},
            {"paper": dice.choice(["#202020", "#ffffff", "blue"])},
            {"limits": Limits(covered_share=dice.choice([0.2, 3.0]))},
            {"landscape": dice.random() < 0.5},
        ]
    )
    return edits.set_card(work, **fields)


def _refit(work: Work, dice: random.Random) -> Work:
    size = (dice.choice([5.0, 60.0, 300.0, 900.0]), dice.uniform(30, 400))
    key = dice.choice(["a2", "slimline", "square6", "dl", "custom"])
    return refit(work, format=key, landscape=dice.random() < 0.5, fold=dice.choice(list(Fold)), custom_mm=size).work


EDITS: list[Edit] = [
    colour_wildly,
    colour_wildly,
    colour_wildly,
    lambda w, d: adding.add_from_stash(w, _stamp(w, d), _spot(w, d), cut=d.random() < 0.5)[0],
    lambda w, d: adding.add_from_stash(w, _stamp(w, d), _spot(w, d), cut=d.random() < 0.5)[0],
    lambda w, d: adding.add_from_stash(w, _stamp(w, d, Kind.BORDER, Kind.STENCIL, Kind.BACKDROP), _spot(w, d))[0],
    lambda w, d: adding.add_panel(
        w, Form("rectangle", _number(d), _number(d)), at=_spot(w, d), colour=d.choice(COLOURS)
    )[0],
    lambda w, d: adding.add_panel(
        w, Form("ellipse", 40, 30), windows=(Window(Form("ellipse", 20, 12)),) * d.choice([1, 50])
    )[0],
    lambda w, d: adding.add_layer(w, _number(d))[0],
    lambda w, d: openings.add_ring(w, _number(d), _number(d))[0],
    lambda w, d: adding.add_strip(
        w, "m" * d.choice([3, 20, 119, 130]), at=_spot(w, d), words_mm=d.choice([3, 9, 30, 90])
    )[0],
    lambda w, d: adding.add_wash(w, d.choice(["#c0d0e0", "#224488"]))[0],
    lambda w, d: adding.add_embellishment(
        w, d.choice(["one", "line", "scatter"]), at=_spot(w, d), count=d.choice([1, 7, 500])
    )[0],
    lambda w, d: edits.move_by(w, _some(w, d), (_number(d), -_number(d))),
    lambda w, d: edits.turn_by(w, _some(w, d), d.choice([1, -37, 180, 719])),
    lambda w, d: edits.turn_to(w, _some(w, d), d.choice([0, 45, -200])),
    lambda w, d: edits.delete(w, _some(w, d)) if d.random() < 0.4 else w,
    lambda w, d: edits.to_end(w, _some(w, d), front=d.random() < 0.5),
    lambda w, d: edits.step_past_overlap(w, _some(w, d), d.choice([1, -1])),
    lambda w, d: edits.set_pieces(w, _some(w, d), colour=d.choice(COLOURS)),
    lambda w, d: edits.set_pieces(
        w,
        _some(w, d),
        **d.choice(
            [
                {"lift_mm": _number(d)},
                {"layers": d.choice([1, 3, 20])},
                {"margin_mm": d.choice([None, 0.0, 2.0, 50.0])},
                {"trim_to": "card"},
                {"translucent": True},
                {"name": "n" * d.choice([0, 9, 300])},
                {"ink": "#fffaf0"},
            ]
        ),
    ),
    lambda w, d: edits.dismiss(w, d.choice(["covered", "near"]), d.choice(sorted(_some(w, d)) or [""])),
    lambda w, d: arranging.align(w, _some(w, d), d.choice(list(arranging.LINES))) if w.card.pieces else w,
    lambda w, d: arranging.distribute(w, _some(w, d), across=d.random() < 0.5),
    lambda w, d: arranging.duplicate(w, _some(w, d))[0],
    lambda w, d: arranging.half_turn(w, _some(w, d))[0],
    lambda w, d: arranging.mirror_cluster(w, _some(w, d))[0],
    _on()(lambda w, d, p: arranging.row(w, p.id, d.choice([2, 5, 70]), _number(d))[0]),
    _hand,
    _hand,
    _lift,
    _lift,
    _strand,
    _ring,
    _pin,
    _set_way,
    _hill,
    lambda w, d: cutouts.join(w, _some(w, d))[0],
    _on()(lambda w, d, p: cutouts.cut_out(w, p.id)),
    _on()(lambda w, d, p: cutouts.stamp_instead(w, p.id)),
    _on()(lambda w, d, p: cutouts.swap_image(w, p.id, _stamp(w, d))),
    _on(Border)(lambda w, d, p: make_rows(w, p.id, d.randint(1, 5), _number(d))[0]),
    _on(Border)(lambda w, d, p: step_borders(w, _some(w, d) | {p.id})[0]),
    _on(Border)(_span),
    _on(Border)(_joint),
    _on(Cutout)(_frame),
    _on(Wash)(_steps),
    _on(Wash)(_cover),
    _on(Border, Strip)(lambda w, d, p: _swap(w, reach_across(w, p))),
    _on(Border)(lambda w, d, p: _swap(w, slide_border(w, p, d.uniform(-90, 90)))),
    _on(Border)(lambda w, d, p: _swap(w, msgspec.structs.replace(p, length_mm=_number(d)))),
    _on(Wash)(
        lambda w, d, p: ink_edits.tear_wash(w, p.id, (_spot(w, d), _spot(w, d)), _spot(w, d), ragged_mm=1.0, seed=3)
    ),
    _on(Wash)(lambda w, d, p: ink_edits.blend_wash(w, p.id, ("#204080", "#e0c060"), "linear", toward_deg=90.0)),
    _on(Wash)(lambda w, d, p: ink_edits.set_wash(w, p.id, Texture, pitch_mm=d.choice([2.0, 8.0]))),
    _on(Wash)(lambda w, d, p: _swap(w, lay_texture(w, as_kind(p, Texture)))),
    _on(Wash)(lambda w, d, p: ink_edits.set_wash(w, p.id, coats=d.choice([1, 12]))),
    _on(Wash)(lambda w, d, p: ink_edits.set_wash(w, p.id, Splatter, drops=d.choice([5, 5000]))),
    _on(Wash)(lambda w, d, p: ink_edits.set_wash(w, p.id, d.choice([Blend, Stencilled, Water, Paste]))),
    _on(Impression)(
        lambda w, d, p: ink_edits.set_stamped(w, [p.id], d.choice(["before inks", "over dry inks", "by hand"]))
    ),
    lambda w, _: trim_base(w),
    lambda w, d: ink_edits.set_powder(w, _some(w, d), d.choice(["#ffffff", "#c59a3d", None])),
    lambda w, d: adding.add_insert(w, border_mm=_number(d))[0],
    lambda w, d: edits.set_card(w, mark=d.choice(["", "made by hand", _stamp(w, d)])),
    lambda w, d: extending.draw_line(w, [_spot(w, d), _spot(w, d), _spot(w, d)], colour="#202020")[0],
    lambda w, d: extending.lay_twine(w, [_spot(w, d), _spot(w, d)], colour="#8a5a3a", width_mm=_number(d) or 1.0)[0],
    lambda w, d: extending.add_froth(w, [_spot(w, d), _spot(w, d)], size_mm=d.choice([0.5, 3.0]))[0],
    lambda w, d: extending.stamp_water(w, _stamp(w, d), _spot(w, d))[0],
    lambda w, d: openings.add_ring_of(w, _stamp(w, d, Kind.DIE), _stamp(w, d, Kind.DIE))[0],
    lambda w, d: adding.add_embellishment(
        w, d.choice(["one", "line", "scatter"]), at=_spot(w, d), count=d.choice([1, 4]), shape=d.choice(list(FINISHES))
    )[0],
    _on()(lambda w, d, p: extending.shade_feet(w, p.id)[0]),
    _on()(lambda w, d, p: word_forms.add_shadow(w, p.id, "#203040", off_mm=(d.uniform(-3, 3), d.uniform(-3, 6)))[0]),
    _on()(lambda w, d, p: word_forms.float_on_vellum(w, p.id)[0]),
    _on()(lambda w, d, p: word_forms.ink_down(w, p.id, ["#203040", "#80a060", "#c04040"][: d.choice([1, 2, 3])])),
    _on()(lambda w, d, p: word_forms.cut_in_two(w, p.id, d.uniform(-5, 60))[0]),
    _on()(lambda w, d, p: edits.set_pieces(w, {p.id}, written_over=d.random() < 0.5)),
    _on(PaperPiece)(lambda w, d, p: edits.set_pieces(w, {p.id}, slides_in=d.random() < 0.7)),
    _on(PaperPiece)(lambda w, d, p: edits.set_pieces(w, {p.id}, edge=d.choice(["stitched", "embossed", ""]))),
    _on(Wash)(_outlined),
    _on(Strip)(lambda w, d, p: edits.set_pieces(w, {p.id}, words="two\nlines", left="tag", right="folded")),
    _on()(lambda w, d, p: ink_edits.ink_only(w, p.id, _spot(w, d), _spot(w, d), _spot(w, d))),
    _on()(lambda w, d, p: ink_edits.ink_zone(w, p.id, (_spot(w, d), _spot(w, d)), _spot(w, d), "#882244")),
    _turn_over,
    _stash_edit,
    _tries_edit,
    _tries_edit,
    _card_edit,
    _refit,
]
