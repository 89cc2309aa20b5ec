"""A carved, painted puppet head: signed distances -> mesh -> chisel facets, cracks, paint (centimetres, face to -y)."""

import numpy as np
from scipy.spatial import cKDTree
from skimage import measure

from common import VC, fbm, lerp, noise, normals, prin, revolve, smooth, subdivide, tex, two


def n3(P, s, seed, o=3):
    return fbm(P * s, o, seed=seed)


def shape(N):
    x = np.linspace(-11, 11, N, dtype=np.float32)
    y = np.linspace(-13, 11, N, dtype=np.float32)
    z = np.linspace(-17, 15, int(N * 1.4), dtype=np.float32)
    X, Y, Z = np.meshgrid(x, y, z, indexing="ij")
    ax = np.abs(X)

    def ell(cx, cy, cz, rx, ry, rz, x_=None):
        a = ((X if x_ is None else x_) - cx) / rx
        b = (Y - cy) / ry
        c = (Z - cz) / rz
        k = np.sqrt(a * a + b * b + c * c)
        return (k - 1) * min(rx, ry, rz)

    def su(a, b, k):
        h = np.clip(0.5 + 0.5 * (b - a) / k, 0, 1)
        return b * (1 - h) + a * h - k * h * (1 - h)

    def ss(a, b, k):
        h = np.clip(0.5 - 0.5 * (a + b) / k, 0, 1)
        return a * (1 - h) - b * h + k * h * (1 - h)  # a minus b

    def cap(a, b, r1, r2, x_=None):
        a = np.array(a, float)
        b = np.array(b, float)
        xx = X if x_ is None else x_
        px, py, pz = xx - a[0], Y - a[1], Z - a[2]
        d = b - a
        t = np.clip((px * d[0] + py * d[1] + pz * d[2]) / d.dot(d), 0, 1)
        return np.sqrt((px - t * d[0]) ** 2 + (py - t * d[1]) ** 2 + (pz - t * d[2]) ** 2) - (r1 + (r2 - r1) * t)

    f = ell(0, 1, 3, 7.6, 9, 9.2)
    f = su(f, ell(0, -2.2, -4.2, 5.6, 5.6, 6.0), 2.5)
    f = su(f, ell(0, -6.1, -8.3, 2.3, 2.0, 1.7), 1.8)  # skull jaw chin
    f = su(f, cap((0, 2, -8), (0, 3, -20), 4.2, 4.6), 1.6)  # neck
    f = su(f, ell(3.9, -5.0, -2.0, 2.3, 1.9, 1.9, ax), 1.6)  # cheek
    f = su(f, cap((0.9, -7.6, 3.7), (5.0, -5.6, 3.9), 0.85, 0.55, ax), 0.9)  # brow ridge
    f = ss(f, ell(3.0, -8.3, 1.75, 2.0, 1.7, 1.15, ax), 1.1)  # sockets
    f = su(f, cap((0, -7.5, 2.9), (0, -10.2, -1.6), 0.75, 1.15), 0.8)
    f = su(f, ell(0.95, -9.0, -1.9, 0.85, 0.95, 0.75, ax), 0.5)  # nose
    f = ss(f, ell(0.62, -9.6, -2.75, 0.33, 0.5, 0.35, ax), 0.25)
    f = su(f, cap((0, -8.35, -4.55), (2.1, -7.25, -4.75), 0.62, 0.22, ax), 0.45)
    f = su(f, cap((0, -8.25, -5.75), (1.8, -7.2, -5.35), 0.75, 0.25, ax), 0.45)
    f = ss(f, cap((0, -9.0, -5.08), (2.2, -7.7, -5.0), 0.16, 0.10, ax), 0.15)
    f = ss(f, cap((0, -8.8, -3.1), (0, -8.9, -3.9), 0.25, 0.35), 0.4)
    ear = ell(7.7, 1.3, 0.6, 0.9, 2.0, 2.9, ax)
    ear = ss(ear, ell(8.4, 0.7, 0.7, 0.6, 1.2, 2.0, ax), 0.4)
    f = su(f, ear, 0.5)
    f = su(
        f,
        ss(
            ell(3.0, -6.95, 1.75, 1.75, 1.45, 1.15, ax) - 0.12,
            np.abs(Z - 1.72 - 0.10 * np.cos((ax - 3) / 1.1)) - 0.52 + 0.30 * ((ax - 3) / 1.6) ** 2,
            0.12,
        ),
        0.12,
    )  # lids with a slit

    V, F, _, _ = measure.marching_cubes(f, 0, spacing=(x[1] - x[0], y[1] - y[0], z[1] - z[0]))
    return V + [x[0], y[0], z[0]], F[:, ::-1]


SKIN = {
    "skin": ([0.53, 0.262, 0.138], [0.62, 0.335, 0.190]),
    "blush": [0.58, 0.125, 0.075],
    "hair": ([0.030, 0.016, 0.010], [0.085, 0.042, 0.020]),
    "lip": [0.36, 0.045, 0.035],
}


def head(N=220, levels=1, look=None, seed=2):
    """-> vertices, faces, vertex colours"""
    k = {**SKIN, **(look or {})}
    V, F = shape(N)
    nn = normals(V, F)
    if nn[np.argmin(V[:, 1]), 1] > 0:
        F = F[:, ::-1]
    for _ in range(levels):
        V, F = subdivide(V, F)
    nn = normals(V, F)
    r = np.random.default_rng(seed)
    a_ = np.abs(V[:, 0])

    def bl(cx, cy, cz, s):
        return np.exp(-(((a_ - cx) ** 2 + (V[:, 1] - cy) ** 2 + (V[:, 2] - cz) ** 2) / s**2))

    g1 = n3(V, 0.35, 1, 4)
    g2 = n3(V, 1.6, 2, 4)
    g3 = n3(V, 7, 3, 3)
    gf = n3(V, 18, 5, 2)
    # chisel facets: every vertex is drawn to the tangent plane of the nearest tool mark (they run along the grain)
    st = np.array([1.25, 1.25, 0.75])
    pick = r.choice(len(V), 4200, replace=False)
    pts = V[pick]
    keep_ = np.zeros(len(pts), bool)
    tr = cKDTree(pts * st)
    done = np.zeros(len(pts), bool)
    for i in range(len(pts)):
        if not done[i]:
            keep_[i] = True
            done[tr.query_ball_point(pts[i] * st, 0.72)] = True
    pick = pick[keep_]
    pts = V[pick]
    Vw = V * st + 0.16 * np.stack([n3(V, 0.9, 31, 2), n3(V, 0.9, 32, 2), n3(V, 0.9, 33, 2)], -1)
    d2, idx = cKDTree(pts * st).query(Vw, k=5, workers=2)
    edge = d2[:, 1] - d2[:, 0]
    ns = nn[pick] + r.normal(0, 0.055, (len(pick), 3))
    ns /= np.linalg.norm(ns, axis=1, keepdims=True)
    wk = np.exp(
        -(d2 - d2[:, :1]) / 0.048
    )  # planes blend across a narrow ridge, so neighbouring cuts meet without a step
    offs = -np.einsum("ikj,ikj->ik", V[:, None] - pts[idx], ns[idx])
    fine = np.clip(bl(3.0, -7.4, 1.8, 2.1) + bl(0, -8.3, -5.1, 2.4) + bl(0.6, -9.6, -2.2, 1.5) * 0.8, 0, 1)
    lim = 0.13 * (1 - 0.80 * fine)
    off = (np.clip(offs, -lim[:, None], lim[:, None]) * wk).sum(1) / wk.sum(1) * (0.85 - 0.45 * fine)
    V2 = (
        V + nn * (off + 0.03 * n3(V, 0.5, 4) + 0.006 * np.sin(V[:, 2] * 9 + 5 * g1 + V[:, 0] * 2) * (1 - fine))[:, None]
    )
    # paint
    c = lerp(k["skin"][0], k["skin"][1], smooth(-0.5, 0.5, g1 + 0.25 * g2))
    c = lerp(
        c,
        k["blush"],
        np.clip(
            bl(4.2, -6.2, -2.2, 2.3) * 0.70
            + bl(0, -10.8, -1.6, 1.3) * 0.5
            + bl(0, -7.5, -8.6, 1.7) * 0.25
            + bl(8, 0.6, 0.6, 2.6) * 0.35,
            0,
            0.85,
        )
        * (0.8 + 0.4 * g2),
    )
    lip = (
        smooth(0.06, -0.06, np.abs(V[:, 2] + 5.13 + 0.05 * g2) - (0.93 - 0.19 * a_**1.5))
        * smooth(2.45, 2.3, a_)
        * (V[:, 1] < -6.6)
    )
    c = lerp(c, k["lip"], lip * 0.9 * (0.85 + 0.2 * g2))
    bz = np.abs(V[:, 2] - (4.35 + 0.28 * np.sin(a_ * 0.75) - 0.04 * (a_ - 1.0) ** 2)) - (
        0.40 - 0.07 * np.abs(a_ - 2.5) + 0.10 * g2 + 0.015 * np.sin(a_ * 14 + V[:, 2] * 9)
    )
    brow = smooth(0.05, -0.05, bz) * (a_ > 0.9) * (a_ < 5.3) * (V[:, 1] < -3)
    c = lerp(c, k["hair"][0], brow * 0.9)
    lid = (
        smooth(
            0.10, -0.04, np.abs(V[:, 2] - 1.72 - 0.10 * np.cos((a_ - 3) / 1.1)) - (0.60 - 0.30 * ((a_ - 3) / 1.6) ** 2)
        )
        * (np.abs(a_ - 3) < 1.7)
        * (V[:, 1] < -5.5)
    )
    c = lerp(c, [0.10, 0.035, 0.02], lid * 0.55)
    c = lerp(c, [0.33, 0.12, 0.07], bl(3.0, -7.6, 2.85, 1.0) * 0.35)
    az = np.arctan2(a_, -(V[:, 1] - 1.0))
    line = np.interp(
        az,
        [0, 0.12, 0.35, 0.62, 0.85, 1.02, 1.16, 1.30, 1.42, 1.62, 1.85, 2.05, 2.4, 3.2],
        [6.9, 7.1, 7.9, 7.4, 5.6, 2.0, -1.2, -1.6, 1.2, 3.6, 3.3, -4.0, -7.5, -8.0],
    )
    str_ = np.sin(np.arctan2(V[:, 0], (V[:, 2] - 1) + 0.35 * (V[:, 1] + 4)) * 46 + 5 * g1)
    hair = smooth(-0.12, 0.12, V[:, 2] - line + 0.22 * g2 + 0.16 * str_)
    hair = hair * (1 - bl(8.2, 0.9, 0.4, 1.6) * (V[:, 2] < 2.6))
    c = lerp(c, lerp(k["hair"][0], k["hair"][1], np.clip(0.45 + 0.40 * str_ * (1 + g2) + 0.3 * g3, 0, 1)), hair * 0.97)
    # wear: paint lost to bare wood on the high places, drying cracks along the grain, dirt in the tool marks
    grain = 0.5 + 0.5 * np.sin(V[:, 0] * 9 + 4 * n3(V * [1, 1, 0.12], 1.2, 6, 3))
    wood_ = lerp([0.44, 0.205, 0.085], [0.60, 0.335, 0.155], grain)
    high = np.exp(-((edge / 0.10) ** 2)) * (off < 0.02)
    chip = smooth(
        0.40,
        0.44,
        n3(V, 0.8, 11, 5)
        + 0.14 * g3
        + 0.12 * bl(0, -10.8, -1.6, 1.1)
        + 0.10 * high
        + 0.16 * bl(5.2, -5.4, 3.9, 1.0)
        + 0.08 * bl(0, -7.6, -9.0, 1.0),
    )
    c = c * (1 - chip[:, None] * 0.9) + wood_ * chip[:, None] * 0.9
    crack = np.zeros(len(V))
    for x0, z0, z1, wd, sd in (
        (-2.2, 4.6, 11.0, 0.045, 1),
        (4.9, -3.4, 3.0, 0.04, 2),
        (-5.6, -6.5, -0.2, 0.036, 3),
        (1.1, -10.0, -6.6, 0.04, 4),
        (6.6, 2.5, 9.0, 0.05, 5),
        (-0.4, 6.4, 11.5, 0.04, 6),
    ):
        t = (V[:, 2] - z0) / (z1 - z0)
        xx = (
            x0
            + 0.30 * noise(np.stack([V[:, 2] * 0.55, 0 * t + sd, 0 * t], -1), 7)
            + 0.07 * noise(np.stack([V[:, 2] * 3.1, 0 * t + sd, 0 * t], -1), 9)
        )
        wd_ = wd * np.clip(4 * t * (1 - t), 0, 1) ** 0.6 * (t > 0) * (t < 1) + 1e-5
        crack = np.maximum(crack, np.exp(-(((V[:, 0] - xx) / wd_) ** 2)) * (V[:, 1] < 1) * (t > 0) * (t < 1))
    fc = np.abs(n3(V * [1.4, 1.4, 0.28], 1.0, 21, 4))
    craze = smooth(0.014, 0.0, fc) * smooth(0.05, 0.35, n3(V, 0.3, 23, 2)) * (1 - fine)
    c = lerp(c, [0.05, 0.026, 0.015], np.clip(crack * 0.95 + craze * 0.55, 0, 1))
    dirt = (
        np.exp(-((edge / 0.05) ** 2)) * 0.07 * (1 - fine)
        + 0.30 * smooth(0.1, 0.6, n3(V, 0.55, 27, 4)) * smooth(-0.02, 0.05, off) * 0.5
    )
    c = c * (1 - dirt[:, None] * (0.6 + 0.5 * g2[:, None])) * (1 + 0.05 * g3 + 0.04 * gf)[:, None]
    V2 = (
        V2
        - nn * (crack * 0.11 + craze * 0.012 + chip * 0.030)[:, None]
        + nn * (0.006 * g3 * (1 - chip) + 0.004 * gf)[:, None]
        + nn * (hair * 0.045 * str_)[:, None]
    )
    return V2, F, np.clip(c, 0, 1)


def eye_texture():
    h, w = 512, 1024
    v, u = np.mgrid[0:h, 0:w]
    ang = np.pi * (v / h)
    az = u / w * 2 * np.pi
    rad = ang  # pole = pupil
    st = fbm(np.stack([np.cos(az) * 7, np.sin(az) * 7, rad * 2.5], -1), 4, seed=4)
    ec = lerp([0.70, 0.66, 0.58], [0.62, 0.48, 0.40], smooth(0.7, 1.6, rad) + 0.2 * st)
    vein = smooth(0.04, 0.0, np.abs(fbm(np.stack([np.cos(az) * 4, np.sin(az) * 4, rad * 3], -1), 4, seed=8))) * smooth(
        0.75, 1.2, rad
    )
    ec = lerp(ec, [0.50, 0.10, 0.07], vein * 0.5)
    ir = smooth(0.60, 0.57, rad)
    ec = (
        ec * (1 - ir[..., None])
        + lerp([0.10, 0.040, 0.010], [0.30, 0.15, 0.035], np.clip(0.5 + 0.9 * st, 0, 1))
        * ir[..., None]
        * (1 - 0.7 * smooth(0.50, 0.59, rad))[..., None]
    )
    pu = smooth(0.245, 0.225, rad)
    return ec * (1 - pu[..., None]) + 0.003 * pu[..., None]


def eyes(ec):
    """two painted balls, looking a little to one side"""
    out = []
    for sx in (-1, 1):
        t = np.linspace(0, np.pi, 120)
        E = revolve(np.stack([np.sin(t), np.cos(t)], -1) * 1.28, 120)
        E[..., 2] += np.exp(-(((np.arctan2(np.hypot(E[..., 0], E[..., 1]), E[..., 2])) / 0.5) ** 2)) * 0.07
        gz = np.array([0.10, -1, -0.03])
        gz /= np.linalg.norm(gz)
        ux = np.cross([0, 0, 1.0], gz)
        ux /= np.linalg.norm(ux)
        uy = np.cross(gz, ux)
        out.append(E @ np.stack([ux, uy, gz]) + [3.0 * sx, -6.85, 1.72])
    return out


def PAINT(rough=0.40):
    return two(prin(VC, rough, 0.45, clearcoat=0.18, clearcoat_gloss=0.72))


def EYE(ec):
    return two(prin(tex(ec), 0.12, 0.5, clearcoat=1.0, clearcoat_gloss=0.98))
