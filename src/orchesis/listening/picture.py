"""A picture of the sound around a bar: how strong each band is, hundredth by hundredth."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.audio.decode import SAMPLE_RATE
from orchesis.audio.programs import ProgramFailed, input_options, run_limited
from orchesis.errors import OrchesisError
from orchesis.listening.features import HOP, band_spectrogram

RANGE_DB = 66.0
MOST_SECONDS = 40.0
MARGIN = 0.1
TIMEOUT = 20.0


def sound_picture(path: Path, start: float, end: float) -> npt.NDArray[np.uint8]:
    """The sound of a stretch, as a picture.

    Parameters
    ----------
    path : the recording.
    start, end : seconds.

    Returns
    -------
    Shape (bands, frames) from low to high, 0 silent to 255 the loudest of the stretch; a frame is
    a hundredth of a second.

    Raises
    ------
    OrchesisError
        For a file that cannot be read.
    """
    length = min(MOST_SECONDS, max(0.1, end - start))
    before = min(MARGIN, max(0.0, start))
    seek = ["-ss", f"{max(0.0, start) - before:.4f}", "-t", f"{length + before + MARGIN:.4f}"]
    command = ["ffmpeg", "-v", "error", "-nostdin", "-threads", "1", *seek, *input_options(path)]
    command += ["-ac", "1", "-ar", str(SAMPLE_RATE), "-f", "f32le", "-c:a", "pcm_f32le", "pipe:1"]
    most = int(4 * SAMPLE_RATE * (MOST_SECONDS + 1))
    try:
        raw = run_limited(command, most_bytes=most, timeout=TIMEOUT)
    except ProgramFailed as error:
        raise OrchesisError("the sound of this bar cannot be read") from error
    samples = np.frombuffer(raw[: len(raw) // 4 * 4], dtype="<f4").astype(np.float32, copy=False)
    level = 20 * np.log10(band_spectrogram(samples, SAMPLE_RATE, lambda share: None).T + 1e-7)
    first = round(before * SAMPLE_RATE / HOP)
    level = level[:, first : first + max(1, round(length * SAMPLE_RATE / HOP))]
    shade = 1 + (level - level.max()) / RANGE_DB
    picture: npt.NDArray[np.uint8] = np.round(255 * np.clip(shade, 0, 1)).astype(np.uint8)
    return picture
