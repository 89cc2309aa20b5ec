"""Invented damage on invented or free pictures, to learn from what dust, hairs, scratches and folds look like.

Nothing here looks at the demo scans, which the detector is judged on.
"""

from __future__ import annotations

import cv2
import numpy as np


def leaves(rng: np.random.Generator, side: int) -> np.ndarray:
    """A picture of overlapping shapes of all sizes: it has edges and textures as photographs have."""
    out = np.full((side, side), rng.uniform(0.2, 0.8), np.float32)
    smallest = rng.uniform(1.2, 6)
    for _ in range(rng.integers(150, 900) * side // 160 * side // 160):
        size = min(smallest / rng.uniform(0.02, 1) ** rng.uniform(0.6, 1.0), side)
        at = rng.uniform(-10, side + 10, 2)
        shade = float(np.clip(rng.normal(0.5, 0.22), 0.02, 0.98))
        kind = rng.integers(4)
        if kind == 0:
            cv2.circle(out, tuple(int(v) for v in at), max(1, int(size / 2)), shade, -1, cv2.LINE_AA)
        elif kind == 1:
            axes = (max(1, int(size / 2)), max(1, int(size * rng.uniform(0.08, 0.5))))
            cv2.ellipse(out, tuple(int(v) for v in at), axes, rng.uniform(0, 180), 0, 360, shade, -1, cv2.LINE_AA)
        elif kind == 2:
            box = cv2.boxPoints((tuple(at), (size, size * rng.uniform(0.1, 1)), rng.uniform(0, 180)))
            cv2.fillConvexPoly(out, box.astype(np.int32), shade, cv2.LINE_AA)
        elif rng.random() < 0.3:  # stripes and blades, that are no scratches
            n, gap = rng.integers(3, 12), rng.uniform(4, 16)
            turn = rng.uniform(0, np.pi)
            for k in range(n):
                start = at + k * gap * np.array([-np.sin(turn), np.cos(turn)])
                end = start + size * np.array([np.cos(turn), np.sin(turn)])
                points = [tuple(int(v) for v in p) for p in (start, end)]
                cv2.line(out, *points, shade, int(rng.integers(1, 4)), cv2.LINE_AA)
    return cv2.GaussianBlur(out, (0, 0), rng.uniform(0.5, 1.6))


def aged(rng: np.random.Generator, gray: np.ndarray) -> np.ndarray:
    """Softened, faded, grainy."""
    soft = rng.uniform(0.2, 2.0)
    g = cv2.GaussianBlur(gray, (0, 0), soft)
    g = g * rng.uniform(0.7, 1) + rng.uniform(0, 0.3) * cv2.GaussianBlur(g, (0, 0), rng.uniform(6, 14))
    low, high = rng.uniform(0.03, 0.3), rng.uniform(0.7, 0.97)
    g = low + (high - low) * np.clip(g, 0, 1) ** rng.uniform(0.7, 1.4)
    grain = cv2.GaussianBlur(rng.standard_normal(g.shape).astype(np.float32), (0, 0), rng.uniform(0.5, 1.8))
    wide = cv2.GaussianBlur(rng.standard_normal(g.shape).astype(np.float32), (0, 0), rng.uniform(2, 5))
    return g + rng.uniform(0.003, 0.032) * grain / grain.std() + rng.uniform(0, 0.014) * wide / wide.std()


def damaged(rng: np.random.Generator, clean: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The picture with damage, and how strong the damage is at every place, 0…1."""
    h, w = clean.shape
    light, dark, lines = (np.zeros((h, w), np.float32) for _ in range(3))
    for _ in range(rng.integers(0, max(2, h * w // 1500))):
        radius = min(rng.gamma(1.2, 1.2), 9)
        at = (int(rng.random() * w), int(rng.random() * h))
        where = light if rng.random() < 0.65 else dark
        if rng.random() < 0.8:
            cv2.circle(where, at, max(1, int(radius)), float(rng.uniform(0.2, 1)), -1, cv2.LINE_AA)
        else:
            axes = (max(1, int(radius * 2)), max(1, int(radius * 0.7)))
            cv2.ellipse(where, at, axes, rng.uniform(0, 180), 0, 360, float(rng.uniform(0.2, 1)), -1, cv2.LINE_AA)
    for _ in range(rng.integers(0, 4)):  # hairs
        t = np.linspace(0, 1, 30)
        turn = rng.uniform(0, 6.28) + rng.normal(0, 1.6) * t + rng.normal(0, 0.9) * np.sin(rng.uniform(3, 8) * t)
        way = np.cumsum(np.stack([np.cos(turn), np.sin(turn)], -1), 0) * rng.uniform(15, 130) / 30
        points = (rng.random(2) * (w, h) + way).astype(np.int32)
        where = light if rng.random() < 0.55 else dark
        width = 1 if rng.random() < 0.75 else 2
        cv2.polylines(where, [points], False, float(rng.uniform(0.3, 0.9)), width, cv2.LINE_AA)
    for _ in range(rng.integers(0, 5)):  # scratches, often broken
        turn = rng.normal(np.pi / 2, 0.2) if rng.random() < 0.6 else rng.uniform(0, np.pi)
        length, count = min(rng.gamma(1.2, 110), 700), 60
        t = np.linspace(0, 1, count)
        start = rng.random(2) * (w, h)
        sway = np.cumsum(rng.normal(0, 0.35, count))
        way = np.stack([start[0] + np.cos(turn) * length * t + sway, start[1] + np.sin(turn) * length * t], -1)
        there = np.convolve(rng.standard_normal(count), np.ones(7) / 7, "same") > rng.uniform(-1, 0)
        strong, width = float(np.clip(rng.gamma(2.0, 0.2), 0.1, 1)), 1 if rng.random() < 0.8 else 2
        for k in range(count - 1):
            if there[k]:
                points = [tuple(int(v) for v in p) for p in (way[k], way[k + 1])]
                cv2.line(lines, *points, strong, width, cv2.LINE_AA)
    light, dark = (cv2.GaussianBlur(p, (0, 0), rng.uniform(0.4, 1.0)) for p in (light, dark))
    lines = cv2.GaussianBlur(lines, (0, 0), rng.uniform(0.4, 0.9))
    out = clean + rng.uniform(0.3, 0.5) * light - rng.uniform(0.2, 0.4) * dark
    out += rng.uniform(0.3, 0.5) * lines * (1 if rng.random() < 0.85 else -1)
    found = np.maximum.reduce([light, dark, lines])
    if rng.random() < 0.35:  # a fold: cracked white along a line, shaded beside it
        turn, offset = rng.uniform(0, np.pi), rng.uniform(-0.4, 0.4) * w
        yy, xx = np.mgrid[:h, :w].astype(np.float32)
        sway = cv2.GaussianBlur(rng.standard_normal((h, w)).astype(np.float32), (0, 0), 8)
        far = (xx - w / 2) * np.cos(turn) + (yy - h / 2) * np.sin(turn) - offset + 3 * sway / sway.std()
        broken = np.clip(0.8 + 0.4 * rng.standard_normal((h // 4 + 1, w // 4 + 1)).astype(np.float32), 0.1, 1.3)
        fold = np.exp(-((far / rng.uniform(0.8, 3.5)) ** 2))
        if rng.random() < 0.3:  # only a part of the way
            along = (yy - h / 2) * np.cos(turn) - (xx - w / 2) * np.sin(turn)
            fold *= np.clip((along - rng.uniform(-0.4, 0.3) * h) / 12, 0, 1)
        out += rng.uniform(0.15, 0.45) * fold * cv2.resize(broken, (w, h))
        beside = rng.choice([-1, 1]) * rng.uniform(4, 8)
        out -= rng.uniform(0, 0.1) * np.exp(-(((far - beside) / rng.uniform(4, 8)) ** 2))
        found = np.maximum(found, fold)
    out += rng.normal(0, 0.006, out.shape)
    return np.clip(out, 0, 1).astype(np.float32), found


def on_paper(rng: np.random.Generator, gray: np.ndarray) -> np.ndarray:
    """A picture with the white rim of its paper, or with bars and wires before it: straight, and no damage."""
    out = gray.copy()
    h, w = out.shape
    if rng.random() < 0.5:
        yy, xx = np.mgrid[:h, :w].astype(np.float32)
        for turn in rng.choice(4, rng.integers(1, 3), replace=False):
            tilt = rng.normal(0, 0.02)
            far = ((xx, yy, w - xx, h - yy)[turn] - rng.uniform(0.1, 0.5) * w) + tilt * (yy if turn % 2 == 0 else xx)
            share = 1 / (1 + np.exp(np.clip(far / rng.uniform(0.2, 1.2), -40, 40)))
            out += (rng.choice([rng.uniform(0.75, 1.0), rng.uniform(0, 0.1)], p=[0.8, 0.2]) - out) * share
    for _ in range(rng.integers(0, 4)):
        turn = rng.choice([0, np.pi / 2]) + rng.normal(0, 0.08) if rng.random() < 0.6 else rng.uniform(0, np.pi)
        start, length = rng.random(2) * (w, h), rng.uniform(0.1, 1.2) * w
        end = start + length * np.array([np.cos(turn), np.sin(turn)])
        shade, thick = float(rng.uniform(0, 1)), int(rng.integers(2, 9))
        cv2.line(out, *(tuple(int(v) for v in p) for p in (start, end)), shade, thick, cv2.LINE_AA)
    return out


def pair(rng: np.random.Generator, pictures: list[np.ndarray], side: int) -> tuple[np.ndarray, np.ndarray]:
    """A damaged patch, encoded 0…1, and the mask of its damage."""
    large = side + 32
    if rng.random() < 0.05 or not pictures:
        gray = leaves(rng, large)
    else:
        whole = pictures[rng.integers(len(pictures))]
        scale = rng.uniform(0.5, 1.3)
        need = int(large / scale) + 2
        if min(whole.shape) <= need:
            gray = cv2.resize(whole, (large, large), interpolation=cv2.INTER_AREA)
        else:
            y, x = rng.integers(whole.shape[0] - need), rng.integers(whole.shape[1] - need)
            gray = cv2.resize(whole[y : y + need, x : x + need], (large, large), interpolation=cv2.INTER_AREA)
    gray = np.rot90(gray, rng.integers(4))
    if rng.random() < 0.35:
        gray = on_paper(rng, np.ascontiguousarray(gray))
    made, found = damaged(rng, aged(rng, np.ascontiguousarray(gray)))
    if rng.random() < 0.3:
        _, data = cv2.imencode(".jpg", np.rint(made * 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 88])
        made = cv2.imdecode(data, cv2.IMREAD_GRAYSCALE).astype(np.float32) / 255
    inner = slice(16, 16 + side)
    return made[inner, inner], (found[inner, inner] > 0.16).astype(np.float32)
