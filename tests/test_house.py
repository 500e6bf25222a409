"""The floors of the house: who may import whom, and a core that knows no Qt."""

import ast
import graphlib
import subprocess
import sys
from pathlib import Path

import pytest
import radon.visitors
import shapely
from radon.complexity import cc_visit

from fair_thicket import masks
from fair_thicket.advice import advise
from fair_thicket.demo import CARD_FILES
from fair_thicket.engines import Known
from fair_thicket.files.card_file import open_card
from fair_thicket.laid.stack import stack
from making import EVERY

SOURCE = Path(__file__).parents[1] / "src" / "fair_thicket"
GROUND = {"model", "shape", "laid", "estimate", "checks", "ink", "edits", "fonts"}
ENGINES = {"intake", "scene", "masks", "backdrop", "colour", "sheets", "assembly", "library"}
MAY_IMPORT = {
    "model": set(),
    "fonts": set(),
    "checks": {"model"},
    "shape": {"model", "fonts"},
    "laid": {"model", "shape"},
    "estimate": {"model", "shape", "laid"},
    "ink": {"model", "shape", "laid", "fonts"},
    "edits": {"model", "shape", "laid", "ink"},
    "packing": {"model", "shape"},
    **dict.fromkeys(ENGINES, GROUND),
    "sheets": {"packing", *GROUND},
    "files": GROUND - {"edits", "checks"},
    "simulators": {"model", "shape", "fonts", "printing"},
    "demo": {"simulators", "intake", "backdrop", "colour", "files", *GROUND},
    "printing": {"files", "colour", "sheets", "assembly", "packing", *GROUND},
    "engines": {"model", "laid", "printing", *ENGINES},
    "advice": {"model", "laid", "edits", "checks", "engines", "scene"},
    "making": {"model", "engines", "printing"},
    "shell": {"files", "printing", "packing", "engines", "advice", "making", *GROUND, *ENGINES},
    "cli": {"shell", "engines", "desk"},
    "desk": {"files", "printing", "packing", "engines", "advice", "making", "demo", "simulators", *GROUND, *ENGINES},
}
STATION = {"frame", "parts", "session", "theme"}
DESK_MAY_IMPORT = {
    "theme": set(),
    "session": set(),
    "parts": {"session", "theme"},
    **dict.fromkeys(("stash", "scene", "masks", "colour", "sheets", "assembly", "rehearsal", "paper"), STATION),
    "ink": {"scene", *STATION},
}
"""Of the desk: a station knows no other, but what is done with ink is done on the scene. The frame knows all."""


def imports_of(file: Path, above: str = "") -> set[str]:
    """Rooms of the house that a file imports, wherever in it; or rooms within a room `above`."""
    root = f"fair_thicket.{above}." if above else "fair_thicket."
    found = set()
    for node in ast.walk(ast.parse(file.read_text())):
        names = []
        if isinstance(node, ast.Import):
            names = [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            is_whole = f"{node.module}." == root
            names = [f"{root}{alias.name}" for alias in node.names] if is_whole else [node.module]
        found |= {name.removeprefix(root).split(".")[0] for name in names if name.startswith(root)}
    return found


def rooms() -> list[tuple[str, Path]]:
    listed = []
    for file in sorted(SOURCE.rglob("*.py")):
        room = file.relative_to(SOURCE).parts[0].removesuffix(".py")
        if not room.startswith("__"):
            listed.append((room, file))
    return listed


@pytest.mark.parametrize(("room", "file"), rooms(), ids=[str(file.relative_to(SOURCE)) for _, file in rooms()])
def test_a_room_imports_only_from_the_floors_below(room: str, file: Path) -> None:
    assert imports_of(file) - {room, "__version__"} <= MAY_IMPORT[room]


FREE = {"frame", "stations", "__init__"}
"""Of the desk: what puts the stations together."""


def beyond_its_room(desk: Path) -> dict[str, set[str]]:
    """What files of the desk import of rooms that are not theirs; a folder that is new is a station."""
    found = {}
    for file in sorted(desk.rglob("*.py")):
        room = file.relative_to(desk).parts[0].removesuffix(".py")
        if room not in FREE and (far := imports_of(file, "desk") - {room} - DESK_MAY_IMPORT.get(room, STATION)):
            found[f"{room}/{file.name}"] = far
    return found


def test_a_room_of_the_desk_imports_only_what_all_share() -> None:
    assert not beyond_its_room(SOURCE / "desk")


def test_a_new_station_may_import_no_other(tmp_path: Path) -> None:
    (tmp_path / "ledger").mkdir()
    pane = tmp_path / "ledger" / "station.py"
    pane.write_text("from fair_thicket.desk.parts.form import Form\nfrom fair_thicket.desk.session import session\n")
    assert not beyond_its_room(tmp_path)
    pane.write_text("def late():\n    from fair_thicket.desk.masks.station import MaskStation\n")
    assert beyond_its_room(tmp_path) == {"ledger/station.py": {"masks"}}


def modules() -> dict[str, Path]:
    listed = {}
    for file in SOURCE.rglob("*.py"):
        name = ".".join(file.relative_to(SOURCE.parent).with_suffix("").parts)
        listed[name.removesuffix(".__init__")] = file
    return listed


def test_no_modules_import_each_other_in_a_circle() -> None:
    """Late imports and those for the type checker count as well: a circle is one however it is hidden."""
    known = modules()
    waits_for = {}
    for name, file in known.items():
        found = set()
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module:
                full = {f"{node.module}.{alias.name}" for alias in node.names}
                found |= (full & known.keys()) | ({node.module} if not full <= known.keys() else set())
            elif isinstance(node, ast.Import):
                found |= {alias.name for alias in node.names}
        waits_for[name] = (found & known.keys()) - {name}
    graphlib.TopologicalSorter(waits_for).prepare()  # raises where there is a circle, and names it


@pytest.mark.parametrize("room", sorted(GROUND | ENGINES | {"files", "printing", "demo"}))
def test_the_core_names_no_interface_library(room: str) -> None:
    for file in (SOURCE / room).rglob("*.py"):
        assert "PySide6" not in file.read_text(), file


def test_the_core_works_where_qt_cannot_be_imported() -> None:
    script = (
        "import sys; sys.modules['PySide6'] = None\n"
        "from fair_thicket import advice, cli, engines, masks\n"
        "from fair_thicket.demo import CARD_FILE\n"
        "from fair_thicket.files.card_file import open_card\n"
        "work, pictures = open_card(CARD_FILE)\n"
        "plan = masks.plan(work)\n"
        "assert advice.advise(work, engines.Known(plan, masks.rehearse(work, pictures, plan)))\n"
    )
    subprocess.run([sys.executable, "-c", script], check=True)


def test_starting_the_shell_loads_no_heavy_library() -> None:
    script = "import sys, fair_thicket.cli; print(*[n for n in ('ortools', 'scipy', 'PySide6') if n in sys.modules])"
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    assert done.stdout.strip() == ""


@pytest.mark.parametrize("words", [[], ["--demo"], ["open", "card.thicket"]])
def test_the_desk_is_opened_before_any_engine_is_loaded(words: list[str]) -> None:
    script = (
        "import sys\n"
        "from fair_thicket import cli\n"
        "engines = lambda: [name for name in sys.modules if name.startswith('fair_thicket.masks')]\n"
        "cli._open_desk = lambda options: print('opened', *engines()) or 0\n"
        f"cli.main({words!r})\n"
    )
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    assert done.stdout.split() == ["opened"]


def test_no_module_outgrows_its_one_thing() -> None:
    long = {file.name: n for _, file in rooms() if (n := len(file.read_text().splitlines())) > 400}
    assert not long


def test_no_function_takes_too_many_turns() -> None:
    """Cyclomatic complexity (McCabe 1976), as radon counts it, with every comprehension and boolean operator."""
    outside = [file for folder in ("setup", "bench") for file in (SOURCE.parents[1] / folder).rglob("*.py")]
    winding = {}
    for file in [*(file for _, file in rooms()), *outside]:
        for block in cc_visit(file.read_text()):
            parts = block.methods if isinstance(block, radon.visitors.Class) else [block]
            winding.update({f"{file.name}: {one.fullname}": n for one in parts if (n := one.complexity) > 15})
    assert not winding


def test_no_folder_is_crowded() -> None:
    """A folder's own files are at most 15 % of the code."""
    lines: dict[Path, int] = {}
    for _, file in rooms():
        lines[file.parent] = lines.get(file.parent, 0) + len(file.read_text().splitlines())
    total = sum(lines.values())
    assert not {str(folder): n for folder, n in lines.items() if n > 0.15 * total}


def test_no_area_is_prepared_where_another_thread_may_ask_it() -> None:
    files = {file.name for _, file in rooms() if "shapely.prepare(" in file.read_text()}
    assert files == {"prepared.py"}
    for card in CARD_FILES[::EVERY]:
        work, pictures = open_card(card)
        made = masks.plan(work)
        advise(work, Known(made, masks.rehearse(work, pictures, made)))
        for leaf in stack(work):
            assert not any(shapely.is_prepared(area) for area in (leaf.area, leaf.whole, leaf.sheet)), leaf.key
