"""The ferry landing at Marrow Quay: dye sheds with tiled roofs, a jetty, two boats, reeds and a summer sky."""

import numpy as np

from common import T, cli, fbm2, gridmesh, lerp, noise, ply, render, rgb, smooth, spline, tpink, tube, two
from finish import keep
from kit import (
    MW,
    VCM,
    S,
    add_sky,
    add_trees,
    box,
    patch,
    pb,
    plaster,
    reg,
    roof,
    tree,
    vat,
    washing_line,
    wd1,
    wdb,
    wdg,
)

W, H, SPP, PASSES = cli()
rng = np.random.default_rng(5)
add_sky()


# ---------- water heightfield (finer near the camera) + normals by bump
def water():
    nx, ny = 700, 900
    s = np.linspace(0, 1, ny)
    y = -14 + (s**2.2) * 150 - 2
    x = np.linspace(-1, 1, nx)
    Y, X = np.meshgrid(y, x, indexing="xy")
    X = X * (14 + (Y + 16) * 0.75)
    h = (
        0.030 * fbm2(X * 0.55, Y * 1.1, 1.0, 4, 1)
        + 0.016 * fbm2(X * 2.2, Y * 4.5, 1.0, 3, 2)
        + 0.006
        * np.sin(Y * 5 + 2.5 * fbm2(X / 5, Y / 5, 1.0, 2, 5))
        * np.clip(fbm2(X / 9, Y / 14, 1.0, 2, 8) + 0.3, 0, 1)
    )
    calm = 0.30 + 0.9 * smooth(-0.35, 0.4, fbm2(X / 16, Y / 7, 1.0, 3, 4))
    P = np.stack([X, Y, h * calm * np.clip(1.2 - (Y + 16) / 90, 0.25, 1)], -1)
    b = {
        "type": "roughplastic",
        "distribution": "ggx",
        "alpha": 0.018,
        "int_ior": 1.33,
        "diffuse_reflectance": rgb(0.010, 0.022, 0.018),
    }
    return gridmesh(P, b)


S["water"] = water()
S["bed"] = ply(
    np.array([[-900, 140, -0.05], [900, 140, -0.05], [900, 900, -0.05], [-900, 900, -0.05]]),
    [[0, 1, 2], [0, 2, 3]],
    {"type": "roughplastic", "alpha": 0.1, "int_ior": 1.33, "diffuse_reflectance": rgb(0.01, 0.02, 0.02)},
    N=None,
)
pc = [plaster(21), plaster(31, (0.74, 0.73, 0.70)), plaster(41, (0.70, 0.66, 0.56))]


def house(x, y, w, d, hw, rise, seed, ridge="x", door="blue"):
    k = seed % 3
    z0 = 0.75
    wall = reg(("wall", k), lambda: pb(*pc[k], 0.165, 0.03))
    S[f"h{seed}w"] = box(x, x + w, y, y + d, z0, z0 + hw, wall, 1.0)
    e = 0.45
    if ridge == "x":
        S[f"h{seed}r1"] = roof(
            (x - e, y - e, z0 + hw - 0.12), (x + w + e, y - e, z0 + hw - 0.12), (x - e, y + d / 2, z0 + hw + rise), seed
        )
        S[f"h{seed}r2"] = roof(
            (x + w + e, y + d + e, z0 + hw - 0.12),
            (x - e, y + d + e, z0 + hw - 0.12),
            (x + w + e, y + d / 2, z0 + hw + rise),
            seed + 1,
        )
        for xx, nm in ((x, "a"), (x + w, "b")):
            S[f"h{seed}g{nm}"] = ply(
                np.array([[xx, y, z0 + hw], [xx, y + d, z0 + hw], [xx, y + d / 2, z0 + hw + rise - 0.1]]),
                [[0, 1, 2]],
                wall,
                np.array([[0, hw], [d, hw], [d / 2, hw + rise - 0.1]]),
                N=None,
            )
    else:
        S[f"h{seed}r1"] = roof(
            (x - e, y - e, z0 + hw - 0.15), (x - e, y + d + e, z0 + hw - 0.15), (x + w / 2, y - e, z0 + hw + rise), seed
        )
        S[f"h{seed}r2"] = roof(
            (x + w + e, y + d + e, z0 + hw - 0.15),
            (x + w + e, y - e, z0 + hw - 0.15),
            (x + w / 2, y + d + e, z0 + hw + rise),
            seed + 1,
        )
        S[f"h{seed}g"] = ply(
            np.array([[x, y, z0 + hw], [x + w, y, z0 + hw], [x + w / 2, y, z0 + hw + rise - 0.1]]),
            [[0, 1, 2]],
            wall,
            np.array([[0, hw], [w, hw], [w / 2, hw + rise - 0.1]]),
            N=None,
        )
        for s_ in (0, 1):  # barge board
            a = np.array([x - e if s_ == 0 else x + w + e, y - e - 0.02, z0 + hw - 0.2])
            b = np.array([x + w / 2, y - e - 0.02, z0 + hw + rise - 0.02])
            S[f"h{seed}bb{s_}"] = ply(
                np.array([a, b, b + [0, 0, 0.16], a + [0, 0, 0.16]]),
                [[0, 1, 2], [0, 2, 3]],
                MW(wd1),
                np.array([[0, 0], [4, 0], [4, 0.3], [0, 0.3]]),
                N=None,
            )

    # doors/windows: recessed dark + frame + planks
    def opening(cx, zb, ow, oh, mat, nm):
        S[f"h{seed}{nm}f"] = box(
            cx - ow / 2 - 0.09, cx + ow / 2 + 0.09, y - 0.05, y + 0.02, zb - 0.09, zb + oh + 0.09, MW(wdg, 1.0)
        )
        S[f"h{seed}{nm}"] = box(cx - ow / 2, cx + ow / 2, y - 0.075, y, zb, zb + oh, mat)

    m = {"blue": MW(wdb, 0.55), "brown": MW(wd1, 0.55)}[door]
    opening(x + w * 0.5, z0 + 0.02, min(2.4, w * 0.42), min(2.7, hw * 0.8), m, "d")
    glass = reg(
        "glass", lambda: two({"type": "roughplastic", "alpha": 0.03, "diffuse_reflectance": rgb(0.012, 0.015, 0.018)})
    )
    for q, fx in enumerate((0.15, 0.85)):
        opening(x + w * fx, z0 + 1.25, 0.75, 1.05, glass, f"win{q}")
        S[f"h{seed}mu{q}"] = box(
            x + w * fx - 0.025, x + w * fx + 0.025, y - 0.10, y - 0.07, z0 + 1.25, z0 + 2.3, MW(wdg)
        )
        S[f"h{seed}mv{q}"] = box(
            x + w * fx - 0.37, x + w * fx + 0.37, y - 0.10, y - 0.07, z0 + 1.78, z0 + 1.83, MW(wdg)
        )


house(-12.5, 17, 8.2, 7, 3.3, 2.1, 30, "y", "blue")
house(-3.2, 19.5, 9.5, 6.5, 3.0, 2.5, 31, "x", "brown")
house(7.6, 16.5, 6.2, 8, 3.5, 2.3, 32, "y", "blue")
house(15.5, 22, 8, 6, 2.8, 2.2, 33, "x", "brown")
house(-22, 23, 7.5, 6, 3.0, 2.2, 36, "x", "brown")
# ---------- quay, bank
h = 1024
st = tpink(h, h, 1.6, 50)
yy, xx = np.mgrid[0:h, 0:h] / h
row = np.floor(yy * 5)
cx = (xx * 7 + 0.5 * (row % 2) + 0.08 * st) % 1
ry = (yy * 5 + 0.06 * st) % 1
mort = np.maximum(smooth(0.44, 0.48, np.abs(cx - 0.5)), smooth(0.42, 0.47, np.abs(ry - 0.5)))
sc_ = lerp(
    [0.20, 0.19, 0.165],
    [0.33, 0.31, 0.27],
    np.clip(
        0.5
        + 0.2 * st
        + 0.6
        * (
            np.random.default_rng(2).random((5, 9))[row.astype(int), np.floor(xx * 7 + 0.5 * (row % 2)).astype(int)]
            - 0.5
        ),
        0,
        1,
    ),
)
sc_ = lerp(sc_, [0.10, 0.095, 0.08], mort)
sc_ = lerp(sc_, [0.035, 0.05, 0.02], smooth(0.45, 0.12, yy + 0.05 * st) * 0.85)
S["quay"] = box(-60, 60, 13.4, 60, -0.6, 0.75, pb(sc_, st * 0.3 - 2 * mort, 0.45, 0.03, 0.75), 1.0)
# jetty
for i in range(34):
    xx0 = -1.2 + rng.normal(0, 0.015)
    S[f"jp{i}"] = box(
        xx0,
        xx0 + 2.1 + rng.normal(0, 0.03),
        2.4 + i * 0.325,
        2.4 + i * 0.325 + 0.29,
        0.52 + rng.normal(0, 0.008),
        0.58,
        MW(wdg if i % 5 else wd1, 0.5),
    )
for i in range(5):
    for sx in (-1.1, 0.85):
        yb = 2.7 + i * 2.6
        a = np.array(
            [
                [sx + rng.normal(0, 0.03), yb, -1],
                [sx, yb, 0.2],
                [sx + rng.normal(0, 0.03), yb, 0.5],
                [sx + rng.normal(0, 0.03), yb, 1.25 + rng.normal(0, 0.1) if i % 2 == 0 else 0.52],
            ]
        )
        S[f"post{i}{int(sx > 0)}"] = gridmesh(tube(spline(a, 20), 0.10, 12), MW(wd1, 2.0))


# ---------- boat
def boat(cx, cy, ang, Lh, c, nm):
    s = np.linspace(-1, 1, 60)
    q = np.linspace(-1, 1, 31)
    Sx, Q = np.meshgrid(s, q, indexing="ij")
    bw = 0.68 * (1 - np.abs(Sx) ** 2.6) ** 0.75 * (1 - 0.10 * (Sx < -0.0) * 0) + 0.02
    zt = 0.30 + 0.22 * Sx**2
    zb = -0.16 + 0.18 * np.abs(Sx) ** 3
    X = Sx * Lh / 2
    Y = bw * np.sign(Q) * np.abs(Q) ** 0.55
    Z = zb + (zt - zb) * np.abs(Q) ** 1.9
    Z = np.round(Z * 14) / 14 * 0.15 + Z * 0.85
    a = np.radians(ang)
    R = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    P = np.stack([X, Y, Z], -1)
    P[..., :2] = P[..., :2] @ R.T
    P += [cx, cy, 0.03]
    n = fbm2(Sx * 5, Q * 3, 2.0, 4, 7)
    col = lerp(np.array(c) * 0.8, np.array(c) * 1.2, np.clip(0.5 + n, 0, 1))
    col = lerp(col, [0.75, 0.72, 0.65], smooth(0.80, 0.86, np.abs(Q)) * 0.9)
    col = lerp(col, [0.16, 0.11, 0.07], smooth(0.25, 0.6, n) * 0.4)
    S[nm] = gridmesh(P, VCM(), col=col)
    for k, t in enumerate((-0.35, 0.15, 0.55)):
        w_ = 0.60 * (1 - abs(t) ** 2.6) ** 0.75
        v = np.array(
            [
                [t * Lh / 2 - 0.13, -w_, 0.22],
                [t * Lh / 2 + 0.13, -w_, 0.22],
                [t * Lh / 2 + 0.13, w_, 0.22],
                [t * Lh / 2 - 0.13, w_, 0.22],
            ]
        )
        v[:, :2] = v[:, :2] @ R.T
        v += [cx, cy, 0.03]
        S[nm + f"t{k}"] = ply(
            v, [[0, 1, 2], [0, 2, 3]], MW(wd1), np.array([[0, 0], [0.3, 0], [0.3, 1], [0, 1.0]]), N=None
        )


boat(3.6, 6.2, 68, 4.6, (0.50, 0.045, 0.03), "boat1")
boat(-5.8, 9.2, 12, 4.2, (0.03, 0.14, 0.22), "boat2")
patch(5200, -9.5, 3.2, 2.0, 0.9, "reedL", 1)
patch(2600, -13, 8, 2.5, 1.2, "reedL2", 2)
patch(3600, 9.8, 4.2, 1.5, 0.9, "reedR", 3, 1.2, 2.6)
patch(3000, 14, 9.5, 3, 1.3, "reedR2", 4)
patch(3500, -16, 12.6, 9, 0.5, "reedB", 5, 0.5, 1.3, 0.012)
patch(3500, 17, 12.6, 8, 0.5, "reedB2", 6, 0.5, 1.3, 0.012)
# ---------- hill + trees (leaf-card crowns, instanced)
nx, ny = 260, 160
x = np.linspace(-260, 260, nx)
y = np.linspace(45, 330, ny)
X, Y = np.meshgrid(x, y, indexing="ij")


def hz(X, Y):
    return smooth(45, 230, Y) * (25 + 13 * np.sin(X / 95 + 0.6) + 9 * fbm2(X / 70, Y / 70, 1.0, 4, 3)) + 1.0 * fbm2(
        X / 9, Y / 9, 1.0, 3, 4
    )


Z = hz(X, Y) + 0.3
g = fbm2(X / 30, Y / 22, 1.0, 5, 8)
f2 = fbm2(X / 3, Y / 3, 1.0, 3, 9)
col = lerp([0.055, 0.095, 0.020], [0.17, 0.185, 0.055], smooth(-0.35, 0.4, g))
col = col * (1 + 0.3 * f2)[..., None]
hzc = smooth(60, 420, Y)[..., None]
S["hill"] = gridmesh(
    np.stack([X, Y, Z], -1), VCM(), col=col * (1 - 0.35 * hzc) + np.array([0.20, 0.27, 0.34]) * 0.35 * hzc
)
# signs of the trade on the quay: vats, crates, cloth hung out to dry
vat(-4.7, 15.2, 0.75, (0.02, 0.05, 0.20), "vat0")
vat(-3.6, 15.6, 0.75, (0.33, 0.03, 0.025), "vat1")
vat(-4.2, 16.3, 0.75, (0.50, 0.28, 0.02), "vat2")
for q, (cx, cy, cz, cs, ct) in enumerate(
    ((1.0, 14.6, 0.75, 0.62, 12), (1.75, 14.9, 0.75, 0.5, -20), (1.1, 14.6, 1.37, 0.45, 33))
):
    S[f"crate{q}"] = {
        "type": "cube",
        "to_world": T().translate([cx, cy, cz + cs / 2]).rotate([0, 0, 1], ct).scale([cs * 0.62, cs / 2, cs / 2]),
        "bsdf": MW(wdg, 1.0),
    }
washing_line(
    np.array([2.75, 15.0, 2.95]),
    np.array([7.35, 15.3, 3.0]),
    (
        (0.17, 0.20, 1.15, (0.66, 0.38, 0.03), ""),
        (0.40, 0.21, 1.35, (0.025, 0.07, 0.30), "bands"),
        (0.62, 0.17, 1.05, (0.70, 0.62, 0.48), ""),
        (0.84, 0.20, 1.30, (0.45, 0.035, 0.03), ""),
    ),
    sag=0.22,
    z0=0.7,
)
add_trees()
i = 0
for x, y, s in ((-15.5, 31, 1.5), (-1.5, 33, 1.35), (13, 32, 1.6), (24, 35, 1.5), (-27, 33, 1.7), (5.5, 36, 1.2)):
    tree(x, y, 0.7, s, i, rng)
    i += 1
while i < 330:
    y = rng.uniform(58, 300)
    x = rng.uniform(-1, 1) * (30 + y * 0.55)
    if noise(np.array([x / 40, y / 40, 3.0])) < 0.0 + (rng.random() < 0.12) * -2:
        continue
    tree(x, y, hz(np.array(x), np.array(y)) - 1.9, rng.uniform(0.75, 1.35), i, rng)
    i += 1
S["sensor"] = {
    "type": "thinlens",
    "fov": 50,
    "fov_axis": "x",
    "aperture_radius": 0.012,
    "focus_distance": 22.0,
    "to_world": T().look_at([-1.8, -9.5, 2.15], [-0.6, 20, 3.9], [0, 0, 1]),
}
d, raw = render(S, W, H, SPP, 5, name="ferry-landing", passes=PASSES)
keep(d, "ferry-landing")
