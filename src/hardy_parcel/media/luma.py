"""The luma of decoded pictures as arrays, whatever their pixel format, without touching their levels."""

from __future__ import annotations

from typing import Any

import av
import numpy as np
from av.video.reformatter import ColorRange


def rows_of(plane: Any) -> np.ndarray:
    """The bytes of a plane as its lines, padding included."""
    return np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)


def whole_luma(frame: av.VideoFrame) -> np.ndarray:
    """Rows × columns of uint8 in the picture's own levels; deeper formats lose their last bits."""
    if not _eight_bit_planar(frame.format):
        frame = _reformatted(frame, frame.width, frame.height, "POINT")
    return rows_of(frame.planes[0])[: frame.height, : frame.width]


def small_luma(frame: av.VideoFrame, width: int, height: int) -> np.ndarray:
    """Luma averaged down to `height` rows × `width` columns, uint8."""
    small = _reformatted(frame, width, height, "AREA")
    return rows_of(small.planes[0])[:height, :width].copy()


def small_planes(frame: av.VideoFrame, width: int, height: int) -> np.ndarray:
    """Luma and both chromas averaged down to `height` rows × `width` columns each, 3 × rows × columns of uint8."""
    return _reformatted(frame, width, height, "AREA", "yuv444p").to_ndarray()


def _eight_bit_planar(form: av.VideoFormat) -> bool:
    return form.is_planar and not form.is_rgb and len(form.components) >= 1 and form.components[0].bits == 8


def _reformatted(frame: av.VideoFrame, width: int, height: int, interpolation: str, form: str = "yuv420p") -> av.VideoFrame:
    """As 8-bit 4:2:0, or another format. The same range is given for both sides, since the scaler would otherwise stretch the levels."""
    return frame.reformat(
        width=width, height=height, format=form, interpolation=interpolation,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.MPEG,
    )
