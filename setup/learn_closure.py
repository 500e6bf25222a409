"""Learn what paper lines hold, gaps closed as an eye closes them: writes intake/closure.zip.

Needed only to learn longer or from other drawings, or when what the network sees has changed (`intake/closure.see`).
Beside this project's own environment it needs torch 2.13 and onnx 1.23, and a folder with the npm packages named below,
unpacked, each as NAME.json (its file icons.json):

    python setup/learn_closure.py FOLDER [--steps 4000] [--from CLOSURE.zip]

With 16-bit matrix units 1000 steps take 7 minutes on two processors. What ships was learnt in 1,100 steps without
OpenMoji and without drawings that run to an edge, and in 4,000 more with them.

Learnt from are drawings that tell their bodies themselves. Of two kinds: sets that draw dark lines and colour under
them, where lines are the ink and all that is coloured is the body; and flat coloured pictures, whose shapes are drawn
round with lines of chance widths and gaps, one hiding the other as they do. From npm, @iconify-json/*, by licence:
CC BY-SA 4.0: openmoji 1.2.29. CC BY 4.0: streamline-emojis 1.2.4, streamline-color 1.2.2, and of the same family
-plump-color, -flex-color and -sharp-color 1.2.2; twemoji 1.2.5. MIT: fluent-emoji-flat 1.2.6. Apache 2.0: noto 1.2.9,
fxemoji 1.2.2. It is proven on others: see `bench/silhouettes.py`.
"""

import argparse
import io
import json
import random
import re
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple
from xml.etree import ElementTree as ET

import cv2
import numpy as np
import onnx
import resvg_py
import torch
from defusedxml.ElementTree import fromstring
from numpy.typing import NDArray
from onnx import TensorProto, helper, numpy_helper
from PIL import Image
from torch import nn
from torch.nn import functional

from fair_thicket.intake import closure
from fair_thicket.intake.closure import SIDE, see

PX = 288
LINED = {"openmoji": 0.03, "streamline-emojis": 0.3}
"""Sets with lines: strokes and shapes darker than this are ink (relative luminance by eye, 0..1)."""
STROKED = ("streamline-color", "streamline-plump-color", "streamline-flex-color", "streamline-sharp-color")
"""Sets all of whose strokes are ink."""
FLAT = ("twemoji", "fluent-emoji-flat", "noto", "fxemoji")
UNWANTED = re.compile(r"-flat$|-duo$|-tone|flag-|logo|remix$|solid$|skin-tone|clock|keycap|arrow|symbol|letter|squared")
WIDTHS = (8, 16, 32, 48, 64, 64)
"""Channels of the network, from the finest scale to the coarsest."""
BATCH, HIGHEST_RATE = 32, 2e-3
OUT = Path(closure.__file__).with_name(closure.MODEL)
Dots = NDArray[np.uint8]


class Drawing(NamedTuple):
    """Ink and body of a drawing, (288, 288) uint8, 0..255."""

    ink: Dots
    body: Dots


# -- drawings -----------------------------------------------------------------------------------------------------


def darkness(colour: str) -> float:
    """Return how light a colour of an SVG is, 0..1; light for what is no plain colour."""
    words = {"currentcolor": "#000", "black": "#000", "white": "#fff"}.get(colour.lower(), colour.lower())
    found = re.fullmatch(r"#([0-9a-f]{3}|[0-9a-f]{6})", words)
    if not found:
        return 1.0
    code = found[1] if len(found[1]) == 6 else "".join(sign * 2 for sign in found[1])
    red, green, blue = (int(code[at : at + 2], 16) / 255 for at in (0, 2, 4))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def shapes_of(node: ET.Element, given: dict[str, str]) -> Iterator[tuple[ET.Element, ET.Element, dict[str, str]]]:
    """Yield every shape with what holds it and the paint it inherits."""
    for child in list(node):
        tag = child.tag.rpartition("}")[2]
        if tag in {"defs", "mask", "clipPath", "linearGradient", "radialGradient"}:
            continue
        paint = given | {key: child.attrib[key] for key in ("fill", "stroke", "stroke-width") if key in child.attrib}
        paint["opacity"] = child.attrib.get("opacity", given.get("opacity", "1"))
        if tag == "g" or len(child):
            yield from shapes_of(child, paint)
        else:
            yield node, child, paint


def draw_lined(root: ET.Element, darkest: float, width: float) -> None:
    """Leave of a drawing only its lines, black, hidden by what lies over them."""
    for holder, shape, paint in list(shapes_of(root, {})):
        if float(paint["opacity"]) < 0.3:
            holder.remove(shape)
            continue
        fill, stroke = paint.get("fill", "#000"), paint.get("stroke", "none")
        if fill != "none":
            shape.set("fill", "#000" if darkness(fill) <= min(darkest, 0.3) else "#fff")
        if stroke != "none":
            shape.set("stroke", "#000" if darkness(stroke) <= darkest else "#fff")
            shape.set("stroke-width", str(float(paint.get("stroke-width", "1")) * width))


def draw_flat(root: ET.Element, side: float, chance: random.Random) -> None:
    """Draw a flat picture's shapes round with a line, some with gaps; the darkest stay ink."""
    width, has_gaps = chance.uniform(0.012, 0.028) * side, chance.random() > 0.35
    for holder, shape, paint in list(shapes_of(root, {})):
        fill = paint.get("fill", "#000")
        if float(paint["opacity"]) < 0.5:
            holder.remove(shape)
            continue
        if fill == "none":
            continue
        for key in [key for key in shape.attrib if "opacity" in key]:
            del shape.attrib[key]
        if darkness(fill) < 0.06 and chance.random() < 0.8:
            shape.set("fill", "#000")
            continue
        shape.attrib |= {"fill": "#fff", "stroke": "#000", "stroke-width": f"{width:.3f}", "stroke-linecap": "round",
                         "stroke-linejoin": "round"}  # fmt: skip
        if has_gaps and chance.random() < 0.6:
            runs = [(chance.uniform(0.15, 1.4) * side, chance.uniform(0.02, 0.12) * side)
                    for _ in range(chance.randint(1, 3))]  # fmt: skip
            shape.set("stroke-dasharray", " ".join(f"{value:.3f}" for run in runs for value in run))
            shape.set("stroke-dashoffset", f"{chance.uniform(0, side):.2f}")


def render(root: ET.Element, width: float, height: float) -> NDArray[np.uint8]:
    """Draw an SVG's shapes on nothing, (rows, columns, 4) uint8."""
    inner = "".join(ET.tostring(child, encoding="unicode") for child in root)
    text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}">{inner}</svg>'
    png = resvg_py.svg_to_bytes(svg_string=text, width=PX)
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))


def read_set(folder: Path, name: str, chance: random.Random) -> Iterator[Drawing]:
    """Yield the drawings of a set."""
    icons = json.loads((folder / f"{name}.json").read_text())
    width = float(icons.get("width", 16))
    height = float(icons.get("height", width))
    for key in icons["icons"]:
        if UNWANTED.search(key):
            continue
        text = f'<svg xmlns="http://www.w3.org/2000/svg">{icons["icons"][key]["body"]}</svg>'
        try:
            lines, coloured = fromstring(text), fromstring(text)
            for holder, shape, paint in list(shapes_of(coloured, {})):
                if float(paint["opacity"]) < 0.3:
                    holder.remove(shape)
            if name in FLAT:
                draw_flat(lines, max(width, height), chance)
            else:
                draw_lined(lines, 1.0 if name in STROKED else LINED[name], chance.uniform(0.55, 1.1))
            drawn, seen = render(lines, width, height), render(coloured, width, height)
        except (ET.ParseError, ValueError):
            continue
        if drawn.shape[:2] != (PX, PX):
            continue
        ink = np.rint(drawn[..., 3] * (1 - drawn[..., 0] / 255)).astype(np.uint8)
        body = without_inkless(ink, np.where(seen[..., 3] > 60, np.maximum(seen[..., 3], ink), ink), 0.02)
        inked, whole = int((ink > 127).sum()), int((body > 127).sum())
        if inked >= 150 and whole >= 200 and (inked < 0.75 * whole or chance.random() < 0.2):
            yield Drawing(ink, body)


def without_inkless(ink: Dots, body: Dots, least: float) -> Dots:
    """Leave out parts of a body that hardly any ink belongs to."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((body > 127).astype(np.uint8), connectivity=8)
    inked = np.bincount(labels.ravel(), weights=ink.ravel() > 127, minlength=count)
    bare = [number for number in range(1, count) if inked[number] < least * stats[number, cv2.CC_STAT_AREA]]
    return np.where(np.isin(labels, bare), 0, body).astype(np.uint8) if bare else body.astype(np.uint8)


# -- what is done to them -----------------------------------------------------------------------------------------


def turn(drawing: Drawing, chance: random.Random) -> Drawing:
    """Turn a drawing, mirror and stretch it a little, draw it thinner or thicker."""
    angle = np.radians(chance.choice([0, 0, chance.uniform(-180, 180), chance.uniform(-25, 25)]))
    wide, side = chance.uniform(0.85, 1.18), int(PX * 1.3)
    way = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    way = way @ np.diag([wide * chance.choice([1, -1]), 1 / wide]) * chance.uniform(0.85, 1.1)
    shift = side / 2 - way @ np.full(2, PX / 2)
    matrix = np.hstack([way, shift[:, None]]).astype(np.float32)
    ink, body = (cv2.warpAffine(plane, matrix, (side, side)) for plane in drawing)
    weight = chance.random()
    if weight < 0.25:
        ink = cv2.erode(ink, np.ones((2, 2), np.uint8))
    elif weight < 0.4:
        ink = cv2.dilate(ink, np.ones((2, 2), np.uint8))
    return Drawing(np.asarray(ink, np.uint8), np.asarray(body, np.uint8))


def cut_off(drawing: Drawing, chance: random.Random) -> Drawing:
    """Let a drawing run to an edge where no line is, as busts and hills do."""
    turns = chance.choice([0, 0, 0, 1, 2, 3])
    ink, body = (np.rot90(plane, turns).copy() for plane in drawing)
    rows = np.flatnonzero((ink > 127).any(axis=1))
    if len(rows):
        edge = int(rows[0] + chance.uniform(0.55, 0.97) * (rows[-1] - rows[0]))
        ink[edge:], body[edge:] = 0, 0
        body = without_inkless(ink, body, 0.04)
    return Drawing(np.rot90(ink, -turns).copy(), np.rot90(body, -turns).copy())


def rub_out(ink: Dots, chance: random.Random) -> None:
    """Rub lines out in a few places, in place."""
    spots = np.argwhere(ink > 127)
    if not len(spots):
        return
    long = max(np.ptp(spots[:, 0]), np.ptp(spots[:, 1])) + 1
    for _ in range(chance.randint(1, 6)):
        row, column = spots[chance.randrange(len(spots))]
        share = chance.uniform(0.05, 0.12) if chance.random() < 0.12 else chance.uniform(0.008, 0.055)
        cv2.circle(ink, (int(column), int(row)), max(1, int(share * long)), 0, -1)


def sample(drawing: Drawing, chance: random.Random) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """Return what the network sees of a drawing, changed by chance, and what it is to answer."""
    drawing = turn(drawing, chance)
    if chance.random() < 0.22:
        drawing = cut_off(drawing, chance)
    if chance.random() < 0.6:
        rub_out(drawing.ink, chance)
    ink = drawing.ink
    if chance.random() < 0.15:  # a blotchy print
        dice = np.random.default_rng(chance.randrange(1 << 30))
        specks = np.kron(dice.random((ink.shape[0] // 3 + 1,) * 2) > 0.06, np.ones((3, 3)))
        ink = np.where(specks[: ink.shape[0], : ink.shape[1]] > 0, ink, 0).astype(np.uint8)
    rows, columns = np.nonzero(ink > 100)
    if len(rows) < 80:
        return None
    top, left = int(rows.min()), int(columns.min())
    cut = ink[top : rows.max() + 1, left : columns.max() + 1].astype(np.float32) / 255
    planes, placed = see(cut)
    to_cut = np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1]], np.float64)
    soft = cv2.GaussianBlur(drawing.body, (0, 0), 1.0)
    body = cv2.warpAffine(soft, (placed @ to_cut)[:2].astype(np.float32), (SIDE, SIDE))
    return planes, body.astype(np.float32) / 255


class Samples(torch.utils.data.IterableDataset[tuple[torch.Tensor, torch.Tensor]]):
    """Endless samples of some drawings."""

    def __init__(self, drawings: list[Drawing]) -> None:
        self._drawings = drawings

    def __iter__(self) -> Iterator[tuple[torch.Tensor, torch.Tensor]]:
        chance = random.Random(time.time())  # noqa: S311 - drawings are no secrets
        while True:
            made = sample(chance.choice(self._drawings), chance)
            if made is not None:
                yield torch.from_numpy(made[0]), torch.from_numpy(made[1])[None]


# -- the network --------------------------------------------------------------------------------------------------


class Network(nn.Module):
    """Down by halves, up again with what was seen on the way (O. Ronneberger and others, U-Net, MICCAI 2015)."""

    def __init__(self) -> None:
        super().__init__()

        def pair(given: int, wide: int) -> nn.Sequential:
            return nn.Sequential(nn.Conv2d(given, wide, 3, padding=1), nn.ReLU(), nn.Conv2d(wide, wide, 3, padding=1),
                                 nn.ReLU())  # fmt: skip

        self.down = nn.ModuleList(pair(given, wide) for given, wide in zip((3, *WIDTHS), WIDTHS, strict=False))
        self.up = nn.ModuleList(pair(WIDTHS[k] + WIDTHS[k - 1], WIDTHS[k - 1]) for k in range(len(WIDTHS) - 1, 0, -1))
        self.out = nn.Conv2d(WIDTHS[0], 1, 1)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        kept = []
        for level, step in enumerate(self.down):
            x = step(functional.max_pool2d(x, 2) if level else x)
            kept.append(x)
        for level, step in enumerate(self.up):
            x = step(torch.cat([functional.interpolate(x, scale_factor=2, mode="nearest"), kept[-2 - level]], 1))
        return torch.as_tensor(self.out(x))


def loss_of(answer: torch.Tensor, planes: torch.Tensor, body: torch.Tensor) -> torch.Tensor:
    """Return cross entropy and lost overlap, of bare paper above all: ink is body anyway."""
    weight = (1 - planes[:, :1]).clamp(0, 1) * 0.95 + 0.05
    entropy = functional.binary_cross_entropy_with_logits(answer, body, reduction="none")
    likely, true = torch.sigmoid(answer) * weight, body * weight
    both, either = (likely * true).sum((1, 2, 3)), (likely + true - likely * true).sum((1, 2, 3))
    return (entropy * weight).mean() + 0.3 * (1 - (both + 1) / (either + 1)).mean()


def learn(network: Network, drawings: list[Drawing], steps: int) -> None:
    """Learn for so many steps, slower and slower."""
    source = torch.utils.data.DataLoader(Samples(drawings), batch_size=BATCH, num_workers=1, prefetch_factor=8)
    network.to(memory_format=torch.channels_last)  # type: ignore[call-overload]
    optimiser = torch.optim.AdamW(network.parameters(), HIGHEST_RATE, weight_decay=1e-4)
    for step, (planes, body) in zip(range(steps), source, strict=False):
        for group in optimiser.param_groups:
            group["lr"] = HIGHEST_RATE * min(1, (step + 1) / 200) * (0.5 * (1 + np.cos(np.pi * step / steps)) + 0.01)
        with torch.autocast("cpu", dtype=torch.bfloat16):
            answer = network(planes.to(memory_format=torch.channels_last))
        loss = loss_of(answer.float(), planes, body)
        optimiser.zero_grad()
        loss.backward()  # type: ignore[no-untyped-call]
        nn.utils.clip_grad_norm_(network.parameters(), 1.0)
        optimiser.step()
        if step % 100 == 99:
            print(f"{step + 1} of {steps}: {loss.item():.3f}", flush=True)


def write(network: Network, path: Path) -> None:
    """Write the network as ONNX, which OpenCV reads, packed."""
    nodes: list[Any] = []
    known = [numpy_helper.from_array(np.array([1, 1, 2, 2], np.float32), "twice"),
             numpy_helper.from_array(np.array([], np.float32), "none")]  # fmt: skip

    def add(kind: str, inputs: list[str], **fields: Any) -> str:
        nodes.append(helper.make_node(kind, inputs, [f"t{len(nodes)}"], **fields))
        return str(nodes[-1].output[0])

    def convolve(given: str, layer: nn.Conv2d, *, bends: bool = True) -> str:
        names = [f"w{len(known)}", f"b{len(known)}"]
        for name, value in zip(names, (layer.weight, layer.bias), strict=True):
            assert value is not None
            known.append(numpy_helper.from_array(value.detach().float().contiguous().numpy(), name))
        size = layer.kernel_size[0]
        made = add("Conv", [given, *names], kernel_shape=[size, size], pads=[size // 2] * 4)
        return add("Relu", [made]) if bends else made

    x, kept = "x", []
    for level, step in enumerate(network.down):
        x = add("MaxPool", [x], kernel_shape=[2, 2], strides=[2, 2]) if level else x
        x = convolve(convolve(x, step[0]), step[2])  # type: ignore[index]
        kept.append(x)
    for level, step in enumerate(network.up):
        x = add("Resize", [x, "none", "twice"], mode="nearest", coordinate_transformation_mode="asymmetric",
                nearest_mode="floor")  # fmt: skip
        x = add("Concat", [x, kept[-2 - level]], axis=1)
        x = convolve(convolve(x, step[0]), step[2])  # type: ignore[index]
    x = convolve(x, network.out, bends=False)
    nodes.append(helper.make_node("Sigmoid", [x], ["y"]))
    sides = [1, 3, SIDE, SIDE]
    graph = helper.make_graph(
        nodes,
        "closure",
        [helper.make_tensor_value_info("x", TensorProto.FLOAT, sides)],
        [helper.make_tensor_value_info("y", TensorProto.FLOAT, [1, 1, SIDE, SIDE])],
        known,
    )
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 13)])
    model.ir_version = 8
    onnx.checker.check_model(model)
    about = zipfile.ZipInfo("closure.onnx", (2026, 1, 1, 0, 0, 0))  # the same bytes of the same network
    about.compress_type = zipfile.ZIP_DEFLATED
    with zipfile.ZipFile(path, "w") as packed:
        packed.writestr(about, model.SerializeToString())


def read(network: Network, path: Path) -> None:
    """Take up what was learnt before, as it was written."""
    with zipfile.ZipFile(path) as packed:
        model = onnx.load_model_from_string(packed.read(packed.namelist()[0]))
    known = {one.name: numpy_helper.to_array(one) for one in model.graph.initializer}
    values = [known[name] for node in model.graph.node if node.op_type == "Conv" for name in node.input[1:]]
    with torch.no_grad():
        for own, value in zip(network.parameters(), values, strict=True):
            own.copy_(torch.from_numpy(value.copy()))


def main() -> None:
    """Read the sets, learn, and write what was learnt."""
    words = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    words.add_argument("folder", type=Path)
    words.add_argument("--steps", type=int, default=4000)
    words.add_argument("--from", dest="weights", type=Path)
    words.add_argument("--out", type=Path, default=OUT)
    options = words.parse_args()
    torch.set_num_threads(1)
    network = Network()
    if options.weights:
        read(network, options.weights)
    drawings = []
    for name in (*LINED, *STROKED, *FLAT):
        found = list(read_set(options.folder, name, random.Random(name)))  # noqa: S311
        print(f"{name}: {len(found)} drawings", flush=True)
        drawings += found
    learn(network, drawings, options.steps)
    write(network, options.out)


if __name__ == "__main__":
    main()
