"""Cuts views out of panoramas of light (OpenEXR) and prints them as a film would. Needs OpenEXR.

Usage: panoramas.py OUT_FOLDER PANORAMA.exr…
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
import OpenEXR

VIEWS = 8
WIDE, HIGH, ACROSS = 256, 192, np.radians(85)


def light_of(path: str) -> np.ndarray:
    """Light ``(h, w, 3)`` of a panorama."""
    channels = OpenEXR.File(path).channels()
    found = channels.get("RGB") or channels.get("RGBA")
    light = found.pixels[..., :3] if found else np.stack([channels[c].pixels for c in "RGB"], -1)
    return np.clip(np.nan_to_num(light.astype(np.float32), posinf=60), 0, 60)


def view(light: np.ndarray, turn: float, up: float) -> np.ndarray:
    """One view, encoded ``(HIGH, WIDE, 3)``."""
    height, width = light.shape[:2]
    half = np.tan(ACROSS / 2) / (WIDE / 2)
    x, y = np.meshgrid((np.arange(WIDE) - WIDE / 2 + 0.5) * half, (np.arange(HIGH) - HIGH / 2 + 0.5) * half)
    way = np.stack([x, -y, np.ones_like(x)], -1) / np.sqrt(x * x + y * y + 1)[..., None]
    down = way[..., 1] * np.cos(up) + way[..., 2] * np.sin(up)
    ahead = -way[..., 1] * np.sin(up) + way[..., 2] * np.cos(up)
    across = (np.arctan2(way[..., 0], ahead) + turn) / (2 * np.pi) % 1
    u, v = across * width - 0.5, (0.5 - np.arcsin(down) / np.pi) * height - 0.5
    seen = cv2.remap(light, u.astype(np.float32), v.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)
    bright = seen @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    seen *= min(0.42 / max(float(np.median(bright)), 1e-4), 0.95 / max(float(np.percentile(bright, 75)), 1e-4))
    bright = np.maximum(seen @ np.array([0.2126, 0.7152, 0.0722], np.float32), 1e-5)
    rolled = np.where(bright < 0.5, bright, 1 - 0.5 * np.exp(-np.maximum(bright - 0.5, 0) / 0.5))
    seen = np.clip(seen * (rolled / bright)[..., None], 0, 1)
    return np.where(seen <= 0.0031308, 12.92 * seen, 1.055 * np.maximum(seen, 1e-6) ** (1 / 2.4) - 0.055)


def main() -> None:
    """Write the views."""
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for path in sys.argv[2:]:
        light = light_of(path)
        for k in range(VIEWS):
            made = view(light, 2 * np.pi * k / VIEWS, (0.05, 0.18, -0.12)[k % 3])
            cv2.imwrite(str(folder / f"{Path(path).stem}_{k}.png"), np.rint(made[..., ::-1] * 255).astype(np.uint8))


if __name__ == "__main__":
    main()
