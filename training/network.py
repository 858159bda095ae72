"""The network: convolutions over frequency, dilated ones over time, a small recurrent layer.

After Cartwright and Bello ("Increasing drum transcription vocabulary using data synthesis", DAFx
2018), Vogl, Widmer and Knees ("Towards multi-instrument drum transcription", DAFx 2018) and, for
the dilated trunk that also tracks beats, Davies and Boeck ("Temporal convolutional networks for
musical audio beat tracking", EUSIPCO 2019). Input is (batch, frames, bands) of normalised log
magnitudes; the rise from frame to frame is computed inside.
"""

from __future__ import annotations

from dataclasses import dataclass

import torch
from torch import nn

from training.labels import CLASSES


@dataclass(frozen=True)
class Shape:
    """Sizes of a network."""

    bands: int = 83
    channels: tuple[int, int, int] = (20, 28, 40)
    trunk: int = 96
    recurrent: int = 64
    dilations: tuple[int, ...] = (1, 2, 4, 8, 16, 32)


class _Block(nn.Module):
    """A residual block: depthwise dilated convolution over time, then a mix of channels."""

    def __init__(self, width: int, dilation: int) -> None:
        super().__init__()
        self.norm = nn.BatchNorm1d(width)
        self.depth = nn.Conv1d(
            width, width, 5, padding=2 * dilation, dilation=dilation, groups=width
        )
        self.mix = nn.Conv1d(width, width, 1)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        return x + self.mix(torch.relu(self.depth(self.norm(x))))


class DrumNet(nn.Module):
    """Logits of onsets and loudness per class, and of beats and downbeats, per frame."""

    def __init__(self, shape: Shape | None = None) -> None:
        super().__init__()
        shape = shape or Shape()
        self.shape = shape
        layers: list[nn.Module] = []
        before, bands = 2, shape.bands
        for width in shape.channels:
            layers += [
                nn.Conv2d(before, width, 3, stride=(1, 2), padding=1),
                nn.BatchNorm2d(width),
                nn.ReLU(),
            ]
            before, bands = width, (bands + 1) // 2
        self.front = nn.Sequential(*layers)
        self.project = nn.Sequential(nn.Conv1d(before * bands, shape.trunk, 1), nn.ReLU())
        self.trunk = nn.Sequential(*[_Block(shape.trunk, dilation) for dilation in shape.dilations])
        self.recurrent = nn.GRU(shape.trunk, shape.recurrent, batch_first=True, bidirectional=True)
        self.head = nn.Linear(shape.trunk + 2 * shape.recurrent, 2 * len(CLASSES) + 2)

    def forward(self, features: torch.Tensor) -> torch.Tensor:
        """(batch, frames, bands) to (batch, frames, 2 * classes + 2)."""
        rise = torch.relu(features[:, 1:] - features[:, :-1])
        rise = torch.cat([torch.zeros_like(features[:, :1]), rise], dim=1)
        x = self.front(torch.stack([features, rise], dim=1))
        x = x.permute(0, 1, 3, 2).flatten(1, 2)
        x = self.trunk(self.project(x)).transpose(1, 2)
        recurrent, _ = self.recurrent(x)
        return self.head(torch.cat([x, recurrent], dim=2))
