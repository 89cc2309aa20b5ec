"""The other side of the twelve-pass bench: the nearest chain of the same operations in pyvips.

Stand-ins for what the library lacks: a wide Gaussian base for local exposure and local contrast (which here are
edge-aware), a table over the hue band of LCh for the ring, strokes drawn small, blurred and enlarged for dodge and
burn. Curves, levels and exposure are 16-bit tables, wide Gaussians are done on a reduced picture, and what several
branches need is held in memory: as one would do it there. Usage: SCRIPT SOURCE TARGET.
"""

import json
import sys
from pathlib import Path

import numpy as np
import pyvips

script, source, target = sys.argv[1:]
passes = json.loads(Path(script).read_text())["passes"]
photo = pyvips.Image.new_from_file(source, access="random")
width, height = photo.width, photo.height
longer = max(width, height)
grays = np.arange(65536) / 65535


def table(values):
    """A 16-bit table image of values 0…1, or of three such rows."""
    rows = np.atleast_2d(np.clip(values, 0, 1))
    whole = np.rint(rows.T * 65535).astype(np.uint16).reshape(1, 65536, len(rows))
    return pyvips.Image.new_from_array(whole)


def to_light(v):
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def to_encoded(v):
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)


LIGHT = pyvips.Image.new_from_array(to_light(grays).astype(np.float32).reshape(1, -1))
ENCODED = table(to_encoded(grays))


def whole(image):
    """0…1 back to 16 bits."""
    return (image.clamp(min=0, max=1) * 65535).cast("ushort")


def part(image):
    return image / 65535


def blurred(image, sigma):
    """A Gaussian; a wide one on a reduced picture."""
    factor = 1
    while sigma / factor / 2 >= 2:
        factor *= 2
    if factor == 1:
        return image.gaussblur(sigma)
    small = image.shrink(factor, factor).gaussblur(sigma / factor).copy_memory()
    return small.resize(image.width / small.width, vscale=image.height / small.height, kernel="linear")


# 1 exposure, shadows, highlights
step = passes[0]
v = to_encoded(np.minimum(to_light(grays) * 2 ** step["exposure"], 1))
v = v + 0.016 * step["shadows"] * v * (1 - v) ** 3
u = 1 - v
v = 1 - (u - 0.016 * step["highlights"] * u * (1 - u) ** 3)
image = photo.maplut(table(v))
# 2 colour balance, luminance held
rgb = part(image)
y = rgb.recomb([[0.299, 0.587, 0.114]])
dark, light = (1 - y) * (1 - y), y * y
mid = 1 - dark - light
was = image.maplut(LIGHT).recomb([[0.2126, 0.7152, 0.0722]])
moves = [passes[1].get("mids_red", 0) * 0.0035, 0, passes[1].get("highlights_blue", 0) * 0.0035]
moved = whole((rgb[0] + mid * moves[0]).bandjoin([rgb[1], rgb[2] + light * moves[2]])).maplut(LIGHT)
now = moved.recomb([[0.2126, 0.7152, 0.0722]])
image = whole(moved * (was / now)).maplut(ENCODED)
# 3 gray weights with ring
step = passes[2]
rgb = part(image)
gray = rgb.recomb([[step["red"] / 100, step["green"] / 100, step["blue"] / 100]])
hue = image.copy(interpretation="rgb16").colourspace("lch")[2]
degrees = np.arange(361)
lift = sum(
    a / 100 * np.clip(0.5 + 0.5 * np.cos(np.pi * np.clip(((degrees - h + 180) % 360 - 180) / 60, -1, 1)), 0, 1)
    for h, a in step["ring"]
)
lifts = pyvips.Image.new_from_array(lift.astype(np.float32).reshape(1, -1))
spread = (rgb[0] > rgb[1]).ifthenelse(rgb[0], rgb[1])
spread = (spread > rgb[2]).ifthenelse(spread, rgb[2])
least = (rgb[0] < rgb[1]).ifthenelse(rgb[0], rgb[1])
least = (least < rgb[2]).ifthenelse(least, rgb[2])
dull = 1 - (spread - least)
by = hue.cast("ushort").maplut(lifts) * (1 - dull * dull)
gray = (by > 0).ifthenelse(gray + by * (1 - gray), gray + by * gray)
# 4 levels, 5 curves: one table each
step = passes[3]
v = (np.clip((grays * 255 - step["in_black"]) / (step["in_white"] - step["in_black"]), 0, 1)) ** (1 / step["gamma"])
points = np.array(passes[4]["every"]) / 255
image = whole(gray).maplut(table(v)).maplut(table(np.interp(grays, points[:, 0], points[:, 1])))
# 6 local exposure on a wide Gaussian base
gray = part(image.copy_memory())
base = blurred(gray, longer / 16 / 4)
opened = base * (1 + 3.5 * 0.4 * (1 - base) ** 3)
up = 1 - opened
held = up * (1 + 3.0 * 0.2 * (1 - up) ** 3)
gray = gray * (opened + 1 / 255) / (base + 1 / 255)
gray = (1 - (1 - gray) * (held + 1 / 255) / (up + 1 / 255)).clamp(min=0, max=1)
# 7 local contrast: fine and broad Gaussian bases
fine, broad = blurred(gray, 0.0014 * longer), blurred(gray, 0.014 * longer)
gray = (gray + 0.6 * (gray - fine) + 0.3 * (fine - broad)).clamp(min=0, max=1)
# 8 sharpen
gray = whole(gray).copy_memory() / 65535
step = passes[7]
gray = (gray + step["amount"] / 100 * (gray - gray.gaussblur(step["radius"] / 1000 * longer))).clamp(min=0, max=1)
# 9 curves outside an oval
shape = passes[8]["stencil"]["shapes"][0]
xyz = pyvips.Image.xyz(width, height)
ex = (xyz[0] - width / 2) / (shape["width"] / 2000 * longer)
ey = (xyz[1] - height / 2) / (shape["height"] / 2000 * longer)
t = ((1 - (ex * ex + ey * ey) ** 0.5) / 0.5).clamp(min=0, max=1)
mask = 1 - t * t * (3 - 2 * t)
points = np.array(passes[8]["every"]) / 255
curved = part(whole(gray).maplut(table(np.interp(grays, points[:, 0], points[:, 1]))))
gray = gray + mask * (curved - gray)
gray = whole(gray).copy_memory() / 65535
# 10 plate: the print so far, widely blurred in light, in soft light at 45 %
soft = part(whole(blurred(whole(gray).maplut(LIGHT), passes[9]["run"][0]["radius"] / 1000 * longer)).maplut(ENCODED))
d = (gray <= 0.25).ifthenelse(((gray * 16 - 12) * gray + 4) * gray, gray**0.5)
darker, lighter = gray - (1 - 2 * soft) * gray * (1 - gray), gray + (2 * soft - 1) * (d - gray)
gray = gray + 0.45 * ((soft <= 0.5).ifthenelse(darker, lighter) - gray)
# 11 gradient map
ends = [[int(c[k : k + 2], 16) / 255 for k in (1, 3, 5)] for _, c in passes[10]["stops"]]
image = part(whole(gray).maplut(table([a + (b - a) * grays for a, b in zip(*ends, strict=True)])))
# 12 dodge and burn: exposures of three ranges drawn small, blurred, enlarged
small_w, small_h = width // 16, height // 16
planes = []
for tones in ("shadows", "mids", "highlights"):
    total = pyvips.Image.black(small_w, small_h).cast("float")
    for stroke in passes[11]["strokes"]:
        if stroke["tones"] == tones:
            radius = stroke["size"] / 2000 * longer / 16
            drawn = pyvips.Image.black(small_w, small_h)
            for x, y in stroke["points"]:
                drawn = drawn.draw_circle(
                    255, int(x / 100 * small_w), int(y / 100 * small_h), int(radius / 2), fill=True
                )
            total = total + drawn.gaussblur(radius / 4) * (stroke["exposure"] / 100 / 255)
    planes.append(total.copy_memory().resize(width / small_w, vscale=height / small_h, kernel="linear"))
y = image.recomb([[0.299, 0.587, 0.114]])
e = 2 * (planes[0] * (1 - y) * (1 - y) + planes[1] * 2 * y * (1 - y) + planes[2] * y * y)
after = y ** ((e * -1).math2_const("wop", [2.0]))
image = image * ((after + 1 / 64) / (y + 1 / 64))
whole(image).copy(interpretation="rgb16").write_to_file(target)
