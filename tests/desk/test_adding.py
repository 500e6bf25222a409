"""What the Add and Arrange menus and their forms do, and what they say before anything is cut."""

from collections.abc import Callable

import pytest
from PySide6.QtWidgets import QComboBox
from pytestqt.qtbot import QtBot

from fair_thicket import edits
from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.parts.form import Field, Form
from fair_thicket.model.errors import InputError
from fair_thicket.model.pieces import Cutout, Embellishment, Impression, Panel, Strip, Wash
from fair_thicket.model.units import MM_PER_INCH, Unit
from hands import answer_forms, click


@pytest.fixture
def bare(window: MainWindow) -> MainWindow:
    """A new card with the demo's stash."""
    window.actions_of.by_key["new"].trigger()
    return window


def act(window: MainWindow, key: str) -> None:
    window.refresh()
    assert window.actions_of.by_key[key].isEnabled(), key
    window.actions_of.by_key[key].trigger()


def put(window: MainWindow, name: str, at: tuple[float, float]) -> str:
    stamp = next(one for one in window.session.work.stash.stamps if one.id == name)
    assert window.panes["scene"].bench.add_stamp(stamp, at)
    return next(iter(window.session.selection))


def last(window: MainWindow) -> object:
    return window.session.work.card.find(next(iter(window.session.selection)))


def test_a_frame_says_its_window_before_it_is_cut(bare: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    notes = answer_forms(monkeypatch, width="5 1/4", height="4", bar="1/2", foam="2 mm", colour="fern")
    act(bare, "add-frame")
    assert notes[-1] == "Its window is 4 1/4 × 3 in, bars 1/2 in all round."
    frame = last(bare)
    assert isinstance(frame, Panel)
    assert frame.windows[0].form.width_mm == pytest.approx(4.25 * MM_PER_INCH)
    assert frame.lift_mm == 2.0


def test_a_ring_is_told_in_half_the_difference(bare: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    notes = answer_forms(monkeypatch, outer="2 1/2", inner="2")
    act(bare, "add-ring")
    assert notes[-1].startswith("The ring is 1/4 in wide")
    notes = answer_forms(monkeypatch, outer="2", inner="2 1/2")
    before = bare.session.work
    act(bare, "add-ring")
    assert "needs an inner die smaller" in notes[-1]
    assert bare.session.work is before


def test_a_panel_tells_what_the_card_shows_beside_it(bare: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    notes = answer_forms(monkeypatch, width="5", height="3 3/4", shape=1)
    act(bare, "add-panel")
    assert notes[-1] == "Centred, the card shows 1/4 in left and right, 1/4 in above and below."
    assert last(bare).form.kind == "ellipse"
    notes = answer_forms(monkeypatch, width="0")
    act(bare, "add-panel")
    assert "The width must be at least 0.1 mm" in notes[-1]


def test_strips_washes_and_sequins(bare: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    notes = answer_forms(monkeypatch, words="hello", letters="4 mm", right="fishtail")
    act(bare, "add-strip")
    assert notes[-1].startswith("Cut the strip")
    strip = last(bare)
    assert isinstance(strip, Strip)
    assert (strip.words, strip.right) == ("hello", "fishtail")
    notes = answer_forms(monkeypatch, colour="pond")
    act(bare, "add-wash")
    assert isinstance(bare.session.work.card.pieces[0], Wash)
    assert "follow the maker's label" in notes[-1]
    notes = answer_forms(monkeypatch, pattern="scatter", count="300", reach="1")
    before = bare.session.work
    act(bare, "add-sequins")
    assert "do not fit" in notes[-1]
    assert bare.session.work is before
    answer_forms(monkeypatch, pattern="one")
    act(bare, "add-sequins")
    assert isinstance(last(bare), Embellishment)


def test_a_strip_slips_under_a_stamped_greeting(bare: MainWindow) -> None:
    greeting = put(bare, "greeting-post", (60, 30))
    act(bare, "strip-under")
    strip = last(bare)
    assert bare.session.work.card.find(greeting).on == strip.id
    assert strip.width_mm > bare.session.work.stash.find("greeting-post").width_mm


def test_what_is_laid_over_glue_is_cut_out_and_said(bare: MainWindow, qtbot: QtBot) -> None:
    put(bare, "pond", (60, 60))
    with qtbot.waitSignal(bare.session.said) as caught:
        put(bare, "courier-snail", (60, 62))
    assert "is cut out and glued over it" in caught.args[0]
    assert isinstance(last(bare), Cutout)
    put(bare, "courier-snail", (110, 20))
    assert isinstance(last(bare), Impression)


def test_pieces_are_turned_over_trimmed_laid_on_and_taken_off(bare: MainWindow, qtbot: QtBot) -> None:
    session = bare.session
    pond = put(bare, "pond", (60, 60))
    act(bare, "turn-over")
    assert session.work.card.find(pond).flipped
    tag = put(bare, "luggage-tag", (60, 64))
    act(bare, "lay-on")
    assert session.work.card.find(tag).on == pond
    act(bare, "trim-on")
    assert session.work.card.find(tag).trim_to == pond
    act(bare, "take-off")
    assert (session.work.card.find(tag).on, session.work.card.find(tag).trim_to) == ("", "")
    act(bare, "trim-card")
    assert session.work.card.find(tag).trim_to == "card"
    act(bare, "trim-none")
    assert session.work.card.find(tag).trim_to == ""
    frame = put(bare, "fern-window", (69.85, 54))
    session.select({tag})
    act(bare, "trim-window")
    assert session.work.card.find(tag).trim_to == frame
    snail = put(bare, "courier-snail", (60, 50))
    session.select({snail})
    with qtbot.waitSignal(session.said) as caught:
        act(bare, "turn-over")
    assert "cannot be turned over" in caught.args[0]


def test_copies_rows_mirrors_and_lines(bare: MainWindow, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot) -> None:
    session = bare.session
    first = put(bare, "letter", (30, 30))
    act(bare, "half-turn")
    assert session.work.card.find(next(iter(session.selection))).copy_of == first
    session.select({first})
    notes = answer_forms(monkeypatch, count="3", step="20 mm", rows="2", down="12 mm")
    act(bare, "row")
    assert notes[-1].startswith("5 more pieces; gap in a row")
    assert len(session.selection) == 5
    act(bare, "align-top")
    act(bare, "spread-across")
    session.select({first})
    with qtbot.waitSignal(session.said) as caught:
        act(bare, "mirror")
    assert "A stamp has no mirror image" in caught.args[0]
    act(bare, "duplicate")
    act(bare, "delete")


def test_two_images_are_cut_out_as_one_and_a_hat_let_go(bare: MainWindow) -> None:
    session = bare.session
    one, two = put(bare, "toadstool", (40, 60)), put(bare, "lantern", (52, 64))
    session.select({one, two})
    act(bare, "join")
    joint = last(bare)
    assert isinstance(joint, Cutout)
    assert len(joint.joined) == 1
    stump = put(bare, "stump-letterbox", (90, 70))
    beetle = put(bare, "spotted-beetle", (91, 55))
    act(bare, "contact")
    assert session.work.card.find(beetle).held.by == stump
    act(bare, "let-go")
    assert session.work.card.find(beetle).held is None


def test_the_panel_changes_how_a_piece_is_made_its_foam_and_its_colour(bare: MainWindow) -> None:
    session, panel = bare.session, bare.panes["scene"].piece
    snail = put(bare, "courier-snail", (60, 50))
    click(panel.making.buttons[1])
    assert isinstance(session.work.card.find(snail), Cutout)
    assert not panel.foam.isHidden()
    click(panel.foam.more)
    assert session.work.card.find(snail).lift_mm == pytest.approx(0.8)
    next(one for one in panel.colour.menu().actions() if one.text() == "clay").trigger()
    assert panel.colour.text() == "clay"
    click(panel.making.buttons[0])
    assert isinstance(session.work.card.find(snail), Impression)
    assert session.work.card.find(snail).colour == "#c9794a"


@pytest.mark.parametrize(
    ("name", "answers", "field", "value"),
    [
        ("courier-snail", {"margin_mm": "2 mm"}, "margin_mm", 2.0),
        ("courier-snail", {"translucent": "yes", "layers": "3", "glue": 2}, "layers", 3),
        ("moss-edge", {"length_mm": "100 mm", "flipped": "yes"}, "length_mm", 100.0),
        ("moon", {"name": "harvest moon"}, "name", "harvest moon"),
    ],
)
def test_details_are_typed(
    bare: MainWindow, monkeypatch: pytest.MonkeyPatch, name: str, answers: dict, field: str, value: object
) -> None:
    put(bare, "pond", (60, 60))
    key = put(bare, name, (60, 60))
    notes = answer_forms(monkeypatch, **answers)
    act(bare, "details")
    assert notes[-1].startswith("It measures")
    assert getattr(bare.session.work.card.find(key), field) == value


def test_a_strip_is_cut_anew_for_other_words_and_a_panel_trims_what_lies_on_it(
    bare: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = bare.session
    answer_forms(monkeypatch, words="hi")
    act(bare, "add-strip")
    strip = last(bare)
    answer_forms(monkeypatch, words="hello to all of you", left="folded")
    act(bare, "details")
    assert last(bare).width_mm > 2 * strip.width_mm
    answer_forms(monkeypatch, width="4", height="3")
    act(bare, "add-panel")
    (panel,) = session.selection
    snail = put(bare, "courier-snail", (25, 50))
    session.edit("lay on", lambda work: edits.set_pieces(work, {snail}, on=panel))
    session.select({panel})
    answer_forms(monkeypatch, width_mm="3 3/4", on_it="is trimmed with it")
    act(bare, "details")
    assert session.work.card.find(panel).form.width_mm == pytest.approx(3.75 * MM_PER_INCH)
    assert session.work.card.find(snail).trim_to == panel
    notes = answer_forms(monkeypatch, width_mm="0")
    before = session.work
    act(bare, "details")
    assert "must be at least 0.1 mm" in notes[-1]
    assert session.work is before


# -- the form ------------------------------------------------------------------------------------------------------


@pytest.fixture
def make_form(qtbot: QtBot) -> Callable[..., Form]:
    """Make forms in inches."""

    def make(*fields: Field, **more: object) -> Form:
        form = Form(None, "Try", fields, unit=Unit.INCH, **more)  # type: ignore[arg-type]
        qtbot.addWidget(form)
        return form

    return make


@pytest.mark.parametrize(
    ("kind", "value", "shown", "typed", "read"),
    [
        ("length", 12.7, "1/2 in", "3/4", 19.05),
        ("length", 0.8, "0.8 mm", "1 mm", 1.0),  # a sixteenth does not tell it
        ("length", 0.0, "0 in", "0", 0.0),
        ("count", 5, "5", "7", 7),
        ("share", 0.35, "35 %", "40", 0.4),
        ("angle", 3.0, "3°", "-2,5", -2.5),
        ("ratio", 4.5, "4.5", "7", 7.0),
        ("words", "hello", "hello", "  you ", "you"),
    ],
)
def test_fields_show_and_read_what_makers_type(
    make_form: Callable[..., Form], kind: str, value: object, shown: str, typed: str, read: object
) -> None:
    form = make_form(Field("a", "A", kind, value))
    assert form.inputs["a"].text() == shown
    assert form.values()["a"] == pytest.approx(value, abs=0.06) if not isinstance(value, str) else True
    form.inputs["a"].setText(typed)
    assert form.values()["a"] == pytest.approx(read) if not isinstance(read, str) else form.values()["a"] == read


def test_a_form_says_what_cannot_be_read_and_waits(make_form: Callable[..., Form]) -> None:
    form = make_form(Field("a", "How many", "count", 5), Field("b", "Which", "choice", 1, ("one", "two")))
    form.inputs["a"].setText("2.5")
    assert "not a whole number" in form.told["a"].text()
    assert not form._ok.isEnabled()
    form.accept()
    assert form.result() == 0
    for words in ("many", "nan", "1e999"):
        form.inputs["a"].setText(words)
        assert "is no number for “How many”" in form.told["a"].text()
    form.inputs["a"].setText("3")
    assert form.told["a"].text() == ""
    assert form._ok.isEnabled()
    choice = form.inputs["b"]
    assert isinstance(choice, QComboBox)
    assert form.values() == {"a": 3, "b": 1}


def test_a_form_tells_what_will_come_of_it_and_refuses_with_the_reason(make_form: Callable[..., Form]) -> None:
    def tell(values: dict) -> str:
        if values["a"] > 9:
            raise InputError("Too many.")
        return f"{values['a']} it is"

    form = make_form(Field("a", "A", "count", 5), tell=tell)
    assert form.note.text() == "5 it is"
    form.inputs["a"].setText("10")
    assert (form.note.text(), form._ok.isEnabled()) == ("Too many.", False)
