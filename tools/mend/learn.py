"""Learns the detector of dust, hairs and scratches, and writes it as ONNX.

Needs torch and onnx, which the program does not.

Usage: learn.py OUT.onnx MINUTES [PICTURE…]
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

import cv2
import damage
import numpy as np
import torch
from torch import nn

sys.path.insert(0, str(Path(__file__).parents[2] / "src"))
from kyanoscript.core.mend.detect import told

SIDE, BATCH = 128, 12
CHANNELS = 16


class Detector(nn.Module):
    """Looks at 39 × 39 pixels around each."""

    def __init__(self) -> None:
        super().__init__()
        layers: list[nn.Module] = []
        before = 3
        for spread in (1, 1, 2, 4, 6, 4, 1):
            layers += [nn.Conv2d(before, CHANNELS, 3, padding=spread, dilation=spread), nn.ReLU()]
            before = CHANNELS
        self.body = nn.Sequential(*layers, nn.Conv2d(CHANNELS, 1, 1))

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        return self.body(x)


def main() -> None:
    """Learn for a while, then write."""
    target, minutes, files = Path(sys.argv[1]), float(sys.argv[2]), sys.argv[3:]
    pictures = [p.astype(np.float32) / 255 for f in files if (p := cv2.imread(f, cv2.IMREAD_GRAYSCALE)) is not None]
    torch.manual_seed(1)
    rng = np.random.default_rng(1)
    net = Detector()
    if target.with_suffix(".pt").exists():  # go on where the last run ended
        net.load_state_dict(torch.load(target.with_suffix(".pt")))
        rng = np.random.default_rng(int(time.time()))
    pictures += [damage.leaves(rng, 900) for _ in range(60)]
    rate = torch.optim.AdamW(net.parameters(), 3e-3, weight_decay=1e-4)
    began, step, told_ = time.time(), 0, []
    end = began + minutes * 60
    while time.time() < end:
        share = (time.time() - began) / (end - began)
        for group in rate.param_groups:
            group["lr"] = 3e-3 * min(1.0, step / 50 + 0.02) * (1 - share) + 2e-5
        pairs = [damage.pair(rng, pictures, SIDE) for _ in range(BATCH)]
        x = torch.from_numpy(np.stack([told(a) for a, _ in pairs]))
        y = torch.from_numpy(np.stack([b for _, b in pairs]))[:, None]
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
