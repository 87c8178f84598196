"""The voice mask for training, in torch, and its weights to and from the file that the application reads.

Layers, names and sizes are those of the latest version in `wedge_turn.core.centre.voice.network`; each convolution is
normalised while it is taught (batch normalisation, Ioffe and Szegedy, ICML 2015), which is folded into its weights on
the way out.
"""

from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path
from typing import Final

import numpy as np
import torch
from torch import Tensor, nn

from wedge_turn.core.centre.voice.bands import BANDS, FRACTION, LINES, LOWER
from wedge_turn.core.centre.voice.features import OF_A_BAND, OF_A_LINE
from wedge_turn.core.centre.voice.network import LATEST, LEVELS, RESIDUALS

CHANNELS: Final = (16, 24, 32, 48)
FEW: Final = 6  # channels in which bands meet
WHOLE: Final = 64
HIDDEN: Final = 16
DILATIONS: Final = tuple(2**n for n in range(RESIDUALS[LATEST]))
# Lines that are spread from bands together: a full matrix of all of them would be mostly zeros.
_STRIPES: Final = (0, 32, 64, 96, 128, 192, 256, 384, 512, 768, LINES)


class Normed(nn.Module):
    """A convolution or a mix of channels, normalised."""

    def __init__(self, into: int, out: int, tall: int, wide: int, *, step: int = 1, dilation: int = 1) -> None:
        super().__init__()
        padding = (dilation * (tall // 2), wide // 2)
        self.linear = nn.Conv2d(into, out, (tall, wide), (1, step), padding, (dilation, 1), bias=False)
        self.norm = nn.BatchNorm2d(out)

    def forward(self, x: Tensor) -> Tensor:
        if self.linear.kernel_size == (1, 1):  # quicker as a product of matrices
            mixed = x.permute(0, 2, 3, 1) @ self.linear.weight[:, :, 0, 0].T
            return self.norm(mixed.permute(0, 3, 1, 2))
        return self.norm(self.linear(x))


class Mix(nn.Linear):
    """A mix of channels, (batch, n, frames, bands) to (batch, m, frames, bands)."""

    def forward(self, x: Tensor) -> Tensor:
        return super().forward(x.permute(0, 2, 3, 1)).permute(0, 3, 1, 2)


class VoiceNetwork(nn.Module):
    def __init__(self) -> None:
        super().__init__()
        c, last = CHANNELS, CHANNELS[-1]
        bands = BANDS >> LEVELS
        parts: dict[str, nn.Module] = {"enter": Normed(OF_A_BAND, c[0], 3, 5)}
        for n in range(LEVELS):
            parts[f"down{n}"] = Normed(c[n], c[n + 1], 3, 5, step=2)
            parts[f"lift{n}"] = Mix(c[n + 1], c[n])
            parts[f"smooth{n}"] = Normed(c[n], c[n], 1, 5)
        for n, dilation in enumerate(DILATIONS):
            parts[f"near{n}"] = Normed(last, last, 3, 3, dilation=dilation)
            parts[f"back{n}"] = Normed(last, last, 1, 1)
            if n < len(DILATIONS) - 1:
                parts[f"narrow{n}"] = Normed(last, FEW, 1, 1)
                parts[f"whole{n}"] = nn.Linear(FEW * bands, WHOLE)
                parts[f"apart{n}"] = nn.Linear(WHOLE, FEW * bands)
                parts[f"widen{n}"] = Mix(FEW, last)
        parts["context"] = nn.Linear(c[0], 1 + HIDDEN)
        parts["line0"] = nn.Linear(OF_A_LINE, HIDDEN, bias=False)
        parts["line1"] = nn.Linear(HIDDEN, HIDDEN)
        parts["line2"] = nn.Linear(HIDDEN, 1)
        self.parts = nn.ModuleDict(parts)
        spread = torch.zeros(LINES, BANDS)
        spread[np.arange(LINES), LOWER] += torch.from_numpy(1 - FRACTION)
        spread[np.arange(LINES), LOWER + 1] += torch.from_numpy(FRACTION)
        self._stripes = [
            (int(LOWER[a]), int(LOWER[b - 1]) + 2, spread[a:b, int(LOWER[a]) : int(LOWER[b - 1]) + 2].contiguous())
            for a, b in pairwise(_STRIPES)
        ]
        # What is added to a residual begins as nothing, so that a longer network goes on from a shorter one's weights.
        for name, part in self.parts.items():
            if name.startswith("back"):
                nn.init.zeros_(part.norm.weight)
            elif name.startswith("widen"):
                nn.init.zeros_(part.weight)
                nn.init.zeros_(part.bias)
        nn.init.normal_(self.parts["line2"].weight, std=0.05)
        nn.init.zeros_(self.parts["line2"].bias)

    def forward(self, of_bands: Tensor, of_lines: Tensor) -> Tensor:
        """Logits, (batch, frames, lines), of the features of a `Batch`."""
        part = self.parts
        x = torch.relu(part["enter"](of_bands))
        levels = []
        for n in range(LEVELS):
            levels.append(x)
            x = torch.relu(part[f"down{n}"](x))
        for n in range(len(DILATIONS)):
            x = torch.relu(x + part[f"back{n}"](torch.relu(part[f"near{n}"](x))))
            if n < len(DILATIONS) - 1:
                x = x + self._across(x, n)
        for n in reversed(range(LEVELS)):
            lifted = nn.functional.interpolate(part[f"lift{n}"](x), scale_factor=(1, 2), mode="nearest")
            x = torch.relu(part[f"smooth{n}"](torch.relu(lifted + levels[n])))
        context = part["context"](x.permute(0, 2, 3, 1))
        spread = torch.cat([torch.matmul(stripe, context[:, :, a:b]) for a, b, stripe in self._stripes], 2)
        hidden = torch.relu(part["line0"](of_lines) + spread[..., 1:])
        hidden = torch.relu(part["line1"](hidden))
        return (part["line2"](hidden) + spread[..., :1])[..., 0]

    def _across(self, x: Tensor, n: int) -> Tensor:
        few = torch.relu(self.parts[f"narrow{n}"](x)).permute(0, 2, 3, 1)
        whole = torch.relu(self.parts[f"whole{n}"](few.flatten(2)))
        spread = torch.relu(self.parts[f"apart{n}"](whole)).view(few.shape)
        return self.parts[f"widen{n}"](spread.permute(0, 3, 1, 2))


def save(network: VoiceNetwork, file: Path) -> int:
    """Write the weights, norms folded in, as 16-bit floats; returns how many there are."""
    stored: dict[str, np.ndarray] = {}
    for name, part in network.parts.items():
        if isinstance(part, Normed):
            scale = part.norm.weight / torch.sqrt(part.norm.running_var + part.norm.eps)
            weights = (part.linear.weight * scale[:, None, None, None]).permute(2, 3, 1, 0)
            bias = part.norm.bias - part.norm.running_mean * scale
            if part.linear.kernel_size == (1, 1):
                weights = weights[0, 0]
        else:
            weights, bias = part.weight.T, part.bias
        stored[f"{name}.weights"] = weights.detach().numpy().astype(np.float16)
        if bias is not None:
            stored[f"{name}.bias"] = bias.detach().numpy().astype(np.float16)
    np.savez(file, **stored)  # type: ignore[arg-type]  # the stubs take any name for `allow_pickle`
    return sum(array.size for array in stored.values())


def load(network: VoiceNetwork, file: Path, seen: Iterator[tuple[Tensor, Tensor]], batches: int = 12) -> None:
    """Go on from a file of a network as large or smaller: norms are set to what `seen`, batches of features, gives
    behind the folded weights. Channels and parts that the file lacks begin by chance, and weigh nothing in what the
    others say (Net2Net, Chen, Goodfellow and Shlens, ICLR 2016).
    """
    with np.load(file) as stored:
        arrays = {name: torch.from_numpy(stored[name].astype(np.float32)) for name in stored.files}
    known = {name: part for name, part in network.parts.items() if f"{name}.weights" in arrays}
    normed = {name: part for name, part in known.items() if isinstance(part, Normed)}
    with torch.no_grad():
        for name, part in known.items():
            weights = arrays[f"{name}.weights"]
            out = weights.shape[-1]
            if isinstance(part, Normed):
                weights = weights[None, None] if weights.ndim == 2 else weights
                _enter(part.linear.weight, weights.permute(3, 2, 0, 1))
                part.norm.running_mean[:out] = -arrays[f"{name}.bias"]
                part.norm.running_var.fill_(1 - part.norm.eps)
                part.norm.weight[:out] = 1
                part.norm.bias.zero_()
            else:
                _enter(part.weight, weights.T)
                if part.bias is not None:
                    part.bias[:out] = arrays[f"{name}.bias"]
    sums: dict[str, list[Tensor]] = {}

    def measure(name: str, part: Normed, out: Tensor) -> None:
        # What comes before the norm: its output less the bias that it stands for now.
        plain = out + part.norm.running_mean[None, :, None, None]
        sums.setdefault(name, []).append(torch.stack([plain.mean((0, 2, 3)), (plain**2).mean((0, 2, 3))]))

    hooks = [
        part.register_forward_hook(lambda part, _, out, name=name: measure(name, part, out))
        for name, part in normed.items()
    ]
    network.eval()
    with torch.no_grad():
        for _ in range(batches):
            network(*next(seen))
        for hook in hooks:
            hook.remove()
        for name, moments in sums.items():
            norm, (mean, square) = network.parts[name].norm, torch.stack(moments).mean(0)
            out = len(arrays[f"{name}.bias"])
            bias = -norm.running_mean[:out].clone()
            variance = (square - mean**2).clamp_min(1e-8)
            norm.running_mean.copy_(mean)
            norm.running_var.copy_(variance)
            norm.weight[:out] = torch.sqrt(variance[:out] + norm.eps)
            norm.bias[:out] = mean[:out] + bias


def _enter(weight: Tensor, stored: Tensor) -> None:
    """Stored weights, (out, in, …), into a tensor as large or larger; what is new weighs nothing in what was there."""
    out, into = stored.shape[:2]
    weight[:out] = 0
    weight[:out, :into] = stored
