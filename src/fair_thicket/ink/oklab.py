"""Oklab of many colours at once: distances in it are about as the eye sees them, and cheap.

Notes
-----
B. Ottosson, A perceptual color space for image processing (2020): the matrices for linear sRGB.
"""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
TO_CONES.setflags(write=False)
TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
TO_LAB.setflags(write=False)


def to_oklab(levels: Floats) -> Floats:
    """Oklab of levels, sRGB 0..1; (..., 3) float32."""
    values = np.asarray(levels, np.float64)
    linear = np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)
    return np.asarray(np.cbrt(linear @ TO_CONES.T) @ TO_LAB.T, np.float32)


def from_oklab(lab: Floats) -> Floats:
    """Levels, sRGB 0..1, of Oklab; what lies beyond sRGB is clipped."""
    cones = (np.asarray(lab, np.float64) @ np.linalg.inv(TO_LAB).T) ** 3
    linear = np.clip(cones @ np.linalg.inv(TO_CONES).T, 0, 1)
    levels = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return np.asarray(np.clip(levels, 0, 1), np.float32)
