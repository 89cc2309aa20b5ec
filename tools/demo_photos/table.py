"""Still life on a table by a window: dyed cloth, fruit, a glazed jug and a brass bell.

Longer than most: one scene, told from the table to the lamp.
"""

import time

import cv2
import mitsuba as mi
import numpy as np
from scipy import ndimage as ndi
from scipy.spatial import cKDTree

from common import (
    T,
    bump,
    cli,
    fbm,
    fbm2,
    grid_faces,
    gridmesh,
    lerp,
    noise,
    ply,
    prin,
    render,
    revolve,
    rgb,
    smooth,
    spline,
    tex,
    tnoise,
    tpink,
    tube,
    two,
)
from finish import keep

W, H, SPP, PASSES = cli()
rng = np.random.default_rng(3)
S = {"type": "scene"}
uu, vv = np.meshgrid(np.linspace(0, 1, 1024, endpoint=False), np.linspace(0, 1, 1024, endpoint=False))


def place(P, pos, tilt=0, az=0, rz=0):
    a, b, c = np.radians([tilt, az, rz])
    Rz0 = np.array([[np.cos(c), -np.sin(c), 0], [np.sin(c), np.cos(c), 0], [0, 0, 1]])
    Rx = np.array([[1, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
    Rz = np.array([[np.cos(b), -np.sin(b), 0], [np.sin(b), np.cos(b), 0], [0, 0, 1]])
    return P @ (Rz @ Rx @ Rz0).T


def settle(Q, xy, z0=0.0):
    Q = Q.copy()
    Q[..., 2] += z0 - Q[..., 2].min()
    Q[..., 0] += xy[0]
    Q[..., 1] += xy[1]
    return Q


# ---------- apples
def apple_tex(kind, seed):
    h, w = 768, 1536
    v, u = np.mgrid[0:h, 0:w]
    u = u / w
    v = v / h  # v 0 = bottom,1= top
    th = u * 2 * np.pi
    cx, cy = np.cos(th), np.sin(th)

    def p(s, k):
        return np.stack([cx * s, cy * s, v * k], -1)

    big = fbm(p(1.3, 2), 4, seed=seed)
    streak = fbm(p(22, 2.2), 4, seed=seed + 5)
    fine = fbm(p(60, 40), 3, seed=seed + 9)
    # lenticels
    dots = np.zeros((h, w), np.float32)
    r = np.random.default_rng(seed)
    for _ in range(900):
        y = r.random()
        x = r.random()
        sy = np.sin(np.pi * np.clip(y, 0.04, 0.96))
        cv2.ellipse(
            dots,
            (int(x * w), int(y * h)),
            (max(1, int(2.2 / sy * r.uniform(0.5, 1.1))), int(1 + 1.2 * r.random())),
            0,
            0,
            360,
            float(r.uniform(0.4, 1)),
            -1,
        )
    dots = cv2.GaussianBlur(dots, (0, 0), 0.9)
    if kind == "red":
        t = smooth(-0.45, 0.35, big * 0.9 + streak * 0.75 + 0.28)
        c = lerp([0.50, 0.30, 0.06], [0.42, 0.022, 0.020], t)
        c = lerp(c, [0.24, 0.008, 0.012], smooth(0.0, 0.6, streak + big * 0.6) * 0.75)
        c = lerp(c, [0.75, 0.42, 0.22], dots * 0.55)
        c = lerp(c, [0.38, 0.32, 0.08], smooth(0.90, 0.985, v + 0.03 * streak) * 0.8)
    else:
        t = smooth(-0.5, 0.5, big + 0.35 * streak)
        c = lerp([0.066, 0.132, 0.017], [0.115, 0.168, 0.023], t)
        c = lerp(c, [0.25, 0.11, 0.02], smooth(0.32, 0.8, big + 0.2 * streak) * 0.35)
        c = lerp(c, [0.42, 0.46, 0.20], dots * 0.5)
        c = lerp(c, [0.22, 0.17, 0.06], smooth(0.93, 0.99, v + 0.02 * streak) * 0.7)
    c = lerp(c, [0.10, 0.07, 0.03], smooth(0.05, 0.012, v) * 0.8)
    c = c * (1 + 0.10 * fine[..., None])
    return np.clip(c, 0, 1), dots, fine


def apple(kind, xy, R, seed, tilt=0, az=0):
    np.random.default_rng(seed)
    t = np.linspace(np.pi, 0, 260)  # bottom..top
    rad = (1.0 + 0.08 * np.cos(t) + 0.0 * t) * np.sin(t) ** 0.92
    z = 0.88 * np.cos(t) + 0.0
    top = np.exp(-((rad / 0.30) ** 2)) * (t < np.pi / 2) * 0.42
    bot = np.exp(-((rad / 0.24) ** 2)) * (t > np.pi / 2) * 0.26
    z = z - top + bot
    prof = np.stack([rad, z], -1) * R

    def warp(P, th):
        v = np.linspace(0, 1, P.shape[1])[None]
        lob = 1 + 0.035 * np.cos(5 * th + seed) * smooth(0.75, 0.0, v) + 0.018 * np.cos(2 * th + seed * 2)
        n = fbm(P / R * 1.1 + seed * 3.1, 3, seed=seed)
        k = lob * (1 + 0.05 * n)
        P = P * np.stack([k, k, 1 + 0.03 * n], -1)
        P[..., 0] += 0.07 * R * np.sin(seed) * v
        return P

    P = revolve(prof, 240, warp)
    c, d, f = apple_tex(kind, seed)
    rough = np.clip(0.30 + 0.10 * f - 0.02 * d, 0.12, 0.6)
    b = bump(
        prin(tex(c), tex(rough), 0.5, clearcoat=0.25, clearcoat_gloss=0.86),
        tex(f * 0.5 + 0.3 * d, filt="bilinear"),
        0.0033 * R,
    )
    Q = place(P, xy, tilt, az)
    zmin = Q[..., 2].min()
    Q = settle(Q, xy)
    S[f"apple{len(S)}"] = gridmesh(Q, b)
    # stem
    s0 = np.array([0, 0, prof[-1, 1] - 0.05 * R])
    path = spline(
        [
            s0,
            s0 + [0.03 * R, 0, 0.22 * R],
            s0 + [0.12 * R * np.sin(seed * 3), 0.1 * R, 0.48 * R],
            s0 + [0.22 * R * np.sin(seed * 3), 0.16 * R, 0.62 * R],
        ],
        24,
    )
    tb = tube(path, np.r_[np.linspace(0.05, 0.032, 18), np.linspace(0.034, 0.055, 6)] * R, 10)
    tb = place(tb, xy, tilt, az)
    tb[..., 2] -= zmin
    tb[..., 0] += xy[0]
    tb[..., 1] += xy[1]
    S[f"stem{len(S)}"] = gridmesh(tb, two(prin((0.06, 0.035, 0.015), 0.7)))


apple("red", (-12.0, -7), 4.3, 11, 12, 30)
apple("red", (-4.2, -12.5), 4.0, 23, 58, 200)
apple("red", (-7.5, 2), 4.2, 37, 5, 100)
apple("green", (4.8, -6.5), 4.25, 41, 8, 60)
apple("green", (13.2, -9.5), 4.0, 53, 50, -40)


# ---------- lemons
def lemon(xy, az, L, seed, z0=0.0):
    t = np.linspace(np.pi, 0, 300)
    x = np.cos(t)
    r = 0.70 * np.sqrt(np.clip(1 - np.abs(x) ** 2.15, 0, 1))
    tip = np.exp(-((1 - x) / 0.07)) * 0.16 + np.exp(-((1 + x) / 0.05)) * 0.07
    rr = r + 0.10 * np.exp(-(((1 - x) / 0.10) ** 1.0)) * np.sqrt(np.clip((1.0001 - x) / 0.06, 0, 1))
    P = revolve(
        np.stack([rr, x * 1.0 + tip * np.sign(x)], -1) * L,
        240,
        lambda P, th: P * (1 + 0.045 * fbm(P / L * 1.4 + seed, 3, seed=seed))[..., None],
    )
    h, w = 900, 1800
    v, u = np.mgrid[0:h, 0:w]
    th = u / w * 2 * np.pi
    tt = np.pi * (1 - v / h)
    p = np.stack([np.sin(tt) * np.cos(th), np.sin(tt) * np.sin(th), np.cos(tt) * 1.3], -1)
    # pores by worley
    r2 = np.random.default_rng(seed)
    pts = r2.standard_normal((5200, 3))
    pts /= np.linalg.norm(pts, axis=1, keepdims=True)
    pts[:, 2] *= 1.3
    d, _ = cKDTree(pts).query(p.reshape(-1, 3), workers=2)
    d = d.reshape(h, w)
    pore = -np.exp(-((d / 0.016) ** 2)) * (0.6 + 0.4 * fbm(p * 6, 2, seed=1))
    und = fbm(p * 14, 3, seed=seed)
    c = lerp([0.86, 0.58, 0.012], [0.88, 0.68, 0.04], smooth(-0.4, 0.5, fbm(p * 2, 4, seed=seed)))
    c = lerp(c, [0.45, 0.46, 0.03], smooth(0.80, 1.25, np.abs(p[..., 2]) + 0.1 * und) * 0.6)
    c = c * (1 + 0.16 * pore + 0.05 * und)[..., None]
    b = bump(prin(tex(np.clip(c, 0, 1)), 0.34, 0.5), tex(pore * 0.8 + 0.35 * und), 0.014 * L)
    Q = place(P, None, 90, az, rz=seed * 40)
    S[f"lem{len(S)}"] = gridmesh(settle(Q, xy, z0), b)


lemon((1.0, -15.8), 35, 4.1, 5)
lemon((20.5, -3.5), -60, 4.2, 8)
# ---------- jug
prof = spline(
    [
        (0, 0.0),
        (4.6, 0),
        (5.3, 0.25),
        (5.6, 1.2),
        (7.6, 6),
        (8.3, 10.5),
        (7.2, 15.5),
        (5.0, 19.2),
        (4.5, 21.5),
        (5.0, 24.0),
        (5.75, 25.4),
    ],
    260,
)
inn = prof[::-1] - [0.45, 0]
inn = inn[(inn[:, 1] > 1.0) & (inn[:, 0] > 0)]
prof = np.concatenate(
    [prof, spline([prof[-1], prof[-1] + [-0.15, 0.22], prof[-1] + [-0.42, 0.1], inn[0]], 14)[1:], inn]
)


def jw(P, th):
    n = fbm(P / 9 + 3, 3, seed=2)
    ring = 0.010 * np.sin(P[..., 2] * 2.6 + n * 1.5)
    k = 1 + 0.012 * n + ring * 0.35
    P = P * np.stack([k, k, np.ones_like(k)], -1)
    m = smooth(21.5, 25.8, P[..., 2]) * np.exp(-((((th + np.pi) % (2 * np.pi) - np.pi) / 0.38) ** 2))
    P[..., 0] += m * 2.3
    P[..., 2] += m * 0.5
    P[..., 1] *= 1 - 0.25 * m
    return P


J = revolve(prof, 300, jw)
ang = 205
jxy = (7.5, 11.5)
h, w = 1024, 2048
v, u = np.mgrid[0:h, 0:w]
th = u / w * 2 * np.pi
p = np.stack([np.cos(th) * 3, np.sin(th) * 3, v / h * 9], -1)
g = fbm(p, 5, seed=4)
sp = tnoise(h, w, 1.2, 5)
c = lerp([0.006, 0.022, 0.22], [0.010, 0.045, 0.36], smooth(-0.5, 0.5, g))
c = lerp(c, [0.004, 0.010, 0.10], smooth(1.9, 2.8, sp) * 0.8)
c = lerp(c, [0.22, 0.20, 0.20], smooth(0.035, 0.015, v / h + 0.004 * g) * 0.9)  # bare clay foot
gl = prin(tex(c), tex(np.clip(0.10 + 0.05 * g, 0.05, 0.3)), 0.55, clearcoat=1.0, clearcoat_gloss=0.97)
gl = bump(gl, tex(fbm(p * 1.2, 3, seed=8)), 0.06)
Jq = place(J, None, 0, ang)
Jq[..., 0] += jxy[0]
Jq[..., 1] += jxy[1]
S["jug"] = gridmesh(Jq, two(gl))
hp = spline(
    [(-4.6, 0, 22.6), (-7.5, 0, 24.2), (-11.2, 0, 22.0), (-12.2, 0, 17.5), (-10.6, 0, 13.0), (-7.6, 0, 10.8)], 90
)
ht = tube(hp, np.interp(np.linspace(0, 1, 90), [0, 0.1, 0.5, 0.9, 1], [1.35, 0.95, 0.85, 0.9, 1.3]), 24)
ht = place(ht, None, 0, ang)
ht[..., 0] += jxy[0]
ht[..., 1] += jxy[1]
S["handle"] = gridmesh(ht, two(gl))
# ---------- folded cloth stack (swept S-fold)
yy, xx = np.mgrid[0:512, 0:512]
weave = (
    0.5
    + 0.25 * np.sin(xx / 512 * 2 * np.pi * 64) * np.sign(np.sin(yy / 512 * 2 * np.pi * 32))
    + 0.25 * np.sin(yy / 512 * 2 * np.pi * 64) * np.sign(np.sin(xx / 512 * 2 * np.pi * 32 + 1))
    + 0.18 * tnoise(512, 512, 1.0, 3)
    + 0.15 * tpink(512, 512, 1.4, 4)
)


def cloth_bsdf(c, sc, seed=1):
    var = 1 + 0.10 * tpink(512, 512, 1.6, seed) + 0.22 * (weave - 0.5)
    t = np.clip(np.asarray(c)[None, None] * var[..., None], 0, 1)
    return two(bump(prin(tex(t, sc), 0.85, 0.15, sheen=0.6, sheen_tint=0.6), tex(weave, sc), 0.05))


def folded(cx, cy, z, wd, dp, layers, th, c, seed, rot):
    r = np.random.default_rng(seed)
    pts = []
    x0, x1 = -wd / 2, wd / 2
    for l in range(layers):
        zz = th * (l + 0.5)
        a, b = (x0, x1) if l % 2 == 0 else (x1, x0)
        o = r.uniform(-0.25, 0.25, 2)
        xs = np.linspace(a + np.sign(b - a) * (0.5 + o[0]), b - np.sign(b - a) * (0.5 + o[1]), 60)
        pts += [(x, zz) for x in xs]
        if l < layers - 1:
            sg = np.sign(b - a)
            ph = np.linspace(-np.pi / 2, np.pi / 2, 16)[1:-1]
            ex = b - sg * (0.5 + o[1])
            pts += [(ex + sg * (0.55 * np.cos(q)), zz + th / 2 + th / 2 * np.sin(q)) for q in ph]
    pts = np.array(pts)
    n = 150
    ys = np.linspace(-dp / 2, dp / 2, n)
    P = np.zeros((len(pts), n, 3))
    P[..., 0] = pts[:, 0, None]
    P[..., 1] = ys[None]
    P[..., 2] = pts[:, 1, None]
    q = P / 7.0
    P[..., 2] += 0.22 * fbm(q + seed, 3, seed=seed) * (0.3 + P[..., 2] / (layers * th))
    P[..., 0] += 0.25 * fbm(q * [0.4, 1, 2.5] + 9, 3, seed=seed + 1)
    P[..., 1] += 0.25 * fbm(q * [1, 0.4, 3] + 5, 3, seed=seed + 2)
    edge = smooth(0.8, 1.0, np.abs(ys) / (dp / 2))[None]
    P[..., 2] -= 0.10 * edge * (P[..., 2] / (th * layers))
    s = np.r_[0, np.cumsum(np.linalg.norm(np.diff(pts, axis=0), axis=1))]
    uv = np.stack(np.broadcast_arrays(s[:, None], ys[None]), -1)
    a = np.radians(rot)
    R = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    P[..., :2] = P[..., :2] @ R.T
    P += [cx, cy, z + 0.05]
    S[f"fold{len(S)}"] = gridmesh(P, cloth_bsdf(c, 0.115, seed), uv)


z = 0.0
for k, (c, l, w_) in enumerate(
    [
        ((0.020, 0.035, 0.16), 6, 27),
        ((0.42, 0.035, 0.03), 5, 26),
        ((0.62, 0.36, 0.03), 6, 25.5),
        ((0.03, 0.16, 0.12), 5, 26),
        ((0.20, 0.03, 0.20), 5, 24),
        ((0.70, 0.62, 0.48), 4, 24.5),
    ]
):
    folded(
        -24 + rng.uniform(-0.6, 0.6),
        14 + rng.uniform(-0.6, 0.6),
        z,
        w_,
        20 + rng.uniform(-1, 1),
        l,
        0.42,
        c,
        60 + k,
        rng.uniform(-7, 7) - 66,
    )
    z += 0.42 * l + 0.12
# ---------- brass bell
bp = spline([(5.0, 0), (4.85, 0.5), (4.0, 1.6), (3.35, 3.4), (3.05, 5.2), (2.4, 6.6), (1.1, 7.2), (0.55, 7.35)], 120)
bi = bp[::-1] * [0.93, 1] + [0, -0.12]
B = revolve(
    np.concatenate([bi[:-2], [(4.82, -0.02)], bp]),
    240,
    lambda P, th: P + np.stack([0 * th + 0 * P[..., 0], 0 * P[..., 0], 0.02 * np.sin(3 * th) + 0 * P[..., 0]], -1) * 0,
)
h, w = 512, 1024
sc = tnoise(h, w, (0.6, 18), 3)
st = tpink(h, w, 1.8, 9)
al = np.clip(0.13 + 0.07 * st + 0.02 * sc, 0.05, 0.4)
tarn = lerp([1.0, 0.98, 0.92], [0.60, 0.50, 0.36], smooth(0.4, 1.9, st))
brass = bump(
    {
        "type": "roughconductor",
        "eta": rgb(0.444, 0.527, 1.094),
        "k": rgb(3.695, 2.765, 1.829),
        "alpha": tex(al),
        "specular_reflectance": tex(np.clip(tarn, 0, 1)),
    },
    tex(0.4 * sc + st * 0.6),
    0.004,
)


def bput(P):
    Q = P.copy()
    Q[..., 0] += 24.5
    Q[..., 1] += -12.5
    return Q


S["bell"] = gridmesh(bput(B + [0, 0, 0.1]), two(brass))
for zz, rr in ((1.2, 4.32), (2.0, 3.83)):  # turned rings
    a = np.linspace(0, 2 * np.pi, 160)
    S[f"ring{int(zz * 10)}"] = gridmesh(
        bput(tube(np.stack([rr * np.cos(a), rr * np.sin(a), 0 * a + zz], -1), 0.11, 10)), two(brass)
    )
hd = spline(
    [
        (0.55, 7.3),
        (0.8, 7.6),
        (0.62, 8.1),
        (0.75, 9.2),
        (1.05, 10.6),
        (1.0, 12.0),
        (0.6, 12.7),
        (0.95, 13.2),
        (0.8, 14.1),
        (0.0, 14.5),
    ],
    120,
)
g = fbm(
    np.stack(
        np.broadcast_arrays(
            np.cos(np.linspace(0, 6.28, 512))[None] * 2.0,
            np.sin(np.linspace(0, 6.28, 512))[None] * 2.0,
            np.linspace(0, 1.2, 512)[:, None],
        ),
        -1,
    )
    * [6, 6, 1],
    5,
    seed=3,
)
S["bellh"] = gridmesh(
    bput(revolve(hd, 100)),
    two(
        prin(
            tex(lerp([0.05, 0.018, 0.008], [0.13, 0.055, 0.022], smooth(-0.4, 0.4, g))),
            0.32,
            0.5,
            clearcoat=0.6,
            clearcoat_gloss=0.9,
        )
    ),
)
# ---------- draped cloth: PBD simulation over the table edge and a hidden block
YE = -22.0
RE = 0.8  # table edge and the radius of its rounded arris


def clear_table(P, gap):
    """push points out of the table (a half-space corner with a rounded edge), keeping a gap"""
    qy = (YE + RE) - P[..., 1]
    qz = P[..., 2] + RE
    py, pz = np.maximum(qy, 0), np.maximum(qz, 0)
    out = np.hypot(py, pz)
    sd = np.where((qy < 0) & (qz < 0), np.maximum(qy, qz), out) - RE
    need = np.maximum(gap - sd, 0)
    P = P.copy()
    l = np.maximum(out, 1e-6)
    inn = (qy <= 0) & (qz <= 0)
    ny = np.where(inn, (qy > qz), py / l)
    nz = np.where(inn, (qz >= qy), pz / l)
    P[..., 1] -= need * ny
    P[..., 2] += need * nz
    return P, sd


def drape(nx, ny, size, center, c, seed, steps=120):
    np.random.default_rng(seed)
    a = np.radians(20)
    d = size / (nx - 1)
    X, Y = np.meshgrid(np.arange(nx) * d - size / 2, np.arange(ny) * d - (ny - 1) * d / 2, indexing="ij")
    ph = (
        2
        * np.pi
        * (X / (6.2 + 1.5 * fbm2(X / 30, Y / 30, 1.0, 2, seed)) + 0.35 * fbm2(X / 14, Y / 10, 1.0, 2, seed + 4))
    )
    k = 0.80 + 0.12 * smooth(0, 12, np.abs(Y - 6))
    amp = 1.15 * (1.25 - k) * 3 * (0.35 + 0.65 * smooth(-0.5, 0.4, fbm2(X / 12, Y / 12, 1.0, 2, seed + 7)))
    Xc = X * 0.84
    P = np.stack(
        [
            Xc * np.cos(a) - Y * np.sin(a) + center[0],
            Xc * np.sin(a) + Y * np.cos(a) + center[1],
            0.5 + amp * (1 + np.sin(ph)) + 0.3 * fbm2(X / 4, Y / 4, 1.0, 3, seed),
        ],
        -1,
    )
    V = np.zeros_like(P)

    def con(di, dj, L, k):
        for par in (0, 1):
            A = P[: nx - di, (0 if dj >= 0 else -dj) : (ny - dj if dj >= 0 else ny)]
            B = P[di:, (dj if dj >= 0 else 0) : (ny if dj >= 0 else ny + dj)]
            sl = (
                ((np.arange(A.shape[0]) // max(di, 1)) % 2 == par, slice(None))
                if di > 0
                else (slice(None), (np.arange(A.shape[1]) // dj) % 2 == par)
            )
            a_, b_ = A[sl], B[sl]
            dl = b_ - a_
            l = np.linalg.norm(dl, axis=-1, keepdims=True)
            cor = k * 0.5 * (l - L) / np.maximum(l, 1e-9) * dl
            A[sl] = a_ + cor
            B[sl] = b_ - cor

    for _s in range(steps):
        V[..., 2] -= 0.05
        V *= 0.96
        Q = P.copy()
        P = P + V
        for it in range(6):
            con(1, 0, d, 1.0)
            con(0, 1, d, 1.0)
            con(1, 1, d * 2**0.5, 0.6)
            con(1, -1, d * 2**0.5, 0.6)
            if it % 3 == 0:
                con(3, 0, 3 * d, 0.12)
                con(0, 3, 3 * d, 0.12)
            P, sd = clear_table(P, 0.35)
        nv = P - Q
        touch = (sd < 0.5) & (P[..., 1] > YE)
        nv[..., :2] *= np.where(touch, 0.03, 1.0)[..., None]
        V = nv
    P = ndi.gaussian_filter(P, (1.0, 1.0, 0))
    P = cv2.resize(P.astype(np.float32), (ny * 4, nx * 4), interpolation=cv2.INTER_CUBIC)
    P, _ = clear_table(P, 0.22)
    # soft folds running off the edge: raised on the table, pushed out in front of it
    front = smooth(YE + 0.4, YE - 0.4, P[..., 1])
    run = np.where(front > 0.5, -P[..., 2], -(P[..., 1] - YE) * 1.0)
    rid = 0.0
    for x0, w_, hh, back, lean in (
        (-29.0, 1.5, 1.5, 9.0, 0.30),
        (-22.6, 1.2, 1.15, 6.5, -0.22),
        (-17.0, 1.4, 1.5, 11.0, 0.26),
        (-11.6, 1.0, 1.0, 5.5, -0.15),
    ):
        t = smooth(-back, 1.5, run)
        xx = (
            P[..., 0]
            - x0
            - lean * np.minimum(run, 0)
            - 0.5 * noise(np.stack([run * 0.16, 0 * run + x0, 0 * run], -1), 3)
            - 0.06 * np.maximum(run, 0) * np.sign(x0 + 20)
        )
        rid = rid + hh * t * (1 + 0.03 * np.maximum(run, 0)) * np.exp(-((xx / (w_ * (1 + 0.05 * np.abs(run)))) ** 2))
    P[..., 2] += rid * (1 - front)
    P[..., 1] -= rid * front
    U, Wv = np.meshgrid(np.linspace(0, size, nx * 4), np.linspace(0, (ny - 1) * d, ny * 4), indexing="ij")
    S[f"drape{len(S)}"] = gridmesh(P, cloth_bsdf(c, 0.115, seed), np.stack([U, Wv], -1))


t0 = time.time()
drape(110, 76, 40, np.array([-25.0, -18.0, 0]), (0.60, 0.17, 0.025), 77)
print("drape", time.time() - t0)
# ---------- table: planks with wood grain
h, w = 1600, 3200
v, u = np.mgrid[0:h, 0:w]
x = u / w * 160
y = v / h * 80
pl = np.floor(y / 13.3)
q = np.stack([x / 38 + pl * 7.3, y / 1.9 + pl * 3.1, pl * 5.0], -1)
warp = fbm(np.stack([x / 50, y / 9, pl * 3], -1), 3, seed=2)
ring = 0.5 + 0.5 * np.sin(2 * np.pi * (y / 1.6 + 3.2 * warp + pl * 0.37) * 1.0)
fib = fbm(np.stack([x / 9, y / 0.16, pl], -1), 4, seed=5)
pore = smooth(0.25, 0.7, fbm(np.stack([x / 3.0, y / 0.10, pl], -1), 3, seed=9))
wc = lerp([0.155, 0.075, 0.032], [0.30, 0.165, 0.080], np.clip(0.55 * ring + 0.45 * (0.5 + fib), 0, 1))
wc = wc * (1 + 0.12 * np.sin(pl * 12.9))[..., None]
wc = lerp(wc, [0.05, 0.025, 0.012], pore * 0.55)
gap = np.abs((y / 13.3) % 1 - 0.5) * 2
gp = smooth(0.985, 0.998, gap)
wc = lerp(wc, [0.012, 0.008, 0.006], gp)
scr = np.zeros((h, w), np.float32)
r = np.random.default_rng(1)
for _ in range(140):
    p0 = r.random(2) * [w, h]
    an = r.normal(0, 0.5)
    L = r.uniform(20, 260)
    cv2.line(
        scr,
        tuple(p0.astype(int).tolist()),
        tuple((p0 + L * np.array([np.cos(an), np.sin(an)])).astype(int).tolist()),
        float(r.uniform(0.1, 0.6)),
        1,
    )
stain = fbm2(x / 160, y / 160, 7, 5, 3)
wc = wc * (1 - 0.20 * smooth(0.05, 0.4, stain))[..., None]
wc = lerp(wc, [0.38, 0.26, 0.16], scr * 0.35)
rt = np.clip(0.42 + 0.22 * fib * 0.7 + 0.16 * stain + 0.25 * pore, 0.2, 0.9)
hm = 0.5 * fib - 0.8 * pore - 4 * gp - 0.6 * scr
tb = bump(prin(tex(wc[::-1]), tex(rt[::-1]), 0.45), tex(hm[::-1]), 0.055)
q = np.linspace(0, np.pi / 2, 14)
yz = np.concatenate([[(58, 0.0)], np.stack([YE + RE - RE * np.sin(q), -RE + RE * np.cos(q)], -1), [(YE, -5.0)]])
P = np.stack(np.broadcast_arrays(np.array([-80.0, 80.0])[:, None], yz[None, :, 0], yz[None, :, 1]), -1)
U = np.stack(
    np.broadcast_arrays(np.array([0.0, 1.0])[:, None], np.r_[1.0, np.linspace(0.0125, 0.0, 14), -0.055][None]), -1
)
N_ = np.zeros_like(P)
N_[:, 0] = [0, 0, 1]
N_[:, 1:15, 1] = -np.sin(q)
N_[:, 1:15, 2] = np.cos(q)
N_[:, 15] = [0, -1, 0]
S["table"] = ply(P.reshape(-1, 3), grid_faces(2, 16)[:, ::-1], two(tb), U.reshape(-1, 2), N=N_.reshape(-1, 3))
# ---------- wall
ww = tpink(1024, 1024, 2.2, 6)
wf = tpink(1024, 1024, 1.2, 8)
wallc = lerp([0.40, 0.40, 0.37], [0.47, 0.465, 0.43], smooth(-1.8, 1.8, ww + 0.3 * wf))


def quad(a, b, c, d, bs, uvs=1.0):
    return ply(
        np.array([a, b, c, d], float),
        [[0, 1, 2], [0, 2, 3]],
        bs,
        np.array([[0, 0], [1, 0], [1, 1], [0, 1.0]]) * uvs,
        N=None,
    )


wb = two(bump(prin(tex(wallc, 2), 0.8, 0.2), tex(0.5 * ww + 0.35 * wf, 2), 0.12))
S["wall"] = quad((-140, 60, -80), (140, 60, -80), (140, 60, 160), (-140, 60, 160), wb)
# window on the left: 2x3 panes with bars; the brighter top = sky
wx = -105
for i in range(2):
    for j in range(3):
        y0 = -62 + i * 46
        z0 = 14 + j * 34
        L = [(3.2, 3.5, 3.7), (5.5, 6.2, 6.9), (6.6, 7.7, 9.0)][j]
        S[f"pane{i}{j}"] = {
            "type": "rectangle",
            "to_world": T().translate([wx, y0 + 21, z0 + 15.5]).rotate([0, 1, 0], 90).scale([15.5, 21, 1]),
            "emitter": {"type": "area", "radiance": rgb(*(np.array(L) * 1.15))},
        }
E = np.zeros((32, 64, 3), np.float32)
yy_, xx_ = np.mgrid[0:32, 0:64]
E[:] = lerp([0.34, 0.34, 0.35], [0.10, 0.07, 0.05], smooth(8, 26, yy_.astype(float)))
E *= (1 + 0.35 * tpink(32, 64, 2.0, 3))[..., None].clip(0.3, 2)
S["env"] = {"type": "envmap", "bitmap": mi.Bitmap(E), "scale": 1.0}
o = np.array([9, -112, 47.0])
tg = np.array([1.2, -1, 7.3])
fd = np.linalg.norm(o - np.array([0, -9, 4.0]))
S["sensor"] = {
    "type": "thinlens",
    "fov": 31.5,
    "fov_axis": "x",
    "aperture_radius": 0.95,
    "focus_distance": float(fd),
    "to_world": T().look_at(o.tolist(), tg.tolist(), [0, 0, 1]),
}
d, raw = render(S, W, H, SPP, 5, name="table-by-the-window", passes=PASSES)
keep(d, "table-by-the-window")
