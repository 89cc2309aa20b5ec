"""Age a colour picture into the scan of a faded monochrome print.
Writes NAME-scan.jpg (8-bit grey), NAME-true.jpg (the colours, aligned to the scan) and NAME-damage.png
(255 where the picture is scratched, dusty, creased or torn, 128 outside the picture: border and scanner bed, 0 sound;
fading, grain and the tide-line stain are not marked)."""

from pathlib import Path

import cv2
import numpy as np

from common import WORK, smooth, srgb, tnoise, tpink
from finish import jpeg, look


def periodic(h, w, sigma, seed):
    return cv2.resize(tnoise(96, 144, sigma, seed).astype(np.float32), (w, h), interpolation=cv2.INTER_CUBIC)


def age(
    c,
    seed=4,
    fade_amt=1.0,
    scratches=46,
    dust=420,
    hairs=30,
    crease="corner",
    tear=None,
    rot=0.55,
    tone=(0.15, 0.45, 0.40),
    stain=None,
    silver=0.0,
):
    """c: 8-bit colour -> scan, true colour, damage mask

    crease: "corner", "fold" or None; stain: place and size of a tide line, as shares of the width; silver: how strongly
    the darks towards the rim have silvered.
    """
    c = c.astype(np.float32) / 255
    h, w = c.shape[:2]
    s = w / 2400
    r = np.random.default_rng(seed)
    lin = np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)
    g = lin @ np.array(tone)  # emulsion: strong in blue, weak in red
    g = srgb(cv2.GaussianBlur(g.astype(np.float32), (0, 0), 1.5 * s))
    g = g * 0.82 + 0.18 * cv2.GaussianBlur(g.astype(np.float32), (0, 0), 9 * s)
    yy, xx = np.mgrid[0:h, 0:w]
    X, Y = xx / w, yy / h
    edge = np.minimum.reduce([X, 1 - X, Y * h / w, (1 - Y) * h / w])
    fade = np.clip(fade_amt * (0.17 + 0.08 * periodic(h, w, 16, seed + 1) + 0.34 * np.exp(-edge / 0.045)), 0, 0.75)
    g = np.clip((g - 0.45) * 1.08 + 0.47, 0, 1)
    g = 0.13 + 0.74 * g
    g = g * (1 - fade) + 0.80 * fade * (0.55 + 0.45 * g)
    gr = cv2.GaussianBlur(r.standard_normal((h, w)).astype(np.float32), (0, 0), 1.1 * s + 0.4)
    g = g + 0.020 * gr / gr.std() + 0.012 * periodic(h, w, 3, seed + 3)
    # silver that has come to the surface over the darks, in patches along the rim
    sheen = silver * np.exp(-((edge / 0.11) ** 2)) * np.clip(0.8 + 0.5 * periodic(h, w, 10, seed + 31), 0, 1.5)
    g = g + sheen * np.clip(1 - g, 0, 1) ** 2
    # scratches: short, broken, mostly along one direction, a few across
    sc = np.zeros((h, w), np.float32)
    for k in range(scratches):
        p = r.random(2) * [w, h]
        a = r.normal(1.5, 0.12) if k % 5 else r.uniform(0, 3.1)
        L = min(r.gamma(1.1, 130), 900) * s
        n = 60
        t = np.linspace(0, 1, n)
        q = np.stack([p[0] + np.cos(a) * L * t + np.cumsum(r.normal(0, 0.35 * s, n)), p[1] + np.sin(a) * L * t], -1)
        gap = np.convolve(r.standard_normal(n), np.ones(7) / 7, "same") > -0.25
        v = float(r.gamma(2.0, 0.17))
        for i in range(n - 1):
            if gap[i]:
                cv2.line(
                    sc,
                    tuple(map(int, q[i])),
                    tuple(map(int, q[i + 1])),
                    min(v, 1.0),
                    1 if r.random() < 0.8 else 2,
                    cv2.LINE_AA,
                )
    sc = cv2.GaussianBlur(sc, (0, 0), 0.55)
    # dust and hairs, light or dark
    du = np.zeros((h, w), np.float32)
    dk = np.zeros((h, w), np.float32)
    for _ in range(dust):
        m = du if r.random() < 0.7 else dk
        cv2.circle(
            m,
            (int(r.random() * w), int(r.random() * h)),
            max(1, int(min(r.gamma(1.1, 1.3), 7) * s)),
            float(r.uniform(0.2, 0.9)),
            -1,
            cv2.LINE_AA,
        )
    for _ in range(hairs):
        p = r.random(2) * [w, h]
        t = np.linspace(0, 1, 30)
        a = r.uniform(0, 6.28) + r.normal(0, 1.6) * t + r.normal(0, 0.8) * np.sin(6 * t)
        L = r.uniform(20, 110) * s
        q = p + np.cumsum(np.stack([np.cos(a), np.sin(a)], -1), 0) * L / 30
        cv2.polylines(
            du if r.random() < 0.6 else dk, [q.astype(np.int32)], False, float(r.uniform(0.3, 0.8)), 1, cv2.LINE_AA
        )
    du, dk = cv2.GaussianBlur(du, (0, 0), 0.7), cv2.GaussianBlur(dk, (0, 0), 0.7)
    g = g + 0.42 * sc + 0.36 * du - 0.30 * dk
    dmg = np.maximum.reduce([sc, du, dk])
    # crease: a bent corner or a fold across; the emulsion cracks white along it
    wob = periodic(h, w, 6, seed + 7)
    if crease is None:
        cd, on = np.full((h, w), 1e6), np.zeros_like(X)
    elif crease == "corner":
        cd = np.abs((xx + yy * 1.3) - 0.20 * w + 7 * s * wob)
        on = X + Y < 0.6
    else:
        cd = np.abs(xx - (0.548 * w + 0.012 * w * (Y - 0.5)) + 5 * s * wob)
        on = np.ones_like(X)
    brk = np.clip(0.75 + 0.6 * periodic(h, w, 1.2, seed + 8), 0.1, 1.3)
    cr = np.exp(-((cd / (2.0 * s)) ** 2)) * on
    g = g + 0.34 * cr * brk - 0.08 * np.exp(-(((cd - 6 * s) / (7 * s)) ** 2)) * on
    dmg = np.maximum(dmg, cr)
    # a stain with a tide line
    qx, qy, size = stain or ((0.80, 0.22, 0.085) if crease == "corner" else (0.16, 0.80, 0.085))
    rad = np.hypot((X - qx) * 1.0, (Y - qy) * h / w) / size * (1 + 0.22 * periodic(h, w, 9, seed + 12))
    st = smooth(1.03, 0.97, rad)
    g = g - 0.045 * st - 0.07 * np.exp(-(((rad - 1) / 0.035) ** 2))
    g = np.clip(g, 0, 1)
    # paper border with a soft edge, torn corner, scanner bed
    B = int(0.042 * w)
    H2, W2 = h + 2 * B, w + 2 * B
    y2, x2 = np.mgrid[0:H2, 0:W2]
    pap = 0.85 + 0.011 * cv2.resize(
        tpink(256, 384, 1.6, seed + 4).astype(np.float32), (W2, H2), interpolation=cv2.INTER_CUBIC
    )
    m = np.zeros((H2, W2), np.float32)
    m[B : B + h, B : B + w] = 1
    m = cv2.GaussianBlur(m, (0, 0), 1.6 * s)
    full = pap * (1 - m) + np.pad(g, B, mode="edge") * m
    dm = np.pad(dmg.astype(np.float32), B)
    rim = np.minimum.reduce([x2, W2 - x2, y2, H2 - y2])
    full = full * (1 - 0.10 * np.exp(-rim / (0.05 * W2)))
    bed = np.zeros((H2, W2), np.float32)
    if tear:  # a missing corner, with a white torn edge of paper fibre
        wob2 = cv2.resize(tpink(256, 384, 1.9, seed + 21).astype(np.float32), (W2, H2), interpolation=cv2.INTER_CUBIC)
        e = (tear * W2 - ((W2 - x2) + (H2 - y2) * 1.15)) + 13 * s * wob2
        bed = smooth(-1.5 * s, 1.5 * s, e).astype(np.float32)
        fibre = smooth(-13 * s, -3 * s, e + 5 * s * wob2) * (1 - bed)
        full = full * (1 - fibre) + 0.90 * fibre
        full = full * (1 - bed) + 0.055 * bed
        dm = np.maximum(dm, np.maximum(fibre, bed))
    full = np.clip(full, 0, 1) + 0.006 * r.standard_normal(full.shape)
    M = cv2.getRotationMatrix2D((W2 / 2, H2 / 2), rot, 0.968)

    def warp(a, v=0.0):
        return cv2.warpAffine(np.ascontiguousarray(a, np.float32), M, (W2, H2), flags=cv2.INTER_CUBIC, borderValue=v)

    out = warp(full, 0.055)
    gt = warp(np.pad(c, ((B, B), (B, B), (0, 0))))
    pic = warp(np.pad(np.ones((h, w), np.float32), B))
    dm = cv2.dilate((warp(dm) > 0.16).astype(np.uint8), np.ones((3, 3), np.uint8)) * 255
    dm[pic < 0.5] = 128
    out, gt = ((np.clip(a, 0, 1) * 255 + 0.5).astype(np.uint8) for a in (out, gt))
    return out, gt, dm


def write(out, name, c, **k):
    """The three files of a scan."""
    sc, gt, dm = age(c, **k)
    jpeg(Path(out) / f"{name}-scan.jpg", sc, 90)
    jpeg(Path(out) / f"{name}-true.jpg", gt, 90)
    cv2.imwrite(str(Path(out) / f"{name}-damage.png"), dm, [cv2.IMWRITE_PNG_COMPRESSION, 9])
    inside = dm != 128
    print(name, "damaged share of the picture %.1f %%" % (100 * (dm[inside] == 255).mean()))


def stored(name, size):
    """A stored linear render, developed to a size (width, height)."""
    return look(name, np.load(WORK / f"{name}.npy"), size, exposure=4.2, grain=0.006, vig=0.25, bloom=0.03, sat=0.82)
