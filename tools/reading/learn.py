"""Learns what colours places of a gray picture are likely to have, and writes the weights as NPZ. Needs torch.

Usage: learn.py OUT.npz MINUTES PICTURE…
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

import cv2
import numpy as np
import torch
from torch import nn

sys.path.insert(0, str(Path(__file__).parents[2] / "src"))
from kyanoscript.core import colour
from kyanoscript.core.tint.reading import told

HIDDEN = 48
PLACES = 3000  # of each picture


def small(path: str) -> np.ndarray:
    """A picture of 1/16 MP, encoded ``(3, h, w)``."""
    pixels = cv2.imread(path)[..., 2::-1]
    scale = min(1.0, (62_500 / (pixels.shape[0] * pixels.shape[1])) ** 0.5)
    pixels = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return np.moveaxis(pixels, -1, 0).astype(np.float64) / 255


def examples(path: str, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """What is told of some places of a picture, as other films and prints would show it, and their chroma."""
    planes = small(path)
    if rng.random() < 0.5:
        planes = planes[:, :, ::-1]
    height, width = planes.shape[1:]
    if rng.random() < 0.6:  # a part of it
        share = rng.uniform(0.6, 1)
        h, w = int(height * share), int(width * share)
        y, x = rng.integers(height - h + 1), rng.integers(width - w + 1)
        planes = planes[:, y : y + h, x : x + w]
    lab = colour.to_oklab(planes)
    if rng.random() < 0.5:  # an emulsion that sees colours otherwise
        weights = rng.dirichlet((4, 8, 4))
        light = np.cbrt(np.tensordot(weights, colour.to_light(planes), 1)) * 100
    else:
        light = lab[0] * 100
    light = 100 * (light / 100) ** rng.uniform(0.75, 1.3)
    low, high = rng.uniform(0, 18), rng.uniform(82, 100)
    light = low + light * (high - low) / 100
    if rng.random() < 0.4:
        light = light + rng.normal(0, rng.uniform(0.3, 2.5), light.shape)
    numbers = told(light.astype(np.float32))
    chroma = np.stack([cv2.GaussianBlur(p, (0, 0), 1.5) for p in lab[1:]], axis=-1)
    chosen = rng.choice(numbers.shape[0] * numbers.shape[1], PLACES)
    return numbers.reshape(-1, numbers.shape[-1])[chosen], chroma.reshape(-1, 2)[chosen] * 10


def main() -> None:
    """Learn for a while, then write."""
    target, minutes, files = Path(sys.argv[1]), float(sys.argv[2]), sys.argv[3:]
    rng = np.random.default_rng(1)
    torch.manual_seed(1)
    pool = [examples(f, rng) for f in files for _ in range(12)]
    x = torch.from_numpy(np.concatenate([a for a, _ in pool]).astype(np.float32))
    y = torch.from_numpy(np.concatenate([b for _, b in pool]).astype(np.float32))
    print(x.shape, flush=True)
    mean, spread = x.mean(0), x.std(0) + 1e-3
    x = ((x - mean) / spread).clamp(-4, 4)
    net = nn.Sequential(
        nn.Linear(x.shape[1], HIDDEN), nn.ReLU(), nn.Dropout(0.15),
        nn.Linear(HIDDEN, HIDDEN), nn.ReLU(), nn.Linear(HIDDEN, 3),
    )  # fmt: skip
    rate = torch.optim.AdamW(net.parameters(), 2e-3, weight_decay=3e-2)
    began, step, lost = time.time(), 0, []
    while time.time() - began < minutes * 60:
        rate.param_groups[0]["lr"] = 2e-3 * (1 - (time.time() - began) / minutes / 60) + 1e-5
        batch = torch.randint(len(x), (8192,))
        out = net(x[batch] + 0.1 * torch.randn(8192, x.shape[1]))
        # A Laplace distribution round the chroma, as wide as the network says it is unsure.
        far = (out[:, :2] - y[batch]).square().sum(1).add(1e-3).sqrt()
        off = out[:, 2].clamp(-4, 4)
        loss = (far / off.exp() + 2 * off).mean()
        rate.zero_grad()
        loss.backward()
        rate.step()
        lost.append(loss.item())
        step += 1
        if step % 500 == 0:
            print(step, np.mean(lost[-500:]), flush=True)
    layers = [m for m in net if isinstance(m, nn.Linear)]
    weights = {"mean": mean.numpy(), "spread": spread.numpy()}
    for k, layer in enumerate(layers, 1):
        weights[f"w{k}"] = layer.weight.detach().numpy().T
        weights[f"b{k}"] = layer.bias.detach().numpy()
    kept = {n: v.astype(np.float16 if n[0] == "w" else np.float32) for n, v in weights.items()}
    np.savez_compressed(target, **kept)


if __name__ == "__main__":
    main()
