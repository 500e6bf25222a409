"""The Ink menu's menu_actions on washes, by their real actions, forms and lines drawn on the bench."""

import pytest
from pytestqt.qtbot import QtBot

from fair_thicket.desk.frame.main_window import MainWindow
from fair_thicket.desk.ink.wash_how import WashHow
from fair_thicket.desk.stations import SCENE
from fair_thicket.edits.adding import add_wash
from fair_thicket.edits.ink_edits import set_wash
from fair_thicket.model.pieces import Blend, Paste, Texture, Wash
from fair_thicket.model.supplies import Ink
from hands import answer_forms, drag, on_bench, settle

BEETLE, GREETING = "spotted-beetle-1", "greeting-post-1"


@pytest.fixture
def washed(window: MainWindow, qtbot: QtBot) -> MainWindow:
    """The demo card on a dusk wash, which is chosen."""
    window.go(SCENE)
    window.session.edit("add a wash", lambda work: add_wash(work, "#8f8fb8")[0])
    window.session.select({"wash-1"})
    settle(qtbot, window.session)
    return window


def wash_of(window: MainWindow) -> Wash:
    found = window.session.work.card.find("wash-1")
    assert isinstance(found, Wash)
    return found


def act(window: MainWindow, key: str) -> None:
    window.refresh()
    assert window.actions_of.by_key[key].isEnabled(), key
    window.actions_of.by_key[key].trigger()


def test_the_ink_menu_holds_what_is_done_to_stamps_and_to_washes(window: MainWindow) -> None:
    words = [action.text() for action in window._menus["Ink"].actions() if action.text()]
    assert "Ink only a part of it …" in words
    assert "Step a stencil over the wash …" in words


def test_what_needs_a_wash_and_another_piece_waits_for_both(washed: MainWindow) -> None:
    for chosen, both in (({"wash-1"}, False), ({BEETLE}, False), ({"wash-1", BEETLE}, True)):
        washed.session.select(chosen)
        washed.refresh()
        for key in ("wash-glow", "wash-spot", "wash-keep-off"):
            assert washed.actions_of.by_key[key].isEnabled() == both, (key, chosen)
        assert washed.actions_of.by_key["wash-how"].isEnabled() == (chosen == {"wash-1"})


def test_a_wash_glows_from_and_spares_the_other_pieces(washed: MainWindow, qtbot: QtBot) -> None:
    beetle = washed.session.work.card.find(BEETLE)
    washed.session.select({"wash-1", BEETLE})
    act(washed, "wash-glow")
    wash = wash_of(washed)
    assert wash.way == "glow"
    assert (wash.x + wash.centre[0], wash.y + wash.centre[1]) == pytest.approx((beetle.x, beetle.y), abs=0.01)
    act(washed, "wash-spot")
    assert [one.kind for one in wash_of(washed).covers] == ["disc"]
    washed.session.select({"wash-1", GREETING})
    act(washed, "wash-keep-off")
    assert [one.kind for one in wash_of(washed).covers] == ["disc", "tape"]
    assert washed.session.undo_stack.undoText() == "keep room for the greeting"
    settle(qtbot, washed.session)


def test_a_wash_is_parted_along_a_line_drawn_on_the_bench(
    washed: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench = washed.panes["scene"].bench
    notes = answer_forms(monkeypatch, gap="99 mm")
    act(washed, "wash-part")
    assert "The gap must be at most 50 mm" in notes[0]
    answer_forms(monkeypatch, gap="2 mm", ink="moss")
    act(washed, "wash-part")
    drag(bench.viewport(), on_bench(bench, 2, 60), on_bench(bench, 135, 62))
    washes = [one for one in washed.session.work.card.pieces if isinstance(one, Wash)]
    assert [one.colour for one in washes] == ["#8f8fb8", "#8aa465"]
    assert all(one.covers[-1].kind == "torn" for one in washes)
    settle(qtbot, washed.session)


def test_texture_and_paste_are_taken_over_from_their_dialog(
    washed: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    def answer(self: WashHow) -> int:
        if self.how.currentText().startswith("texture"):
            self.mark.setCurrentIndex(self.mark.findText("tufts of grass"))
        else:
            self.how.setCurrentIndex(self.how.findText("paste"))
            self.stencil.setCurrentIndex(self.stencil.findText("mist stencil"))
        qtbot.waitUntil(lambda: not self.worker.is_busy, timeout=60_000)
        return 1

    monkeypatch.setattr(WashHow, "exec", answer)
    act(washed, "wash-texture")
    wash = wash_of(washed)
    assert isinstance(wash, Texture)
    assert wash.mark == "grass"
    assert wash.spots
    settle(qtbot, washed.session)
    assert "late" in " ".join(step.words.lower() for step in washed.session.outcome.rehearsal.steps)
    washed.session.undo_stack.undo()
    assert isinstance(wash_of(washed), Blend)
    act(washed, "wash-how")
    assert isinstance(wash_of(washed), Paste)
    assert (wash_of(washed).stencil, wash_of(washed).colour) == ("mist", "#ffffff")
    settle(qtbot, washed.session)


def test_the_makers_own_inks_stand_between_others_first(washed: MainWindow, qtbot: QtBot) -> None:
    session = washed.session
    session.change_library(lambda library: library.keep_supplies([Ink("owl grey", "#c9d2dc")]))
    assert [one.name for one in session.own_inks()] == ["owl grey"]
    fields = {"inks": ("#eec25a", "#2d3558"), "way": "linear"}
    session.edit("blend", lambda work: set_wash(work, "wash-1", **fields))
    settle(qtbot, session)
    found = next(one for one in session.outcome.findings if one.code.startswith("blend-"))
    assert found.remedy is not None
    assert found.remedy.words == "Blend over owl grey"
