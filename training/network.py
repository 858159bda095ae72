"""The network: convolutions over frequency, dilated ones over time, a small recurrent layer.

After Cartwright and Bello ("Increasing drum transcription vocabulary using data synthesis", DAFx
2018), Vogl, Widmer and Knees ("Towards multi-instrument drum transcription", DAFx 2018) and, for
the dilated trunk that also tracks beats, Davies and Boeck ("Temporal convolutional networks for
musical audio beat tracking", EUSIPCO 2019). Input is (batch, frames, bands) of normalised log
magnitudes; the rise from frame to frame is computed inside.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import torch
from torch import nn
from torch.nn import functional

from orchesis.listening.features import LOW_BANDS
from orchesis.music.instruments import Instrument as I
from training.labels import CLASSES, INDEX


@dataclass(frozen=True)
class Shape:
    """Sizes of a network.

    cell : "lstm", "gru" or "none", the recurrent layer.
    fold_bands, fold_frames : input bands or frames that are averaged into one; a coarser input
        resolution. Output is at the full frame rate in any case.
    masks : whether the network also says, per band, how much of the sound is drums.
    low_bands : so many further inputs, after the bands: the low end at a finer pitch
        (`features.low_spectrogram`).
    """

    bands: int = 83
    channels: tuple[int, int, int] = (20, 28, 40)
    trunk: int = 96
    recurrent: int = 64
    dilations: tuple[int, ...] = (1, 2, 4, 8, 16, 32)
    cell: str = "gru"
    fold_bands: int = 1
    fold_frames: int = 1
    masks: bool = False
    low_bands: int = 0


SHAPES: dict[str, Shape] = {
    "gru": Shape(),
    "lstm": Shape(cell="lstm"),
    "convolutions": Shape(cell="none", dilations=(1, 2, 4, 8, 16, 32, 64, 128)),
    "wide": Shape(cell="lstm", channels=(24, 36, 56), trunk=128, recurrent=96),
    "lstm-42-bands": Shape(cell="lstm", fold_bands=2),
    "lstm-20-ms": Shape(cell="lstm", fold_frames=2),
    "fine-low": Shape(
        cell="lstm",
        channels=(24, 36, 56),
        trunk=128,
        recurrent=96,
        masks=True,
        fold_bands=2,
        low_bands=LOW_BANDS,
    ),
    "ear": Shape(cell="lstm", channels=(24, 36, 56), trunk=128, recurrent=96, masks=True),
}
"""Those compared in docs/measurements.md, and the one that is shipped."""


LOW_CHANNELS = (8, 12)
LOW_RISE_FRAMES = 8


def with_rise(features: torch.Tensor, frames: int) -> torch.Tensor:
    """Levels and their rise within so many frames as an image, (batch, 2, frames, bands)."""
    rise = torch.relu(features[:, frames:] - features[:, :-frames])
    rise = torch.cat([torch.zeros_like(features[:, :frames]), rise], dim=1)
    # Channels last: the convolutions take two thirds of the time on a processor.
    return torch.stack([features, rise], dim=1).contiguous(memory_format=torch.channels_last)


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
    """Logits of onsets and loudness per class, of beats and downbeats, and of masks, per frame."""

    def __init__(self, shape: Shape | None = None) -> None:
        super().__init__()
        shape = shape or Shape()
        self.shape = shape
        layers: list[nn.Module] = []
        before, bands = 2, -(-shape.bands // shape.fold_bands)
        for width in shape.channels:
            layers += [
                nn.Conv2d(before, width, 3, stride=(1, 2), padding=1),
                nn.BatchNorm2d(width),
                nn.ReLU(),
            ]
            before, bands = width, (bands + 1) // 2
        self.front = nn.Sequential(*layers)
        inputs = before * bands
        if shape.low_bands:
            layers, before, bands = [], 2, shape.low_bands
            for width in LOW_CHANNELS:
                layers += [
                    nn.Conv2d(before, width, 3, stride=(1, 2), padding=1),
                    nn.BatchNorm2d(width),
                    nn.ReLU(),
                ]
                before, bands = width, (bands + 1) // 2
            self.low_front = nn.Sequential(*layers)
            inputs += before * bands
        self.project = nn.Sequential(nn.Conv1d(inputs, shape.trunk, 1), nn.ReLU())
        self.trunk = nn.Sequential(*[_Block(shape.trunk, dilation) for dilation in shape.dilations])
        width = shape.trunk
        if shape.cell != "none":
            kind = nn.LSTM if shape.cell == "lstm" else nn.GRU
            self.recurrent = kind(
                shape.trunk, shape.recurrent, batch_first=True, bidirectional=True
            )
            width += 2 * shape.recurrent
        self.head = nn.Linear(width, 2 * len(CLASSES) + 2)
        if shape.masks:
            self.mask_head = nn.Linear(width, shape.bands)

    def forward(self, features: torch.Tensor) -> torch.Tensor:
        """(batch, frames, bands + low_bands) to (batch, frames, 2 * classes + 2 [+ bands])."""
        shape, frames = self.shape, features.shape[1]
        last = shape.bands + shape.low_bands
        features, low = features[..., : shape.bands], features[..., shape.bands : last]
        if shape.fold_bands > 1:
            features = functional.avg_pool1d(features, shape.fold_bands, ceil_mode=True)
        if shape.fold_frames > 1:
            features = functional.avg_pool1d(
                features.transpose(1, 2), shape.fold_frames, ceil_mode=True
            ).transpose(1, 2)
        x = self.front(with_rise(features, 1)).permute(0, 1, 3, 2).flatten(1, 2)
        if shape.low_bands:
            # A long window smears an attack: the rise is taken over a longer time too.
            ground = self.low_front(with_rise(low, LOW_RISE_FRAMES))
            x = torch.cat([x, ground.permute(0, 1, 3, 2).flatten(1, 2)], dim=1)
        x = self.trunk(self.project(x)).transpose(1, 2)
        if shape.cell != "none":
            recurrent, _ = self.recurrent(x)
            x = torch.cat([x, recurrent], dim=2)
        out = self.head(x)
        if shape.masks:
            out = torch.cat([out, self.mask_head(x)], dim=2)
        if shape.fold_frames > 1:
            out = out.repeat_interleave(shape.fold_frames, dim=1)[:, :frames]
        return out


def shifted(features: torch.Tensor, bands: int, by: int) -> torch.Tensor:
    """All inputs so many semitones up; what leaves at one end comes back at the other.

    Of (..., bands + low bands), both parts on their own.
    """
    parts = (features[..., :bands], features[..., bands:])
    return torch.cat([torch.roll(part, by, dims=-1) for part in parts if part.shape[-1]], dim=-1)


class Together(nn.Module):
    """Several networks as one: the mean of what each says, in log odds.

    Networks that were trained apart err apart (Hansen and Salamon, "Neural network ensembles",
    IEEE PAMI 1990); log odds, so that one that is sure outweighs one that is not. Each also hears
    the song a semitone up and down, since a kit tuned so plays the same strokes (test-time
    augmentation; Krizhevsky et al., NIPS 2012), but for those that hear it once. Beats and masks
    are of the song as it is, and beats are those of the last network alone, or of one that has no
    say in strokes: bar lines need longer training than strokes, and a mean of two opinions of where
    the one is helps neither (docs/measurements.md). Which tom it was is for those to say that hear
    the low end in long windows: the others know the toms of the kits that they have heard, but not
    pitches.
    """

    def __init__(
        self,
        networks: Sequence[DrumNet],
        shifts: Sequence[int] = (),
        once: Sequence[DrumNet] = (),
        beats: DrumNet | None = None,
    ) -> None:
        super().__init__()
        self.networks = nn.ModuleList(networks)
        self.once = nn.ModuleList(once)
        self.beats = beats
        self.shifts = tuple(shifts)
        self.inputs = max(net.shape.bands + net.shape.low_bands for net in (*networks, *once))

    def forward(self, features: torch.Tensor) -> torch.Tensor:
        """(1, frames, inputs) as the widest takes them; the others take the first ones."""
        bands = self.networks[0].shape.bands
        heard = torch.cat([features, *(shifted(features, bands, by) for by in self.shifts)])
        said = [net(heard) for net in self.networks] + [net(features) for net in self.once]
        plain = torch.stack([one[:1] for one in said]).mean(dim=0)
        each = torch.stack([one.mean(dim=0) for one in said])
        strokes = self.with_toms_named(each, each.mean(dim=0))[None]
        first = 2 * len(CLASSES)
        last = first + 2
        counted = said[-1][:1] if self.beats is None else self.beats(features)
        return torch.cat(
            [strokes[..., :first], counted[..., first:last], plain[..., last:]], dim=-1
        )

    def with_toms_named(self, each: torch.Tensor, mean: torch.Tensor) -> torch.Tensor:
        """The mean of what each network says, toms named by those that hear the low end.

        each : (networks, frames, outputs), log odds. mean : (frames, outputs).
        How likely some tom was struck is everybody's mean, of the log of the sum of their odds.
        """
        toms = slice(INDEX[I.TOM_HIGH], INDEX[I.TOM_FLOOR] + 1)
        some = torch.logsumexp(each[..., toms], dim=-1, keepdim=True)
        low = [k for k, net in enumerate([*self.networks, *self.once]) if net.shape.low_bands]
        if not low:
            return mean
        name = (each[low][..., toms] - some[low]).mean(dim=0)
        # The mean of several splits is none: its odds are made to sum to one again.
        name = name - torch.logsumexp(name, dim=-1, keepdim=True)
        named = some.mean(dim=0) + name
        return torch.cat([mean[..., : toms.start], named, mean[..., toms.stop :]], dim=-1)
