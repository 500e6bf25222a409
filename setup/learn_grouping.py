"""Learn which bits of ink make one image, from pages of open drawings: writes intake/grouping_trees.zip.

Needed only when `signs` has changed, or to learn from other drawings. Beside this project's own environment
it needs scikit-learn 1.5 or later, and folders of SVG drawings, one a set:

    python setup/learn_grouping.py FOLDER [FOLDER ...]

It takes about half an hour on two processors. Learnt from are the drawings of things (words of
tests/reference/things.txt in their names, no signs of interfaces) of 46 open sets in one colour; how many trees, which
signs and which threshold was chosen with hugeicons, mynaui, temaki and Phosphor left out and held against. What ships
are the first 800 of 1500 trees, which told no more; it is proven on three other sets, see `bench/grouping.py`. From
PyPI: Phosphor Icons (py-phosphor-icons 0.1.1) and Heroicons (heroicons 2.14.0), both MIT. From npm, @iconify-json/*, by
licence:

MIT: akar-icons 1.2.7, bi 1.2.7, clarity 1.2.4, fluent 1.2.60 (24 px), fluent-emoji-high-contrast 1.2.6, fontisto 1.2.1,
healthicons 1.2.13, hugeicons 1.2.35, iconoir 1.2.11, ion 1.2.7, lsicon 1.2.5, majesticons 1.2.5, medical-icon 1.2.0,
mynaui 1.2.19, tdesign 1.2.19. Apache 2.0: carbon 1.2.29, icon-park-outline 1.2.4, icon-park-solid 1.2.4,
material-symbols 1.2.98, mdi 1.2.3, mingcute 1.2.8, ri 1.2.10, uil 1.2.3, vaadin 1.2.1. CC0: maki 1.2.5, temaki 1.2.6.
OFL 1.1: map 1.2.2, whh 1.2.0, wi 1.2.1. CC BY: basil 1.2.4, cil 1.2.3, emojione-monotone 1.2.1, game-icons 1.2.4 (3.0),
gis 1.2.5, guidance 1.2.2, iconamoon 1.2.2, pepicons-pencil 1.2.4, pepicons-pop 1.2.4, streamline 1.2.5, and of the same
family -cyber 1.2.2, -flex 1.2.3, -freehand 1.2.1, -plump 1.2.0, -sharp 1.2.0, -ultimate 1.2.2.

The pages are laid in numbers, not in pixels: outlines of the parts as found on a rendering, packed with gaps, some
drawings in pairs 1.5 mm apart. First a teacher who knows the truth joins; then what was learnt joins by itself, and is
taught what the states are that it runs into (S. Ross and others, A reduction of imitation learning, 2011).
"""

import argparse
import io
import math
import multiprocessing
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, NamedTuple

import cv2
import numpy as np
import rectpack
import resvg_py
from numpy.typing import NDArray
from PIL import Image
from sklearn.ensemble import HistGradientBoostingClassifier

from fair_thicket.intake.companies import Companies
from fair_thicket.intake.detection import DETECT_PX_PER_MM, contours_of
from fair_thicket.intake.grouping import Judge, group_parts
from fair_thicket.intake.likelihood import TREES, Trees
from fair_thicket.intake.signs import SIGNS, signs

SHEET_MM = (215.9, 279.4)
RENDER_PX = 480
KINDS = ("plain", "plain", "plain", "pairs", "pairs", "pairs", "loose", "near", "shapes")
GAPS_MM = (2.5, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0, 10.0, 12.0, 15.0)
PAIR_MM = 1.5
SPREAD_MM = (-0.1, 0.25)
"""How much wider each side of a line may print."""
ROUNDS = 3
PAGES = 1000
TREES_GROWN, LEAVES = 800, 31
ROUGH = 2
"""What only lays the states to learn from has so many times fewer trees."""
KEPT = 0.5
"""Share of the judgements that are learnt from: neighbours in time are much alike."""
INK_NOISE_MM = 0.04
"""How much wider or finer than the others a part's lines may print."""


class Part(NamedTuple):
    """A connected bit of ink: its outer outline, how much ink it is, and how long its borders are."""

    outline: NDArray[np.float64]
    area: float
    border: float


Parts = list[Part]


class Page(NamedTuple):
    """Parts of a page, and of which drawing each truly is."""

    parts: Parts
    drawing_of: list[int]

    @property
    def outlines(self) -> list[NDArray[np.float64]]:
        """What is seen of the parts from outside."""
        return [part.outline for part in self.parts]

    @property
    def inks(self) -> NDArray[np.float64]:
        """Areas and borders, (n, 2)."""
        return np.array([(part.area, part.border) for part in self.parts])


def outline_parts(svg: str) -> Parts:
    """Find the parts of a drawing, its canvas 1 wide."""
    svg = svg.replace("currentColor", "#000000")
    png = resvg_py.svg_to_bytes(svg_string=svg, width=RENDER_PX, background="#ffffff", skip_system_fonts=True)
    grey = np.pad(np.asarray(Image.open(io.BytesIO(png)).convert("L")), 4, constant_values=255)
    count, labels, stats, _ = cv2.connectedComponentsWithStats((grey < 128).astype(np.uint8), connectivity=8)
    outlines, _, inks = contours_of(np.asarray(labels, np.int32), range(1, count), np.asarray(stats, np.int64))
    scale = DETECT_PX_PER_MM / RENDER_PX  # to contours every picture is a scan
    return [
        Part(outline * scale, area * scale**2, border * scale)
        for outline, (area, border) in zip(outlines, inks, strict=True)
    ]


def box_of(parts: Parts) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Least and greatest corner of parts."""
    points = np.concatenate([part.outline for part in parts])
    return points.min(axis=0), points.max(axis=0)


def vary(parts: Parts, size: float, chance: np.random.Generator) -> Parts:
    """Mirror, turn by quarters, stretch and ink more or less, so that no drawing is learnt by heart."""
    matrix = np.diag(chance.choice((-1.0, 1.0), 2) * np.exp(chance.uniform(-0.2, 0.2, 2)) * size)
    if chance.random() < 0.5:
        matrix = matrix[::-1]
    spread = chance.uniform(*SPREAD_MM)
    scale = abs(float(np.linalg.det(matrix))) ** 0.5
    varied = []
    for part in parts:
        placed = part.outline @ matrix.T
        middle = (placed.min(axis=0) + placed.max(axis=0)) / 2
        half = np.maximum(np.ptp(placed, axis=0) / 2, 0.2)
        outline = middle + (placed - middle) * (1 + (spread + chance.normal(0, 0.05)) / half)
        border = max(part.border * scale, 0.3)
        line = max(2 * part.area * scale**2 / border + 2 * spread + chance.normal(0, INK_NOISE_MM), 0.15)
        varied.append(Part(outline, line * border / 2, border))
    return varied


def draw_page(sets: Sequence[Sequence[Parts]], kind: str, chance: np.random.Generator) -> Page:
    """Lay a page: `plain` half of drawings with many parts, `loose` only such, `pairs` some close, `near` all close."""
    units: list[list[Parts]] = []
    for parts in choose(sets, kind, chance):
        before = units[-1] if units else None
        if kind == "pairs" and before is not None and len(before) == 1 and chance.random() < 0.5:
            _, end = box_of(before[0])
            before.append(move(parts, (end[0] + PAIR_MM, chance.uniform(-0.2, 0.2) * end[1])))
        else:
            units.append([parts])
    gap = PAIR_MM if kind == "near" else float(chance.choice(GAPS_MM[2:] if kind == "pairs" else GAPS_MM))
    page = pack(units, gap)
    for _ in range(int(chance.integers(0, 25))):  # dust, and what else is too small to be anything
        x, y, side = chance.uniform(5, 205), chance.uniform(5, 270), chance.uniform(0.6, 1.0)
        outline = np.array([(x, y), (x + side, y), (x + side, y + side), (x, y + side)])
        page.parts.append(Part(outline, side**2, 4 * side))
        page.drawing_of.append(-len(page.parts))
    return page._replace(parts=[part._replace(outline=on_pixels(part.outline)) for part in page.parts])


def on_pixels(outline: NDArray[np.float64]) -> NDArray[np.float64]:
    """Move an outline to the middles of a scan's pixels.

    In numbers even drawings are even to a thousandth of their size; that must not be learnt, for no scan shows it.
    """
    pixels = np.floor(outline * DETECT_PX_PER_MM)
    is_new = np.any(pixels != np.roll(pixels, 1, axis=0), axis=1)
    kept = pixels[is_new] if is_new.any() else pixels[:1]
    return np.asarray((kept + 0.5) / DETECT_PX_PER_MM)


def choose(sets: Sequence[Sequence[Parts]], kind: str, chance: np.random.Generator) -> list[Parts]:
    """Choose drawings for a page, varied, each from its own top left; those under 4 mm are left out."""
    width, spread = chance.uniform(16, 40), chance.uniform(0.1, 0.6)
    share = 1.0 if kind == "loose" else 0.5
    if kind == "shapes":
        sets = [[shape(chance) for _ in range(12)]]
    elif chance.random() < 0.25:  # one set of stamps has much that is alike, and some of it twice
        sets = [[one[chance.integers(len(one))] for _ in range(3)] for one in sets]
    shares = np.sqrt([len(one) for one in sets])
    shares /= shares.sum()
    chosen = []
    for _ in range(int(chance.integers(2, 30))):
        drawings = sets[chance.choice(len(sets), p=shares)]
        loose = [one for one in drawings if len(one) >= 4]
        source = loose if loose and chance.random() < share else drawings
        size = float(np.clip(width * math.exp(spread * chance.standard_normal()), 8, 100))
        parts = vary(source[chance.integers(len(source))], size, chance)
        least, greatest = box_of(parts)
        if max(greatest - least) >= 4:
            chosen.append(move(parts, -least))
    return chosen


def move(parts: Parts, by: Any) -> Parts:
    """Move parts by x and y."""
    return [part._replace(outline=part.outline + by) for part in parts]


def shape(chance: np.random.Generator) -> Parts:
    """Draw a plain outline, a frame or a disc."""
    turn = np.linspace(0, 2 * math.pi, 4 if chance.random() < 0.5 else 40, endpoint=False) + math.pi / 4
    ring = np.stack([np.cos(turn), np.sin(turn)], axis=1) * (0.5, chance.uniform(0.1, 0.5))
    border = float(np.hypot(*(np.roll(ring, 1, axis=0) - ring).T).sum())
    line = chance.uniform(0.01, 0.08)  # it and its inner side make two borders
    return [Part(ring, line * border, 2 * border)]


def pack(units: Sequence[Sequence[Parts]], gap: float) -> Page:
    """Pack drawings, or pairs of them, on a sheet; those that find no room are left out."""
    boxes = [box_of([one for parts in unit for one in parts]) for unit in units]
    packer = rectpack.newPacker(rotation=False, sort_algo=rectpack.SORT_SSIDE)
    for index, (least, greatest) in enumerate(boxes):
        wide, high = greatest - least + gap
        packer.add_rect(math.ceil(wide * 10), math.ceil(high * 10), rid=index)
    packer.add_bin(int((SHEET_MM[0] - 16 + gap) * 10), int((SHEET_MM[1] - 16 + gap) * 10))
    packer.pack()
    page = Page([], [])
    drawing = 0
    for _, x, y, _, _, index in packer.rect_list():
        for parts in units[index]:
            page.parts.extend(move(parts, (x / 10 + 8, y / 10 + 8) - boxes[index][0]))
            page.drawing_of.extend([drawing] * len(parts))
            drawing += 1
    return page


class Teacher:
    """Judges pairs of companies on one page as the truth is, or as learnt, and notes the signs with the truth."""

    def __init__(self, page: Page, learnt: Trees | None, chance: np.random.Generator) -> None:
        self._page, self._learnt, self._chance = page, learnt, chance
        self.signs: list[list[float]] = []
        self.truths: list[bool] = []
        sizes = [box_of([part]) for part in page.parts]
        self._weights = [float(np.prod(greatest - least + 0.1)) for least, greatest in sizes]

    def __call__(self, companies: Companies, pairs: Sequence[tuple[int, int]]) -> list[float]:
        """Judge pairs; see `grouping.Judge`."""
        rows = [signs(companies, a, b) for a, b in pairs]
        truths = [self._drawing(companies, a) == self._drawing(companies, b) for a, b in pairs]
        for row, truth in zip(rows, truths, strict=True):
            if self._chance.random() < KEPT:
                self.signs.append(row)
                self.truths.append(truth)
        if self._learnt is not None:
            chances: list[float] = self._learnt(np.array(rows)).tolist()
            return chances
        gaps = [companies.near[a][b].gap_mm for a, b in pairs]
        return [0.6 + 0.4 / (1 + gap) if truth else 0.0 for gap, truth in zip(gaps, truths, strict=True)]

    def _drawing(self, companies: Companies, lead: int) -> int:
        """Of which drawing most of a company is."""
        weights: dict[int, float] = {}
        for part in companies.members[lead].parts:
            drawing = self._page.drawing_of[part]
            weights[drawing] = weights.get(drawing, 0.0) + self._weights[part]
        return max(weights, key=lambda drawing: weights[drawing])


_begun: list[Any] = []


def _begin(sets: Sequence[Sequence[Parts]], learnt: Trees | None) -> None:
    _begun[:] = [sets, learnt]


def _teach(turn_and_number: tuple[int, int]) -> tuple[NDArray[np.float32], list[bool]]:
    """Judge one page; its signs and their truths."""
    sets, learnt = _begun
    chance = np.random.default_rng(turn_and_number)
    page = draw_page(sets, KINDS[turn_and_number[1] % len(KINDS)], chance)
    teacher = Teacher(page, learnt, chance)
    judge: Judge = teacher
    group_parts(page.outlines, page.inks, judge=judge)
    return np.array(teacher.signs, np.float32).reshape(-1, len(SIGNS)), teacher.truths


def learn(
    sets: Sequence[Sequence[Parts]], pages: int = PAGES, *, trees: int = TREES_GROWN, leaves: int = LEAVES
) -> dict[str, NDArray[np.float64]]:
    """Learn in rounds; the table of `likelihood.shipped`."""
    signs: list[NDArray[np.float32]] = []
    truths: list[bool] = []
    table: dict[str, NDArray[np.float64]] | None = None
    for turn in range(ROUNDS):
        learnt = Trees.of(table) if table is not None else None
        with multiprocessing.get_context("fork").Pool(initializer=_begin, initargs=(sets, learnt)) as pool:
            for found, told in pool.imap(_teach, [(turn, number) for number in range(pages)], chunksize=10):
                signs.append(found)
                truths += told
        grown = trees if turn == ROUNDS - 1 else trees // ROUGH
        table = fit(np.concatenate(signs), np.array(truths), grown, leaves)
        print(f"round {turn + 1}: {len(truths)} judgements")
    assert table is not None
    return table


def fit(
    signs: NDArray[np.float32], truths: NDArray[np.bool_], trees: int, leaves: int
) -> dict[str, NDArray[np.float64]]:
    """Boost trees, as tables."""
    model = HistGradientBoostingClassifier(
        max_iter=trees,
        learning_rate=0.08,
        max_features=0.5,
        max_leaf_nodes=leaves,
        l2_regularization=2,
        min_samples_leaf=40,
        random_state=1,
    ).fit(signs, truths)
    grown = [one[0].nodes for one in model._predictors]
    most = max(len(nodes) for nodes in grown)
    sign, child = np.zeros((len(grown), most), np.uint8), np.zeros((len(grown), most, 2), np.uint8)
    least, value = np.full((len(grown), most), np.inf, np.float32), np.zeros((len(grown), most), np.float32)
    for row, nodes in enumerate(grown):
        count = len(nodes)
        is_leaf = nodes["is_leaf"].astype(bool)
        own = np.arange(count)
        sign[row, :count] = np.where(is_leaf, 0, nodes["feature_idx"])
        least[row, :count] = np.where(is_leaf, np.inf, nodes["num_threshold"])
        child[row, :count, 0] = np.where(is_leaf, own, nodes["left"])
        child[row, :count, 1] = np.where(is_leaf, own, nodes["right"])
        value[row, :count] = np.where(is_leaf, nodes["value"], 0)
    start = np.float64(np.ravel(model._baseline_prediction)[0])
    return {"sign": sign, "least": least, "child": child, "value": value, "start": start}


def read_sets(folders: Sequence[Path]) -> Iterator[list[Parts]]:
    """Read folders of drawings; what cannot be drawn or has no ink is left out."""
    for folder in folders:
        drawings = []
        for path in sorted(folder.glob("*.svg")):
            try:
                parts = outline_parts(path.read_text(encoding="utf-8"))
            except ValueError:
                continue
            if parts:
                drawings.append(parts)
        print(f"{folder}: {len(drawings)} drawings, {sum(len(one) >= 4 for one in drawings)} of many parts")
        yield drawings


if __name__ == "__main__":
    words = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    words.add_argument("folders", nargs="+", type=Path)
    words.add_argument("-o", "--output", type=Path)
    words.add_argument("--pages", type=int, default=PAGES)
    words.add_argument("--trees", type=int, default=TREES_GROWN)
    words.add_argument("--leaves", type=int, default=LEAVES)
    asked = words.parse_args()
    target = asked.output or Path(__file__).parents[1] / "src/fair_thicket/intake" / TREES
    found = learn(list(read_sets(asked.folders)), asked.pages, trees=asked.trees, leaves=asked.leaves)
    with target.open("wb") as file:  # by its path NumPy would add to the name
        np.savez_compressed(file, **found)
    print(f"{target}: {len(found['sign'])} trees over {len(SIGNS)} signs, {target.stat().st_size} bytes")
