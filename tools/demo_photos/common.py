"""Shared tools for the demo pictures: noise, meshes, materials, rendering and the camera response."""

import argparse
import atexit
import ctypes.util
import glob
import os
import tempfile
import time
from pathlib import Path

if "DRJIT_LIBLLVM_PATH" not in os.environ:  # the renderer's JIT needs a libLLVM (apt: libllvm19)
    for _v in ["LLVM"] + [f"LLVM-{v}" for v in range(21, 13, -1)]:
        _f = ctypes.util.find_library(_v)
        if _f:
            os.environ["DRJIT_LIBLLVM_PATH"] = _f
            break
import cv2
import drjit as dr
import mitsuba as mi
import numpy as np

mi.set_variant("llvm_ad_rgb")
import mitsuba_oidn

WORK = Path(os.environ.get("DEMO_WORK", Path(tempfile.gettempdir()) / "demo-photos-work"))
WORK.mkdir(parents=True, exist_ok=True)
TMP = tempfile.mkdtemp(dir=WORK, prefix="mesh-")


def _clean():
    for f in glob.glob(TMP + "/*"):
        os.remove(f)
    os.rmdir(TMP)


atexit.register(_clean)


def cli(width=1800, spp=8, passes=4):
    """WIDTH SPP on the command line, with defaults -> width, height (3:2), spp, passes"""
    a = argparse.ArgumentParser()
    a.add_argument("width", nargs="?", type=int, default=width)
    a.add_argument("spp", nargs="?", type=int, default=spp)
    a = a.parse_args()
    return a.width, a.width * 2 // 3, a.spp, max(1, min(passes, a.spp))


T = mi.ScalarTransform4f
LAT = np.random.default_rng(7).random((64, 64, 64)).astype(np.float32) * 2 - 1
_tex3 = None


def noise(p, seed=0):
    """value noise, quintic weights, periodic 64^3 lattice, evaluated by the LLVM JIT; p (...,3) -> ~[-1,1]"""
    global _tex3
    if _tex3 is None:
        _tex3 = mi.Texture3f(
            mi.TensorXf(np.ascontiguousarray(np.moveaxis(LAT, (0, 1, 2), (2, 1, 0))[..., None])),
            wrap_mode=dr.WrapMode.Repeat,
        )
    p = np.asarray(p, np.float64) + seed * 17.31
    i = np.floor(p)
    f = p - i
    i = i % 64
    f = f * f * f * (f * (f * 6 - 15) + 10)
    c = ((i + f + 0.5) / 64).astype(np.float32).reshape(-1, 3)
    q = mi.Point3f(np.ascontiguousarray(c.T))
    return np.array(_tex3.eval(q)[0]).reshape(p.shape[:-1]).astype(np.float32)


def fbm(p, oct=5, lac=2.03, gain=0.5, seed=0):
    a, s, n = 1.0, 0, 0.0
    for o in range(oct):
        s = s + a * noise(np.asarray(p) * lac**o, seed + o)
        n += a
        a *= gain
    return s / n


def fbm2(u, v, scale, oct=5, seed=0, w=0.0, gain=0.5):
    return fbm(np.stack([u * scale, v * scale, np.full_like(u, w)], -1), oct, gain=gain, seed=seed)


def tnoise(h, w, sigma, seed):
    """tileable gaussian noise by FFT, unit std"""
    r = np.random.default_rng(seed).standard_normal((h, w))
    fy = np.fft.fftfreq(h)[:, None]
    fx = np.fft.rfftfreq(w)[None]
    sy, sx = sigma if np.ndim(sigma) else (sigma, sigma)
    g = np.exp(-2 * np.pi**2 * ((fy * sy) ** 2 + (fx * sx) ** 2))
    o = np.fft.irfft2(np.fft.rfft2(r) * g, s=(h, w))
    return (o - o.mean()) / o.std()


def tpink(h, w, beta, seed, aniso=(1, 1)):
    r = np.random.default_rng(seed).standard_normal((h, w))
    fy = np.fft.fftfreq(h)[:, None] * aniso[0] * h
    fx = np.fft.rfftfreq(w)[None] * aniso[1] * w
    f = np.hypot(fy, fx)
    f[0, 0] = 1e9
    o = np.fft.irfft2(np.fft.rfft2(r) * f ** (-beta / 2), s=(h, w))
    return (o - o.mean()) / o.std()


def smooth(a, b, x):
    t = np.clip((x - a) / (b - a), 0, 1)
    return t * t * (3 - 2 * t)


def lerp(a, b, t):
    return np.asarray(a) * (1 - np.asarray(t)[..., None]) + np.asarray(b) * np.asarray(t)[..., None]


def normals(V, F):
    n = np.zeros_like(V)
    fn = np.cross(V[F[:, 1]] - V[F[:, 0]], V[F[:, 2]] - V[F[:, 0]])
    for k in range(3):
        np.add.at(n, F[:, k], fn)
    return n / np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-20)


_n = [0]


def ply(V, F, bsdf=None, uv=None, col=None, N="auto", extra=None):
    V = np.asarray(V, np.float32)
    F = np.asarray(F, np.int32)
    cols = [("x", V[:, 0]), ("y", V[:, 1]), ("z", V[:, 2])]
    if N is not None:
        if isinstance(N, str):
            N = normals(V.astype(np.float64), F)
        cols += [("nx", N[:, 0]), ("ny", N[:, 1]), ("nz", N[:, 2])]
    if uv is not None:
        cols += [("u", uv[:, 0]), ("v", uv[:, 1])]
    if col is not None:
        cols += [("r", col[:, 0]), ("g", col[:, 1]), ("b", col[:, 2])]
    dt = np.dtype([(n, "<f4") for n, _ in cols])
    a = np.empty(len(V), dt)
    for n, c in cols:
        a[n] = c
    fa = np.empty(len(F), np.dtype([("n", "u1"), ("i", "<i4", (3,))]))
    fa["n"] = 3
    fa["i"] = F
    _n[0] += 1
    fn = f"{TMP}/{_n[0]}.ply"
    with open(fn, "wb") as f:
        f.write(
            (
                f"ply\nformat binary_little_endian 1.0\nelement vertex {len(V)}\n"
                + "".join(f"property float {n}\n" for n, _ in cols)
                + f"element face {len(F)}\nproperty list uchar int vertex_indices\nend_header\n"
            ).encode()
        )
        f.write(a.tobytes())
        f.write(fa.tobytes())
    d = {"type": "ply", "filename": fn, "face_normals": N is None}
    if bsdf is not None:
        d["bsdf"] = bsdf
    return d


def grid_faces(nu, nv, wrap_u=False):
    i = np.arange(nu if wrap_u else nu - 1)[:, None]
    j = np.arange(nv - 1)[None]
    a = i * nv + j
    b = ((i + 1) % nu) * nv + j
    return np.concatenate([np.stack([a, b, b + 1], -1).reshape(-1, 3), np.stack([a, b + 1, a + 1], -1).reshape(-1, 3)])


def gridmesh(P, bsdf, uv=None, col=None, flip=False):
    nu, nv = P.shape[:2]
    F = grid_faces(nu, nv)
    if flip:
        F = F[:, ::-1]
    if uv is None:
        U, W = np.meshgrid(np.linspace(0, 1, nu), np.linspace(0, 1, nv), indexing="ij")
        uv = np.stack([U, W], -1)
    return ply(P.reshape(-1, 3), F, bsdf, uv.reshape(-1, 2), None if col is None else col.reshape(-1, 3))


def revolve(prof, nu=200, warp=None):
    """prof (n,2) r,z -> P (nu+1,n,3) seam duplicated"""
    th = np.linspace(0, 2 * np.pi, nu + 1)[:, None]
    r = prof[None, :, 0]
    z = np.broadcast_to(prof[None, :, 1], (nu + 1, len(prof)))
    P = np.stack([r * np.cos(th), r * np.sin(th), z], -1)
    return warp(P, th) if warp else P


def spline(pts, n):
    from scipy.interpolate import make_interp_spline

    pts = np.asarray(pts, float)
    t = np.r_[0, np.cumsum(np.linalg.norm(np.diff(pts, axis=0), axis=1))]
    return make_interp_spline(t, pts, k=3)(np.linspace(0, t[-1], n))


def tube(path, rad, m=16):
    path = np.asarray(path, float)
    n = len(path)
    rad = np.broadcast_to(rad, n)
    t = np.gradient(path, axis=0)
    t /= np.linalg.norm(t, axis=1, keepdims=True)
    up = np.array([0, 1, 0.0]) if abs(t[0, 1]) < 0.9 else np.array([1, 0, 0.0])
    u = np.empty_like(t)
    for i in range(n):
        up = up - t[i] * np.dot(up, t[i])
        up /= np.linalg.norm(up)
        u[i] = up
    v = np.cross(t, u)
    a = np.linspace(0, 2 * np.pi, m + 1)
    return path[None] + rad[None, :, None] * (np.cos(a)[:, None, None] * u[None] + np.sin(a)[:, None, None] * v[None])


def tex(a, scale=None, filt="bilinear", wrap="repeat"):
    a = np.ascontiguousarray(a, np.float32)
    a = a[..., None] if a.ndim == 2 else a
    d = {"type": "bitmap", "bitmap": mi.Bitmap(a), "raw": True, "filter_type": filt, "wrap_mode": wrap}
    if scale is not None:
        d["to_uv"] = T().scale([scale, scale, 1]) if np.isscalar(scale) else T().scale([scale[0], scale[1], 1])
    return d


def rgb(*c):
    return {"type": "rgb", "value": list(map(float, c))}


def prin(base, rough=0.5, spec=0.5, **k):
    b = base if isinstance(base, dict) else rgb(*base)
    r = rough if isinstance(rough, dict) else float(rough)
    return dict({"type": "principled", "base_color": b, "roughness": r, "specular": float(spec)}, **k)


def bump(b, h, scale):
    return {"type": "bumpmap", "arbitrary": h, "scale": float(scale), "bsdf": b}


def two(b):
    return {"type": "twosided", "bsdf": b}


VC = {"type": "mesh_attribute", "name": "vertex_color"}


def render(scene, w, h, spp, depth=8, passes=None, name=None, denoise=True):
    scene = dict(scene)
    scene["integrator"] = {
        "type": "aov",
        "aovs": "alb:albedo,nn:sh_normal",
        "img": {"type": "path", "max_depth": depth, "rr_depth": 5},
    }
    scene["sensor"] = dict(scene["sensor"])
    scene["sensor"]["film"] = {
        "type": "hdrfilm",
        "width": w,
        "height": h,
        "rfilter": {"type": "box"} if denoise else {"type": "gaussian"},
        "pixel_format": "rgb",
        "component_format": "float32",
    }
    scene["sensor"]["sampler"] = {"type": "independent"}
    t = time.time()
    sc = mi.load_dict(scene)
    tl = time.time() - t
    t = time.time()
    c0 = os.times()
    acc = 0
    chunk = max(1, int(spp if passes is None else spp / passes))
    n = 0
    while n < spp:
        tp = time.time()
        cp = os.times()
        acc = acc + np.array(mi.render(sc, spp=chunk, seed=n + 1)) * chunk
        n += chunk
        ce = os.times()
        print(
            f"  pass {chunk}spp {time.time() - tp:.1f}s cpu {ce.user - cp.user + ce.system - cp.system:.1f}", flush=True
        )
    im = acc / n
    tr = time.time() - t
    c1 = os.times()
    cpu = (c1.user - c0.user) + (c1.system - c0.system)
    mp = w * h / 1e6
    print(
        f"[{name}] {w}x{h} spp{n} load {tl:.1f}s render {tr:.1f}s wall ({tr / mp / n:.2f} s/MP/spp) "
        f"cpu {cpu:.1f}s ({cpu / mp / n:.2f} cpu-s/MP/spp)",
        flush=True,
    )
    # channels: rgb, alb(3), nn(3)
    col = np.ascontiguousarray(im[..., :3], np.float32)
    if im.shape[-1] == 10:
        alb, nn = im[..., 4:7], im[..., 7:10]
    else:
        alb, nn = im[..., 3:6], im[..., 6:9]
    if denoise:
        t = time.time()
        col = np.minimum(col, 60)
        d = mitsuba_oidn.denoise(
            col, np.ascontiguousarray(np.clip(alb, 0, 1), np.float32), np.ascontiguousarray(nn, np.float32), hdr=True
        )
        d = np.array(d)
        print(f"[{name}] denoise {time.time() - t:.1f}s")
        return d, col
    return col, col


def srgb(x):
    x = np.clip(x, 0, 1)
    return np.where(x <= 0.0031308, x * 12.92, 1.055 * x ** (1 / 2.4) - 0.055)


def develop(
    x,
    exposure=1.0,
    wb=(1, 1, 1),
    contrast=1.0,
    vig=0.35,
    bloom=0.04,
    grain=0.012,
    ca=0.0004,
    soft=0.55,
    sat=1.0,
    seed=0,
    toe=0.0,
    mix_noisy=None,
):
    """scene-linear -> 8-bit, with lens + film response"""
    h, w = x.shape[:2]
    s = w / 2400
    x = np.maximum(x, 0) * exposure * np.asarray(wb)
    if bloom:
        b = 0
        for sg, k in ((6, 0.5), (24, 0.3), (90, 0.2)):
            b = b + k * cv2.GaussianBlur(x.astype(np.float32), (0, 0), sg * s)
        x = x * (1 - bloom) + b * bloom
    yy, xx = np.mgrid[0:h, 0:w]
    r2 = ((xx - w / 2) ** 2 + (yy - h / 2) ** 2) / ((w / 2) ** 2 + (h / 2) ** 2)
    x = x * (1 - vig * r2 * (0.6 + 0.4 * r2))[..., None]
    if ca:
        for c, k in ((0, 1 + ca), (2, 1 - ca)):
            M = np.float32([[k, 0, w / 2 * (1 - k)], [0, k, h / 2 * (1 - k)]])
            x[..., c] = cv2.warpAffine(
                x[..., c].astype(np.float32), M, (w, h), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
            )
    if soft:
        x = cv2.GaussianBlur(x.astype(np.float32), (0, 0), soft)
    x = np.maximum(x, 0)

    # shoulder: film-like on max-ish norm mixed with per channel
    def curve(v):  # linear up to ~.5 and soft shoulder to 1 at ~6
        a = np.maximum(v, 0)
        return 1 - np.exp(-a * 1.05 - 0.10 * a * a)

    y = curve(x)
    n = np.maximum(x.max(-1, keepdims=True), 1e-6)
    y2 = x / n * curve(n)
    y = 0.65 * y + 0.35 * y2
    L = (y @ [0.2126, 0.7152, 0.0722])[..., None]
    y = L + (y - L) * sat
    g = srgb(y)
    g = np.clip(g, 0, 1)
    g = g + contrast * 0.35 * (g - 0.45) * g * (1 - g) * 2  # gentle S
    rng = np.random.default_rng(seed)
    n1 = cv2.GaussianBlur(rng.standard_normal((h, w, 1)).astype(np.float32), (0, 0), 0.7)[..., None] * 1.9
    n3 = cv2.GaussianBlur(rng.standard_normal((h, w, 3)).astype(np.float32), (0, 0), 0.8) * 1.9
    g = g + grain * (n1 * 0.8 + n3 * 0.5) * (0.35 + 1.3 * np.sqrt(np.clip(g, 0, 1) * (1 - np.clip(g, 0, 1))))
    return (np.clip(g, 0, 1) * 255 + 0.5).astype(np.uint8)


def subdivide(V, F):
    """one midpoint subdivision"""
    E = np.sort(np.concatenate([F[:, [0, 1]], F[:, [1, 2]], F[:, [2, 0]]]), 1)
    E, inv = np.unique(E, axis=0, return_inverse=True)
    inv = inv.reshape(-1)
    n = len(F)
    m = len(V) + inv
    a, b, d = m[:n], m[n : 2 * n], m[2 * n :]
    V2 = np.concatenate([V, (V[E[:, 0]] + V[E[:, 1]]) / 2])
    return V2, np.concatenate([np.stack(q, 1) for q in ((F[:, 0], a, d), (a, F[:, 1], b), (d, b, F[:, 2]), (a, b, d))])
