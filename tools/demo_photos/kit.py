"""Outdoor kit: sky, plaster, wood, tiled roofs, reeds, trees. Scenes add to the shared dictionary S (metres, z up).

Longer than most: the shapes of a place, one function a shape.
"""

import cv2
import drjit as dr
import mitsuba as mi
import numpy as np

from common import (
    LAT,
    VC,
    WORK,
    T,
    bump,
    fbm2,
    gridmesh,
    lerp,
    ply,
    prin,
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

S = {"type": "scene"}
# units: metres; camera at river looking +y ; x right, z up ; water z=0
sun = np.array([-0.62, -0.55, 0.60])
sun /= np.linalg.norm(sun)
# ---------- sky + ray-marched cumulus -> envmap (only the upper half is marched)
EW, EH = 3072, 768  # elevation 0..90


def sky_env():
    """clear sky with ray-marched cumulus, upper hemisphere, horizon first"""
    az = (np.arange(EW) + 0.5) / EW * 2 * np.pi
    el = (np.arange(EH) + 0.5) / EH * np.pi / 2  # el from horizon up
    A, Eb = np.meshgrid(az, el)
    D = np.stack([np.cos(Eb) * np.cos(A), np.cos(Eb) * np.sin(A), np.sin(Eb)], -1)
    cs = D @ sun
    zz = D[..., 2]
    base = lerp([0.50, 0.68, 0.92], [0.045, 0.135, 0.46], smooth(-0.02, 0.62, zz) ** 0.55)
    base = base * 0.62
    base = base + np.array([1.0, 0.85, 0.6]) * (0.10 * np.exp((cs - 1) * 6) + 0.5 * np.exp((cs - 1) * 60))[..., None]
    # clouds: slab 900..2100 m
    n = EW * EH
    d = mi.Vector3f(np.ascontiguousarray(D.reshape(-1, 3).T.astype(np.float32)))
    t3 = mi.Texture3f(mi.TensorXf(np.ascontiguousarray(LAT[..., None])), wrap_mode=dr.WrapMode.Repeat)

    def nz(p):
        i = dr.floor(p)
        f = p - i
        f = f * f * f * (f * (f * 6 - 15) + 10)
        return t3.eval((i + f + 0.5) / 64)[0]

    def dens(p, o=5):
        h = (p.z - 900) / 1300
        q = p / 900.0 + mi.Vector3f(3.7, 1.2, 0)
        a = 1.0
        s = 0.0
        for k in range(o):
            s = s + a * nz(q * (2.13**k) + mi.Vector3f(k * 7.1, k * 3.3, k * 1.7))
            a *= 0.5
        big = nz(p / 3800.0 + mi.Vector3f(0.3, 5.1, 0.2))
        shape = (
            s * 0.62
            + big * 0.42
            - 0.30
            - 1.1 * dr.square(dr.clip(h - 0.25, 0, 1))
            - dr.select(h < 0.10, (0.10 - h) * 6, 0)
        )
        return dr.clip(shape * 3.0, 0, 1)

    L = mi.Float(0)
    tr = mi.Float(1)
    z = dr.maximum(d.z, 0.035)
    N = 32
    tA = 900 / z
    tB = dr.minimum(2200 / z, 26000)
    st = (tB - tA) / N
    jit = mi.Float(np.random.default_rng(0).random(n).astype(np.float32))
    sv = mi.Vector3f(*map(float, sun))
    amb = mi.Float(0)
    for i in range(N):
        p = d * (tA + st * (i + jit))
        dd = dens(p)
        od = mi.Float(0)
        for k in (60.0, 160.0, 340.0):
            od = od + dens(p + sv * k, 3) * k * 0.9
        li = dr.exp(-od * 0.0060) * 0.75 + dr.exp(-od * 0.0014) * 0.25
        hh = dr.clip((p.z - 900) / 1300, 0, 1)
        a = 1 - dr.exp(-dd * dr.minimum(st, 120) * 0.018)
        pw = 1 - dr.exp(-dd * 4)  # powder
        L = L + tr * a * (li * (0.55 + 0.45 * pw))
        amb = amb + tr * a * (0.45 + 0.55 * hh)
        tr = tr * (1 - a)
        dr.eval(L, tr, amb)
    L, tr, amb = [np.array(v).reshape(EH, EW) for v in (L, tr, amb)]
    fade = smooth(0.03, 0.14, zz)
    cov = (1 - tr) * fade
    L = cv2.GaussianBlur(L, (0, 0), 1.0)
    amb = cv2.GaussianBlur(amb, (0, 0), 1.0)
    cov = cv2.GaussianBlur(cov.astype(np.float32), (0, 0), 0.8)
    cl = (
        L[..., None] * np.array([1.75, 1.66, 1.52]) * fade[..., None]
        + amb[..., None] * np.array([0.26, 0.31, 0.40]) * fade[..., None]
    )
    hz = smooth(0.30, 0.03, zz)[..., None] * 0.55
    cl = cl * (1 - hz) + cov[..., None] * base * hz * 1.5
    return base * (1 - cov[..., None]) + cl


def sky(cache="sky.npy"):
    f = WORK / cache
    if f.exists():
        return np.load(f)
    up = sky_env()
    np.save(f, up)
    return up


def add_sky(roll=EW // 2 + EW // 4, scale=1.0, sun_scale=1.0):
    up = sky()
    lo = np.broadcast_to(np.array([0.16, 0.17, 0.13]), up.shape) * 0.5
    env = np.concatenate([up[::-1], lo], 0).astype(np.float32)
    S["env"] = {
        "type": "envmap",
        "bitmap": mi.Bitmap(np.ascontiguousarray(np.roll(env[:, ::-1], roll, 1)) * np.float32(scale)),
        "to_world": T().rotate([1, 0, 0], 90),
    }
    S["sun"] = {
        "type": "directional",
        "direction": (-sun).tolist(),
        "irradiance": rgb(*(np.array([6.3, 5.6, 4.5]) * sun_scale)),
    }


# ---------- materials and boxes
_mats = {}


def reg(key, mk):
    if key not in _mats:
        _mats[key] = f"mat{len(_mats)}"
        S[_mats[key]] = mk()
    return {"type": "ref", "id": _mats[key]}


def VCM():
    return reg("vc", lambda: two(prin(VC, 0.6, 0.3)))


def box(x0, x1, y0, y1, z0, z1, bs, sc=1.0):
    V = []
    F = []
    U = []

    def f(a, b, c, d, u, v):
        n = len(V)
        V.extend([a, b, c, d])
        U.extend([(0, 0), (u, 0), (u, v), (0, v)])
        F.extend([(n, n + 1, n + 2), (n, n + 2, n + 3)])

    dx, dy, dz = (x1 - x0) * sc, (y1 - y0) * sc, (z1 - z0) * sc
    f((x0, y0, z0), (x1, y0, z0), (x1, y0, z1), (x0, y0, z1), dx, dz)
    f((x1, y0, z0), (x1, y1, z0), (x1, y1, z1), (x1, y0, z1), dy, dz)
    f((x1, y1, z0), (x0, y1, z0), (x0, y1, z1), (x1, y1, z1), dx, dz)
    f((x0, y1, z0), (x0, y0, z0), (x0, y0, z1), (x0, y1, z1), dy, dz)
    f((x0, y0, z1), (x1, y0, z1), (x1, y1, z1), (x0, y1, z1), dx, dy)
    return ply(np.array(V, float), np.array(F), bs, np.array(U, float), N=None)


def wood(c1, c2, seed):
    h = 512
    _y, x = np.mgrid[0:h, 0:h] / h
    pl = np.floor(x * 8)
    g = tnoise(h, h, (40, 0.9), seed)
    gp = smooth(0.90, 0.97, np.abs((x * 8) % 1 - 0.5) * 2)
    k = np.random.default_rng(seed).random(8)[pl.astype(int)]
    c = lerp(c1, c2, np.clip(0.5 + 0.25 * g, 0, 1)) * (0.65 + 0.6 * k)[..., None]
    c = c * (1 - 0.85 * gp)[..., None]
    w = smooth(0.2, 1.6, tpink(h, h, 2.0, seed + 1) + 0.3 * g)
    c = lerp(c, np.array([0.26, 0.25, 0.23]), w * 0.45)
    return c, g * 0.3 - 3 * gp


def plaster(seed, tint=(0.72, 0.70, 0.65)):
    h = 1024
    p = tpink(h, h, 2.1, seed)
    f = tpink(h, h, 1.1, seed + 1)
    y = np.mgrid[0:h, 0:h][0] / h
    drip = tnoise(h, h, (90, 2.5), seed + 3)
    c = np.array(tint) * (1 + 0.07 * p + 0.05 * f)[..., None]
    low = smooth(0.30, 0.0, y + 0.06 * p)
    c = lerp(c, [0.30, 0.29, 0.22], low * 0.65)
    c = lerp(c, [0.42, 0.40, 0.35], smooth(0.7, 2.2, drip + 0.4 * p) * 0.45 * smooth(0.2, 1, y))
    pe = smooth(1.15, 1.35, p + 0.5 * f)
    c = lerp(c, [0.40, 0.25, 0.17], pe * 0.8)
    return np.clip(c, 0, 0.85), f * 0.5 - pe * 2


def pb(c, hm, sc, bs=0.02, r=0.8):
    return two(bump(prin(tex(c[::-1], sc), r, 0.3), tex(hm[::-1], sc), bs))


# ---------- tiled roof: barrel tiles as displaced mesh
def roof(p00, p10, p01, seed):  # p00 eave-left, p10 eave-right, p01 ridge-left
    p00, p10, p01 = (np.array(a, float) for a in (p00, p10, p01))
    L = np.linalg.norm(p10 - p00)
    Hh = np.linalg.norm(p01 - p00)
    tw, tl = 0.26, 0.34
    nc = int(L / tw)
    nr = int(Hh / tl)
    ku, kv = 10, 5
    u = np.linspace(0, nc, nc * ku + 1)
    v = np.concatenate([np.linspace(r + 0.001, r + 0.999, kv) for r in range(nr)])
    r = np.random.default_rng(seed)
    U, Vv = np.meshgrid(u, v, indexing="ij")
    ci = np.clip(U.astype(int), 0, nc - 1)
    ri = np.clip(Vv.astype(int), 0, nr - 1)
    jit = r.normal(0, 1, (nc, nr))
    jz = r.normal(0, 0.010, (nc, nr))
    jv = r.normal(0, 0.07, (nc, nr))
    fu = U - np.floor(U)
    prof = np.abs(np.sin(np.pi * fu)) ** 0.8 * 0.075
    lift = (1 - (Vv - ri)) * 0.045
    sagg = 0.07 * fbm2(U / 40, Vv / 14, 1.0, 2, seed)
    z = prof + lift + jz[ci, ri] + sagg
    n = np.cross(p10 - p00, p01 - p00)
    n /= np.linalg.norm(n)
    n = n if n[2] > 0 else -n
    P = (
        p00
        + (U / nc)[..., None] * (p10 - p00)
        + ((Vv + jv[ci, ri] * 0.6) / nr)[..., None] * (p01 - p00)
        + z[..., None] * n
    )
    P[..., 0] += 0.0
    j = jit[ci, ri]
    c = lerp([0.25, 0.070, 0.036], [0.40, 0.145, 0.078], np.clip(0.5 + 0.3 * j, 0, 1))
    c = lerp(c, [0.12, 0.05, 0.035], (j > 1.5) * 0.8)
    c = lerp(c, [0.50, 0.26, 0.15], (j < -1.6) * 0.7)
    mo = fbm2(U / 6, Vv / 5, 1.0, 5, seed + 2)
    c = lerp(c, [0.10, 0.105, 0.045], smooth(0.12, 0.5, mo) * 0.65)
    c = (
        c
        * (0.78 + 0.22 * np.abs(np.sin(np.pi * fu)))[..., None]
        * (1 + 0.15 * fbm2(U * 2, Vv * 3, 1.0, 3, seed + 7))[..., None]
    )
    return gridmesh(P, VCM(), col=c)


wd1 = wood((0.07, 0.045, 0.03), (0.16, 0.11, 0.07), 3)
wdb = wood((0.018, 0.065, 0.085), (0.035, 0.12, 0.14), 5)
wdg = wood((0.15, 0.13, 0.11), (0.30, 0.27, 0.23), 6)


def MW(w, sc=0.5):
    return reg((id(w), sc), lambda: pb(w[0], w[1], sc, 0.006, 0.75))


def blades(n, px, py, pz, hmin, hmax, wd, cA, cB, bend, nm, seed):
    r = np.random.default_rng(seed)
    m = 7
    t = np.linspace(0, 1, m)
    hh = r.uniform(hmin, hmax, n)
    a = r.uniform(0, 2 * np.pi, n)
    bd = r.gamma(2, bend / 2, n) * hh
    np.array([0.10, 0.02])
    cx = px[:, None] + (np.cos(a) * bd)[:, None] * t**2.2
    cy = py[:, None] + (np.sin(a) * bd)[:, None] * t**2.2
    cz = pz[:, None] + hh[:, None] * (t - 0.25 * (bd / hh)[:, None] * t**3)
    wv = wd * (1 - t**1.5)[None] * r.uniform(0.6, 1.3, n)[:, None] + 0.001
    pa = r.uniform(0, np.pi, n)[:, None]
    Lp = np.stack([cx - wv * np.cos(pa), cy - wv * np.sin(pa), cz], -1)
    Rp = np.stack([cx + wv * np.cos(pa), cy + wv * np.sin(pa), cz], -1)
    V = np.stack([Lp, Rp], 2).reshape(n, 2 * m, 3)
    k = np.arange(m - 1) * 2
    f = np.concatenate([np.stack([k, k + 1, k + 3], -1), np.stack([k, k + 3, k + 2], -1)])
    F = (f[None] + (np.arange(n) * 2 * m)[:, None, None]).reshape(-1, 3)
    mix = np.clip(r.normal(0.5, 0.3, n), 0, 1)
    c = lerp(cA, cB, mix)[:, None] * (0.45 + 0.65 * t)[None, :, None]
    dry = (r.random(n) < 0.14)[:, None, None]
    c = np.where(dry, np.array([0.30, 0.22, 0.10]) * (0.5 + 0.5 * t)[None, :, None], c)
    C = np.repeat(c, 2, 1).reshape(-1, 3)
    S[nm] = ply(V.reshape(-1, 3), F, VCM(), col=C)


def patch(n, cx, cy, sx, sy, nm, seed, hmin=1.1, hmax=2.5, wd=0.014, z=-0.2):
    r = np.random.default_rng(seed)
    blades(
        n,
        cx + r.normal(0, sx, n),
        cy + r.normal(0, sy, n),
        np.full(n, z),
        hmin,
        hmax,
        wd,
        (0.045, 0.10, 0.018),
        (0.11, 0.19, 0.035),
        0.22,
        nm,
        seed,
    )


def crown(seed, nl, lf=0.075):
    r = np.random.default_rng(seed)
    nb = 16
    bc = r.normal(0, 1, (nb, 3)) * [1.5, 1.5, 1.25] + [0, 0, 4.6]
    br = r.uniform(0.9, 1.7, nb)
    k = r.integers(0, nb, nl)
    d = r.standard_normal((nl, 3))
    d /= np.linalg.norm(d, axis=1, keepdims=True)
    p = bc[k] + d * br[k][:, None] * r.uniform(0.55, 1.05, nl)[:, None]
    e1 = r.standard_normal((nl, 3))
    e1 /= np.linalg.norm(e1, axis=1, keepdims=True)
    e2 = np.cross(e1, d + 0.3 * r.standard_normal((nl, 3)))
    e2 /= np.maximum(np.linalg.norm(e2, axis=1, keepdims=True), 1e-6)
    s = lf * r.uniform(0.5, 1.2, nl)[:, None]
    V = np.stack([p - e1 * s, p + e2 * s * 0.5, p + e1 * s, p - e2 * s * 0.5], 1).reshape(-1, 3)
    b = np.arange(nl)[:, None] * 4
    F = np.concatenate([b + [0, 1, 2], b + [0, 2, 3]])
    depth = np.clip((np.linalg.norm(p - bc.mean(0), axis=1) - 0.8) / 2.5, 0.25, 1)
    c = lerp([0.035, 0.075, 0.012], [0.10, 0.155, 0.028], np.clip(r.normal(0.5, 0.25, nl), 0, 1)) * depth[:, None]
    return V, F, np.repeat(c, 4, 0)


def add_trees(n=3, leaves=46000, lf=0.075):
    """shape groups tree0.. for instancing"""
    for q in range(n):
        V, F, C = crown(70 + q, leaves, lf)
        tr = tube(
            spline(np.array([[0, 0, -1], [0.1, 0, 1.5], [0, 0.1, 3], [0.1, 0, 4.5]]), 16),
            np.linspace(0.28, 0.10, 16),
            8,
        )
        S[f"tree{q}"] = {
            "type": "shapegroup",
            "l": ply(V, F, VCM(), col=C, N=None),
            "t": gridmesh(tr, two(prin((0.06, 0.045, 0.03), 0.9, 0.2))),
        }


def tree(x, y, z, s, i, rng):
    S[f"ti{i}"] = {
        "type": "instance",
        "g": {"type": "ref", "id": f"tree{i % 3}"},
        "to_world": T()
        .translate([float(x), float(y), float(z)])
        .rotate([0, 0, 1], float(rng.uniform(0, 360)))
        .scale([s * rng.uniform(0.85, 1.2), s, s * rng.uniform(0.85, 1.2)]),
    }


def vat(cx, cy, z0, c_, nm):
    """a hooped wooden vat, filled with dye"""
    pr = spline([(0.36, 0), (0.44, 0.12), (0.47, 0.4), (0.43, 0.7), (0.45, 0.74)], 60)
    S[nm] = gridmesh(revolve(pr, 80) + [cx, cy, z0], MW(wd1, 1.0))
    S[nm + "dye"] = {
        "type": "disk",
        "to_world": T().translate([cx, cy, z0 + 0.66]).scale(0.43),
        "bsdf": {"type": "roughplastic", "alpha": 0.05, "diffuse_reflectance": rgb(*c_)},
    }
    for zz in (0.15, 0.58):
        a = np.linspace(0, 2 * np.pi, 80)
        S[f"{nm}hoop{int(zz * 100)}"] = gridmesh(
            tube(np.stack([cx + 0.462 * np.cos(a), cy + 0.462 * np.sin(a), 0 * a + z0 + zz], -1), 0.013, 8),
            two(prin((0.05, 0.045, 0.04), 0.5, 0.4, metallic=0.6)),
        )


def washing_line(A, B, cloths, sag=0.30, z0=-0.1, nm="line"):
    """two posts, a sagging rope, cloths (place along it, share of its length, height, colour, pattern) -> the rope"""
    L = np.linalg.norm(B - A)
    u = (B - A) / L
    nrm = np.array([u[1], -u[0], 0.0])
    wv = tpink(512, 512, 1.4, 4)

    def line(t):
        return A + (B - A) * np.asarray(t)[..., None] - np.array([0, 0, 1.0]) * (sag * 4 * t * (1 - t))[..., None]

    S[nm + "rope"] = gridmesh(tube(line(np.linspace(0, 1, 120)), 0.008, 8), two(prin((0.35, 0.29, 0.20), 0.9)))
    for q, p in enumerate((A, B)):
        S[f"{nm}post{q}"] = gridmesh(
            tube(np.stack([np.full(30, p[0]), np.full(30, p[1]), np.linspace(z0, p[2] + 0.12, 30)], -1), 0.05, 12),
            MW(wd1, 2.0),
        )
    for q, (t0, wd, ht, c_, pattern) in enumerate(cloths):
        U, V = np.meshgrid(np.linspace(0, 1, 140), np.linspace(0, 1, 110), indexing="ij")
        npeg = 3
        droop = 0.035 * np.sin(np.pi * ((U * npeg) % 1)) * (1 - V) ** 3
        P = (
            line(t0 - wd / 2 + wd * (U + 0.012 * np.sin(V * 3 + q)))
            - np.array([0, 0, 1.0]) * (V * ht + droop)[..., None]
        )
        fold = (0.035 + 0.075 * V) * np.sin(
            2 * np.pi * (U * npeg * 1.0 + 0.18 * np.sin(3 * V + q) + q * 0.3) + 1.2 * fbm2(U * 3, V * 1.2, 1.0, 2, q)
        ) + 0.03 * fbm2(U * 6, V * 2.5, 1.0, 3, q + 20)
        blow = (0.10 + 0.08 * np.sin(q * 2.1)) * V**1.6
        P = P + nrm * (fold * smooth(-0.05, 0.35, V) + blow)[..., None]
        P[..., 2] += 0.05 * V * np.sin(U * np.pi * 2 + q)
        cc = np.array(c_) * (1 + 0.12 * wv)[..., None]
        gy, gx = np.mgrid[0:512, 0:512] / 512
        if pattern == "bands":  # resist-dyed
            cc = lerp(cc, [0.62, 0.58, 0.50], smooth(0.75, 0.95, np.sin(gy * 2 * np.pi * 7 + 0.25 * wv)))
        if pattern == "rings":
            cc = lerp(
                cc, [0.70, 0.58, 0.36], smooth(0.035, 0.02, np.hypot((gx * 5) % 1 - 0.5, (gy * 6) % 1 - 0.5) ** 2)
            )
        S[f"{nm}cloth{q}"] = gridmesh(P, two(prin(tex(np.clip(cc, 0, 1)), 0.9, 0.15, sheen=0.5)), np.stack([U, V], -1))
        for k in range(npeg + 1):
            p = line(np.array(t0 - wd / 2 + wd * k / npeg))
            S[f"{nm}peg{q}{k}"] = {
                "type": "cube",
                "to_world": T().translate((p + [0, 0, -0.02]).tolist()).scale([0.009, 0.009, 0.045]),
                "bsdf": prin((0.36, 0.26, 0.15), 0.8),
            }
    return line
