"""Three pictures for a family album of puppets, photographed in a studio of Marrow Quay, and their scans long after.

Usage: album.py [NAME…] [--width PX] [--spp N]   (two-dyers, foreman, crew)
"""

import argparse
from pathlib import Path

import numpy as np
from scipy import ndimage as ndi

import puppet
from common import T, bump, fbm2, gridmesh, lerp, ply, prin, render, rgb, smooth, spline, tex, tnoise, tpink, tube, two
from finish import keep
from oldscan import stored, write

yy_, xx_ = np.mgrid[0:512, 0:512]
weave = (
    0.5
    + 0.25 * np.sin(xx_ / 512 * 2 * np.pi * 64) * np.sign(np.sin(yy_ / 512 * 2 * np.pi * 32))
    + 0.25 * np.sin(yy_ / 512 * 2 * np.pi * 64)
    + 0.2 * tnoise(512, 512, 1.0, 3)
)
EC = puppet.eye_texture()
S = {}


def cloth_mat(c, seed, scale=(14, 9)):
    cc = np.array(c) * (1 + 0.25 * (weave - 0.5) + 0.12 * tpink(512, 512, 1.6, seed))[..., None]
    return two(bump(prin(tex(np.clip(cc, 0, 1), scale), 0.88, 0.2, sheen=0.5), tex(weave, scale), 0.002))


def turned(degrees):
    a = np.radians(degrees)
    return np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]])


def figure(nm, pos, turn, lean, tunic, seed, nod=0.0, size=0.0135, hat=None, N=150, **look):
    """Head, tunic, sleeves and wooden hands; a hat if there is a colour for it. Local units are centimetres."""
    b = np.radians(lean)
    Rm = turned(turn) @ np.array([[np.cos(b), 0, np.sin(b)], [0, 1, 0], [-np.sin(b), 0, np.cos(b)]])
    Rh = turned(nod)

    def put(P):
        return ((P + [0, 0, 45]) @ Rm.T) * size + np.array(pos)

    V, F, c = puppet.head(N=N, levels=1, look=look, seed=seed)
    S[nm + "head"] = ply(put(V @ Rh.T), F, puppet.PAINT(0.42), col=c)
    for k, E in enumerate(puppet.eyes(EC)):
        S[f"{nm}eye{k}"] = gridmesh(put(E @ Rh.T), puppet.EYE(EC))
    u, q = np.linspace(0, 2 * np.pi, 420), np.linspace(0, 1, 140)
    if hat is not None:  # a cap of felt with a brim
        U, Q = np.meshgrid(u, np.linspace(0, 1, 80), indexing="ij")
        r = np.interp(Q, [0, 0.25, 0.4, 0.62, 0.72, 1], [11.6, 10.2, 8.9, 8.8, 7.6, 0.05])
        z = np.interp(Q, [0, 0.25, 0.4, 0.62, 0.72, 1], [5.6, 6.3, 6.8, 11.2, 13.0, 13.6])
        r = r + 0.25 * fbm2(np.cos(U) * 2, np.sin(U) * 2 + 2 * Q, 1.0, 3, seed)
        cap = np.stack([r * np.cos(U), 1.6 + 1.1 * r * np.sin(U), z + 0.35 * np.sin(U + 0.6)], -1)
        S[nm + "hat"] = gridmesh(put(cap @ Rh.T), cloth_mat(hat, seed + 9), np.stack([U / 6.2832, Q], -1))
    m = cloth_mat(tunic, seed)
    U, Q = np.meshgrid(u, q, indexing="ij")
    rx = np.interp(Q, [0, 0.04, 0.12, 0.20, 0.35, 0.65, 1], [5.2, 6.6, 10.5, 12.6, 12.2, 11.5, 14.2])
    ry = np.interp(Q, [0, 0.04, 0.12, 0.20, 0.35, 0.65, 1], [5.2, 6.0, 7.4, 8.2, 8.6, 8.8, 11.5])
    rx, ry = ndi.gaussian_filter1d(rx, 4, axis=1), ndi.gaussian_filter1d(ry, 4, axis=1)
    fold = np.sin(U * 11 + 2 * np.sin(U * 2 + seed) + 2.2 * Q) * (0.15 + 1.05 * smooth(0.1, 1, Q))
    fold = fold + 1.1 * fbm2(np.cos(U) * 1.6 + seed, np.sin(U) * 1.6 + Q * 2.5, 1.0, 3, seed)
    body = np.stack([(rx + fold) * np.cos(U), 2.2 + (ry + fold) * np.sin(U), -12.5 - 32.5 * Q + 0.3 * fold], -1)
    S[nm + "body"] = gridmesh(put(body), m, np.stack([U / 6.2832, Q], -1))
    U, Q = np.meshgrid(u, np.linspace(0, 1, 30), indexing="ij")
    ruf = np.sin(U * 15 + np.sin(U * 3 + seed)) * Q
    ruff = [
        (5.0 + 3.6 * Q + 0.3 * ruf) * np.cos(U),
        2.4 + (5.0 + 3.2 * Q + 0.3 * ruf) * np.sin(U),
        -11.4 - 1.5 * Q + ruf,
    ]
    S[nm + "ruff"] = gridmesh(
        put(np.stack(ruff, -1)), cloth_mat((0.66, 0.60, 0.48), seed + 5), np.stack([U / 6.2832, Q], -1)
    )
    skin = two(prin(tuple(np.mean(look.get("skin", puppet.SKIN["skin"]), axis=0)), 0.42, 0.45, clearcoat=0.2))
    for sd in (-1, 1):
        way = [(9.5, 1.5, -17), (14.6, 0.5, -23), (15.8, -2, -32), (12.2, -9.5, -39.5), (8.8, -14.5, -41.4)]
        arm = spline([(sd * x, y, z) for x, y, z in way], 120)
        rad = np.interp(np.linspace(0, 1, 120), [0, 0.15, 0.5, 0.8, 0.97, 1], [4.0, 4.6, 4.1, 4.0, 4.8, 4.3])
        tb = tube(arm, rad, 60)
        th, tt = np.linspace(0, 2 * np.pi, 61)[:, None], np.linspace(0, 1, 120)[None]
        wr = 1 + 0.07 * np.sin(tt * 46 + 2 * np.cos(th + sd) + seed) * smooth(0.25, 0.6, tt)
        wr = wr + 0.10 * fbm2(np.cos(th) + 3 * tt + sd, np.sin(th) + 2 * tt, 1.5, 3, seed)
        S[f"{nm}arm{sd + 1}"] = gridmesh(put(arm[None] + (tb - arm[None]) * wr[..., None]), m)
        h0, dr = arm[-1], (arm[-1] - arm[-8]) / np.linalg.norm(arm[-1] - arm[-8])
        hand = np.linspace(0, 1, 50)
        ax = h0 - dr * 1.5 + dr * (hand * 8.0)[:, None] + np.array([0, 0, -1.0]) * (1.6 * hand**2)[:, None]
        hb = tube(ax, np.interp(hand, [0, 0.2, 0.45, 0.7, 0.92, 1], [1.7, 1.7, 2.5, 2.3, 1.3, 0.1]), 30)
        hb[..., 2] = ax[None, :, 2] + (hb[..., 2] - ax[None, :, 2]) * 0.62
        S[f"{nm}hand{sd + 1}"] = gridmesh(put(hb), skin)
        thumb = np.linspace(h0 + [-sd * 1.0, -0.8, 0], h0 + [-sd * 3.2, -4.0, 0.3], 20)
        S[f"{nm}thumb{sd + 1}"] = gridmesh(
            put(tube(thumb, np.interp(np.linspace(0, 1, 20), [0, 0.6, 0.9, 1], [0.95, 0.9, 0.6, 0.05]), 16)), skin
        )


def studio(dark, light, warm, key=5.0):
    """A painted canvas behind, a board to sit behind, a large window from the left."""
    v, u = np.mgrid[0:512, 0:512] / 511.0
    cloud = np.clip(
        0.5 + 0.5 * tpink(512, 512, 1.9, 5) / 2 + 0.45 * np.exp(-(((u - 0.5) ** 2 + (v - 0.45) ** 2) / 0.1)), 0, 1
    )
    S["canvas"] = {
        "type": "rectangle",
        "to_world": T().translate([0, 2.6, 1.2]).rotate([1, 0, 0], 90).scale([4.2, 2.8, 1]),
        "bsdf": two(prin(tex(np.clip(lerp(np.array(dark), np.array(light), cloud), 0, 1)), 0.95, 0.1)),
    }
    S["board"] = {
        "type": "cube",
        "to_world": T().translate([0, -0.08, -0.06]).scale([3.0, 0.4, 0.06]),
        "bsdf": prin((0.10, 0.055, 0.03), 0.5, 0.4),
    }
    S["key"] = {
        "type": "rectangle",
        "to_world": T().look_at([-2.6, -2.4, 2.3], [0, 0, 0.6], [0, 0, 1]).scale([0.9, 1.1, 1]),
        "emitter": {"type": "area", "radiance": rgb(key, key * 0.97, key * (0.94 - warm))},
    }
    S["fill"] = {
        "type": "rectangle",
        "to_world": T().look_at([2.8, -2.2, 1.2], [0, 0, 0.6], [0, 0, 1]).scale([1.2, 1.2, 1]),
        "emitter": {"type": "area", "radiance": rgb(0.55, 0.57, 0.6)},
    }
    S["env"] = {"type": "constant", "radiance": rgb(0.16, 0.165, 0.18)}


def camera(x, y, z, at, fov):
    S["sensor"] = {
        "type": "thinlens",
        "fov": fov,
        "fov_axis": "x",
        "aperture_radius": 0.012,
        "focus_distance": float(np.linalg.norm(np.array(at) - [x, y, z]) - 0.1),
        "to_world": T().look_at([x, y, z], list(at), [0, 0, 1]),
    }


FAIR = {"skin": ([0.56, 0.35, 0.22], [0.66, 0.44, 0.30]), "hair": ([0.22, 0.14, 0.06], [0.46, 0.33, 0.16])}
GRAY = {"skin": ([0.47, 0.285, 0.165], [0.55, 0.36, 0.225]), "hair": ([0.30, 0.28, 0.25], [0.58, 0.55, 0.50])}
RED = {"skin": ([0.60, 0.36, 0.24], [0.68, 0.44, 0.31]), "hair": ([0.20, 0.06, 0.02], [0.42, 0.15, 0.06])}
DEEP = {"skin": ([0.16, 0.075, 0.04], [0.25, 0.13, 0.075]), "hair": ([0.015, 0.012, 0.010], [0.05, 0.04, 0.035])}
INDIGO, MADDER, WELD, MOSS, LINEN = (
    (0.03, 0.09, 0.28),
    (0.40, 0.045, 0.035),
    (0.60, 0.36, 0.05),
    (0.10, 0.17, 0.05),
    (0.62, 0.55, 0.42),
)


def two_dyers():
    studio((0.10, 0.11, 0.12), (0.34, 0.36, 0.36), 0.05)
    figure("a", (-0.24, 0.0, 0.0), 14, 2, INDIGO, 2, nod=4, **FAIR)
    figure("b", (0.25, 0.05, 0.0), -16, -2, MADDER, 5, nod=-6, size=0.0129, **DEEP)
    camera(0.0, -2.6, 0.66, (0, 0.0, 0.50), 27)


def foreman():
    studio((0.025, 0.022, 0.02), (0.11, 0.095, 0.08), 0.10, 4.6)
    figure("a", (0.0, 0.0, 0.0), -22, 1, MOSS, 3, nod=-8, hat=(0.05, 0.045, 0.04), N=190, **GRAY)
    camera(0.06, -2.2, 0.70, (-0.01, 0.0, 0.50), 19)


def crew():
    studio((0.20, 0.20, 0.18), (0.46, 0.44, 0.38), 0.02, 5.4)
    figure("a", (-0.72, 0.10, 0.0), 18, 0, LINEN, 11, nod=2, size=0.0132, hat=(0.10, 0.07, 0.04))
    figure("b", (-0.30, -0.06, -0.14), 8, 2, WELD, 12, nod=4, size=0.0105, **RED)
    figure("c", (0.03, 0.40, 0.0), 0, -1, INDIGO, 13, nod=-3, size=0.0168, **GRAY)
    figure("d", (0.36, -0.04, -0.16), -10, -1, MADDER, 14, nod=-5, size=0.0102, **FAIR)
    figure("e", (0.78, 0.12, 0.0), -20, 1, MOSS, 15, nod=-4, size=0.0130, **DEEP)
    camera(0.0, -3.6, 0.86, (0.02, 0.0, 0.46), 31)


# Of each: the scene, its shape, the scan's size, and what has happened to it since.
ALBUM = {
    "two-dyers": (two_dyers, 2 / 3, (1680, 1120), {"seed": 51, "crease": "fold", "rot": 0.8, "fade_amt": 0.7,
                  "scratches": 26, "dust": 240, "hairs": 18, "stain": (0.80, 0.24, 0.075)}),
    "foreman": (foreman, 4 / 3, (1200, 1600), {"seed": 62, "crease": None, "rot": -0.5, "fade_amt": 0.35,
                "scratches": 34, "dust": 300, "hairs": 16, "silver": 0.22, "stain": (0.2, 0.14, 0.001), "tear": 0.16}),
    "crew": (crew, 2 / 3, (1800, 1200), {"seed": 73, "crease": "corner", "rot": 0.4, "fade_amt": 0.9, "scratches": 30,
             "dust": 320, "hairs": 24, "stain": (0.68, 0.80, 0.08)}),
}  # fmt: skip


def main():
    a = argparse.ArgumentParser()
    a.add_argument("names", nargs="*", default=list(ALBUM))
    a.add_argument("--width", type=int, default=1200)
    a.add_argument("--spp", type=int, default=8)
    a.add_argument("--out", default=str(Path(__file__).resolve().parents[2] / "src" / "kyanoscript" / "demo" / "scans"))
    a = a.parse_args()
    for name in a.names:
        scene, shape, size, since = ALBUM[name]
        S.clear()
        S["type"] = "scene"
        scene()
        wide = a.width if shape < 1 else round(a.width * 0.75)
        linear, _ = render(S, wide, round(wide * shape), a.spp, 5, name=name, passes=min(4, a.spp))
        keep(linear, name)
        write(a.out, name, stored(name, size), **since)


if __name__ == "__main__":
    main()
