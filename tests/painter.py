"""An independent painter: pictures a card from its documented card.json, pixel by pixel, by other means than ours.

It shares no geometry with the program: points are tested in each piece's own coordinates (scikit-image's point in
polygon, or a formula), margins come from a distance transform (SciPy), and the order is worked out from the document.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt
from skimage.measure import points_in_poly

Mask = NDArray[np.bool_]
Doc = dict[str, Any]
PX = 6.0
"""Pixels per mm."""
FRONTS = {"a2": (107.95, 139.7), "slimline": (88.9, 215.9), "5x7": (127.0, 177.8), "square6": (152.4, 152.4)}
PLAIN = {"die shape", "border die", "backdrop die", "stencil"}
GLUED = {"cutout", "panel", "strip", "border", "embellishment"}


class Painter:
    """Paints one card; `picture` and `seen` (mm2 by piece id) are the outcome."""

    def __init__(self, document: Doc) -> None:
        self.card: Doc = document["card"]
        self.stamps = {stamp["id"]: stamp for stamp in document["stash"]["stamps"]}
        upright = FRONTS[self.card["format"]]
        width, height = upright[::-1] if self.card["landscape"] else upright
        self.rows, self.columns = round(height * PX), round(width * PX)
        y, x = np.mgrid[0 : self.rows, 0 : self.columns]
        self.x, self.y = (x + 0.5) / PX, (y + 0.5) / PX
        self.pieces = {piece["id"]: piece for piece in self.card["pieces"]}
        self.masks: dict[str, Mask] = {}
        self.picture, self.top = self._paint()
        self.seen = {key: self._count(key) for key in self.pieces}

    # -- shapes --------------------------------------------------------------------------------------------------

    def _own(self, piece: Doc) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Every pixel in the piece's own coordinates."""
        turn = math.radians(piece.get("angle_deg", 0.0))
        away_x, away_y = self.x - piece["x"], self.y - piece["y"]
        return (
            away_x * math.cos(turn) + away_y * math.sin(turn),
            -away_x * math.sin(turn) + away_y * math.cos(turn),
        )

    @staticmethod
    def _inside(x: NDArray[np.float64], y: NDArray[np.float64], ring: Any) -> Mask:
        ring = np.asarray(ring, float)
        near = (x >= ring[:, 0].min()) & (x <= ring[:, 0].max()) & (y >= ring[:, 1].min()) & (y <= ring[:, 1].max())
        made = np.zeros(x.shape, bool)
        made[near] = points_in_poly(np.stack([x[near], y[near]], axis=1), ring)
        return made

    @staticmethod
    def _form(x: NDArray[np.float64], y: NDArray[np.float64], form: Doc) -> Mask:
        half_x, half_y = form["width_mm"] / 2, form["height_mm"] / 2
        if form["kind"] == "ellipse":
            return np.asarray((x / half_x) ** 2 + (y / half_y) ** 2 <= 1)
        corner = form.get("corner_mm", 0.0)
        beyond_x = np.maximum(np.abs(x) - half_x + corner, 0)
        beyond_y = np.maximum(np.abs(y) - half_y + corner, 0)
        within = (np.abs(x) <= half_x) & (np.abs(y) <= half_y)
        return np.asarray(within & ((beyond_x**2 + beyond_y**2 <= corner**2) | (corner == 0)))

    def shape(self, piece: Doc) -> Mask:
        x, y = self._own(piece)
        kind = piece["type"]
        if piece.get("flipped"):
            x = -x
        if kind in {"impression", "cutout"}:
            return self._image(piece, x, y)
        if kind == "panel":
            made = self._form(x, y, piece["form"])
            for window in piece.get("windows", ()):
                made &= ~self._form(x - window.get("x", 0.0), y - window.get("y", 0.0), window["form"])
            return made
        if kind == "blend":
            return self._form(x, y, piece["form"])
        if kind == "strip":
            return self._strip(piece, x, y)
        if kind == "border":
            die = self.stamps[piece["stamp"]]
            along = (x + piece["length_mm"] / 2 + piece.get("start_mm", 0.0)) % die["width_mm"] - die["width_mm"] / 2
            return self._inside(along, y, die["outline"]) & (np.abs(x) <= piece["length_mm"] / 2)
        made = np.zeros(x.shape, bool)
        for spot_x, spot_y in piece.get("spots", [[0.0, 0.0]]):
            made |= (x - spot_x) ** 2 + (y - spot_y) ** 2 <= (piece["size_mm"] / 2) ** 2
        return made

    def _image(self, piece: Doc, x: NDArray[np.float64], y: NDArray[np.float64]) -> Mask:
        stamp = self.stamps[piece["stamp"]]
        is_plain = stamp["kind"] in PLAIN
        if piece["type"] == "impression":
            made = self._inside(x, y, stamp["outline"])
            return made & self._inside(x, y, piece["inked"]) if piece.get("inked") else made
        if piece.get("opening") is not None:
            return self._inside(x, y, stamp["pockets"][piece["opening"]])
        made = self._inside(x, y, stamp["outline"])
        if is_plain:
            for pocket in stamp["pockets"]:
                made &= ~self._inside(x, y, pocket)
        for part in piece.get("joined", ()):
            turn = math.radians(part.get("angle_deg", 0.0))
            dx, dy = x - part["x"], y - part["y"]
            own = dx * math.cos(turn) + dy * math.sin(turn), -dx * math.sin(turn) + dy * math.cos(turn)
            made |= self._inside(*own, self.stamps[part["stamp"]]["outline"])
        margin = piece.get("margin_mm")
        margin = (stamp["die_margin_mm"] or 0.0) if margin is None else margin
        return made | (distance_transform_edt(~made) <= margin * PX) if margin else made

    @staticmethod
    def _strip(piece: Doc, x: NDArray[np.float64], y: NDArray[np.float64]) -> Mask:
        half_x, half_y, high = piece["width_mm"] / 2, piece["height_mm"] / 2, piece["height_mm"]
        made = (np.abs(x) <= half_x) & (np.abs(y) <= half_y)
        notch = min(half_x, half_y)
        for end, side in (("left", -1), ("right", 1)):
            how = piece.get(end, "straight")
            out = side * x
            if how == "fishtail":
                made &= out <= half_x - notch * (1 - np.abs(y) / half_y)
            elif how == "tag":
                made &= (out - half_x) + (np.abs(y) - half_y) <= -0.55 * notch
                made &= np.hypot(out - (half_x - notch), y) > min(2.0, half_y / 3)
            elif how == "folded":
                down = y - 0.3 * high
                tail = (np.abs(down) <= half_y) & (out >= half_x - 0.6 * high) & (out <= half_x + 0.9 * high)
                made |= tail & (out <= half_x + 0.9 * high - 0.4 * high * (1 - np.abs(down) / half_y))
        return np.asarray(made)

    # -- order and paint -----------------------------------------------------------------------------------------

    def _leaves(self) -> list[tuple[str, Doc, Mask]]:
        order = list(self.pieces)
        parent = {key: piece.get("on", "") for key, piece in self.pieces.items()}

        def carries(key: str, other: str) -> bool:
            while other:
                other = parent[other]
                if other == key:
                    return True
            return False

        leaves: list[tuple[float, str, Doc, Mask]] = []
        for at, (key, piece) in enumerate(self.pieces.items()):
            mask = self.shape(piece)
            x, y = self._own(piece)
            region = self._trim(piece)
            if region is not None:
                mask &= region
            flaps = [flap for flap in piece.get("flaps", ()) if flap["past"] in self.pieces]
            for number, flap in enumerate(flaps):
                part = mask & self._inside(x, y, flap["ring"])
                mask = mask & ~part
                past = order.index(flap["past"])
                if flap["side"] == "over":
                    past = max([past, *(k for k, other in enumerate(order) if carries(flap["past"], other))])
                    height = past + 0.5 + number * 0.001 + at * 0.00001
                else:
                    height = past - 0.5 + number * 0.001 + at * 0.00001
                leaves.append((height, key, piece, part))
            if piece["type"] in {"impression", "blend"} and piece.get("on"):
                mask &= self.masks[piece["on"]]
            self.masks[key] = mask
            leaves.append((float(at), key, piece, mask))
        return [(key, piece, mask) for _, key, piece, mask in sorted(leaves, key=lambda leaf: leaf[0])]

    def _trim(self, piece: Doc) -> Mask | None:
        to = piece.get("trim_to", "")
        if not to or to == "card":
            return None  # nothing beyond the card is pictured
        other = self.pieces[to]
        whole = dict(other)
        windows = whole.pop("windows", ())
        stamp = self.stamps.get(other.get("stamp", ""))
        pockets = stamp["pockets"] if stamp and stamp["kind"] in PLAIN else ()
        x, y = self._own(other)
        opening = np.zeros(x.shape, bool)
        for window in windows:
            opening |= self._form(x - window.get("x", 0.0), y - window.get("y", 0.0), window["form"])
        for pocket in pockets:
            opening |= self._inside(x, y, pocket)
        if to != piece.get("on") and opening.any():
            return opening
        return self.shape(other) | opening

    def _paint(self) -> tuple[NDArray[np.float64], NDArray[np.object_]]:
        canvas = np.ones((self.rows, self.columns, 3)) * _rgb(self.card.get("paper", "#ffffff"))
        ground = canvas.copy()
        top = np.full((self.rows, self.columns), "", object)
        for key, piece, mask in self._leaves():
            colour = piece.get("colour")
            if piece["type"] == "blend":
                canvas[mask] = _mixed(canvas[mask], _rgb(colour))
                ground[mask] = _mixed(ground[mask], _rgb(colour))
                continue
            if piece["type"] == "impression":
                under = self.pieces.get(piece.get("on", ""), {}).get("colour") if piece.get("on") else None
                base = _rgb(under or "#ffffff") if piece.get("on") else _rgb(self.card.get("paper", "#ffffff"))
                canvas[mask] = ground[mask] if colour is None else _mixed(base, _rgb(colour))
            elif piece.get("translucent"):
                canvas[mask] = 0.45 * canvas[mask] + 0.55 * _rgb(colour or "#ffffff")
                ground[mask] = canvas[mask]
                continue
            else:
                canvas[mask] = _rgb(colour or "#ffffff")
                ground[mask] = canvas[mask]
                if piece["type"] == "strip":  # of a folded tail the paper's back is seen, darker
                    x, y = self._own(piece)
                    front = (np.abs(x) <= piece["width_mm"] / 2) & (np.abs(y) <= piece["height_mm"] / 2)
                    canvas[mask & ~front] *= 0.82
            top[mask] = key
        return canvas, top

    def _count(self, key: str) -> float:
        return float((self.top == key).sum()) / PX**2


def _mixed(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """Ink over ink or paper: K/S = (1 - R)^2 / 2R of linear light adds up (Kubelka and Munk)."""

    def absorbed(level: NDArray[np.float64]) -> NDArray[np.float64]:
        light = np.where(level <= 0.04045, level / 12.92, ((level + 0.055) / 1.055) ** 2.4)
        return (1 - light) ** 2 / (2 * np.maximum(light, 1e-5))

    k = absorbed(one) + absorbed(other)
    light = 1 + k - np.sqrt(k * k + 2 * k)
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)


def _rgb(colour: str) -> NDArray[np.float64]:
    return np.array([int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)])
