"""True peak per ITU-R BS.1770-5, Annex 2: the largest value between the samples, by four-fold oversampling."""

from __future__ import annotations

import numpy as np

PHASES = np.array([
    [0.0017089843750, 0.0109863281250, -0.0196533203125, 0.0332031250000, -0.0594482421875, 0.1373291015625,
     0.9721679687500, -0.1022949218750, 0.0476074218750, -0.0266113281250, 0.0148925781250, -0.0083007812500],
    [-0.0291748046875, 0.0292968750000, -0.0517578125000, 0.0891113281250, -0.1665039062500, 0.4650878906250,
     0.7797851562500, -0.2003173828125, 0.1015625000000, -0.0582275390625, 0.0330810546875, -0.0189208984375],
])
"""Filter taps of phases 0 and 1 (table in Annex 2); phases 3 and 2 are the same ones reversed."""
TAPS = np.concatenate([PHASES, PHASES[::-1, ::-1]])
CANDIDATES = 3000
NEAR = 0.7
"""Between samples a signal rises hardly more than 3 dB above the larger of its neighbours, so only loud places are
oversampled: samples above 0.7 of the block's peak so far."""


class PeakMeter:
    """Takes blocks of channels × samples (full scale ±1) and keeps the true peak, linear, of all and of the last block.

    Silence gives 0.
    """

    def __init__(self, channels: int) -> None:
        self.peak = self.last = 0.0
        self._tail = np.zeros((channels, TAPS.shape[1] - 1), np.float32)

    def hear(self, block: np.ndarray) -> None:
        """Take the next block."""
        joined = np.concatenate([self._tail, block], axis=1)
        self._tail = joined[:, -self._tail.shape[1] :]
        self.last = max(float(joined.max(initial=0.0)), -float(joined.min(initial=0.0)))
        for channel in joined:
            top = max(float(channel.max(initial=0.0)), -float(channel.min(initial=0.0)))
            if top < NEAR * self.last or top == 0:
                continue
            loud = np.abs(channel)
            places = np.flatnonzero(loud[: len(loud) - TAPS.shape[1] + 1 + 6] > NEAR * self.last)
            if len(places) > CANDIDATES:
                places = places[np.argpartition(loud[places], -CANDIDATES)[-CANDIDATES:]]
            # A candidate sample is looked at in the middle of the filter, and one place earlier and later.
            starts = np.unique(np.concatenate([places - 7, places - 6, places - 5, places - 4]))
            starts = starts[(starts >= 0) & (starts + TAPS.shape[1] <= len(channel))]
            if len(starts):
                windows = channel[starts[:, None] + np.arange(TAPS.shape[1])]
                self.last = max(self.last, float(np.abs(windows @ TAPS.T).max()))
        self.peak = max(self.peak, self.last)
