"""Learns the detector of dust, hairs and scratches, and writes it as ONNX.

Needs torch and onnx, which the program does not. Learns on one core; another process invents the damage meanwhile.

Usage: learn.py OUT.onnx MINUTES [PICTURE…]
"""

from __future__ import annotations

import multiprocessing
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import cv2
import damage
import numpy as np
import torch
from torch import nn

sys.path.insert(0, str(Path(__file__).parents[2] / "src"))
from kyanoscript.core.mend.detect import told

SIDE, BATCH = 128, 10
FINE, COARSE = 8, 16  # planes at the picture's own size, and at half of it


class Detector(nn.Module):
    """Looks at 90 × 90 pixels around each: most of its work is done at half the size."""

    def __init__(self) -> None:
        super().__init__()
        self.fine = nn.Sequential(nn.Conv2d(3, FINE, 3, padding=1), nn.ReLU())
        self.down = nn.Sequential(nn.Conv2d(FINE, COARSE, 3, stride=2, padding=1), nn.ReLU())
        layers: list[nn.Module] = []
        for spread in (1, 2, 4, 8, 4, 1):
            layers += [nn.Conv2d(COARSE, COARSE, 3, padding=spread, dilation=spread), nn.ReLU()]
        self.body = nn.Sequential(*layers)
        self.up = nn.ConvTranspose2d(COARSE, FINE, 2, stride=2)
        self.last = nn.Sequential(nn.Conv2d(2 * FINE, FINE, 3, padding=1), nn.ReLU(), nn.Conv2d(FINE, 1, 1))

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        fine = self.fine(x)
        return self.last(torch.cat([fine, self.up(self.body(self.down(fine)))], 1))


def invented(seed: int, pictures: list[np.ndarray], out: multiprocessing.Queue) -> None:
    """Batches of damaged pictures and their damage, for ever."""
    cv2.setNumThreads(1)
    rng = np.random.default_rng(seed)
    while True:
        pairs = [damage.pair(rng, pictures, SIDE) for _ in range(BATCH)]
        out.put((np.stack([told(a) for a, _ in pairs]), np.stack([b for _, b in pairs])[:, None]))


def batches(seed: int, pictures: list[np.ndarray]) -> Iterator[tuple[torch.Tensor, torch.Tensor]]:
    """What the other process invents."""
    queue: multiprocessing.Queue = multiprocessing.Queue(8)
    multiprocessing.Process(target=invented, args=(seed, pictures, queue), daemon=True).start()
    while True:
        x, y = queue.get()
        yield torch.from_numpy(x), torch.from_numpy(y)


def main() -> None:
    """Learn for a while, then write."""
    target, minutes, files = Path(sys.argv[1]), float(sys.argv[2]), sys.argv[3:]
    pictures = [p.astype(np.float32) / 255 for f in files if (p := cv2.imread(f, cv2.IMREAD_GRAYSCALE)) is not None]
    torch.manual_seed(1)
    torch.set_num_threads(1)
    rng = np.random.default_rng(1)
    seed = 1
    net = Detector()
    if target.with_suffix(".pt").exists():  # go on where the last run ended
        net.load_state_dict(torch.load(target.with_suffix(".pt")))
        seed = int(time.time())
    pictures += [damage.leaves(rng, 900) for _ in range(60)]
    made = batches(seed, pictures)
    rate = torch.optim.AdamW(net.parameters(), 3e-3, weight_decay=1e-4)
    began, step, told_ = time.time(), 0, []
    end = began + minutes * 60
    while time.time() < end:
        share = (time.time() - began) / (end - began)
        for group in rate.param_groups:
            group["lr"] = 3e-3 * min(1.0, step / 50 + 0.02) * (1 - share) + 2e-5
        x, y = next(made)
        loss = nn.functional.binary_cross_entropy_with_logits(net(x), y, pos_weight=torch.tensor(4.0))
        rate.zero_grad()
        loss.backward()
        rate.step()
        told_.append(loss.item())
        step += 1
        if step % 200 == 0:
            print(f"{step} steps, loss {np.mean(told_[-200:]):.4f}", flush=True)
            torch.save(net.state_dict(), target.with_suffix(".pt"))
    torch.save(net.state_dict(), target.with_suffix(".pt"))
    net.eval()
    torch.onnx.export(
        net,
        (torch.zeros(1, 3, 256, 256),),
        str(target),
        input_names=["told"],
        output_names=["found"],
        dynamic_axes={"told": {2: "h", 3: "w"}, "found": {2: "h", 3: "w"}},
        dynamo=False,
    )


if __name__ == "__main__":
    main()
