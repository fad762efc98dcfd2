"""Films that tests make: each frame says its own number, in stripes that no codec blurs."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

import av
import numpy as np

if TYPE_CHECKING:
    from pathlib import Path

BITS = 12


def make_film(
    path: Path,
    frames: int = 100,
    *,
    rate: int = 25,
    size: tuple[int, int] = (192, 108),
    codec: str = "libx264",
    pauses: dict[int, int] | None = None,
    first: int = 0,
) -> Path:
    """Write a film; ``pauses`` are frames after which so many more are left out, ``first`` where its clock begins."""
    pauses = pauses or {}
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=rate)
        stream.width, stream.height = size
        stream.pix_fmt = "yuvj420p" if codec == "mjpeg" else "yuv420p"
        stream.gop_size = 12
        late = first
        for k in range(frames):
            frame = av.VideoFrame.from_ndarray(_picture(k, size), format="rgb24")
            frame.pts, frame.time_base = k + late, Fraction(1, rate)
            out.mux(stream.encode(frame))
            late += pauses.get(k, 0)
        out.mux(stream.encode(None))
    return path


def _picture(number: int, size: tuple[int, int]) -> np.ndarray:
    width, height = size
    bits = np.array([number >> k & 1 for k in range(BITS)])
    row = np.repeat(bits, width // BITS) * 255
    return np.broadcast_to(row[None, :, None], (height, len(row), 3)).astype(np.uint8).copy()


def number_in(pixels: np.ndarray) -> int:
    """The number that a frame says."""
    height, width = pixels.shape[:2]
    at = (np.arange(BITS) + 0.5) * width / BITS
    bits = pixels[height // 2, at.astype(int), 1] > 127
    return int((bits * (1 << np.arange(BITS))).sum())
