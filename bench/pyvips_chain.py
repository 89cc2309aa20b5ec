"""The bench's other side: gray weights, levels and a gradient map in soft light at 85 %, in pyvips.

Two ways, and the bench takes the quicker one: ``composite`` uses the library's own soft light, ``arithmetic`` has the
formula written out of the library's operations. Usage: KIND SOURCE TARGET.
"""

import sys

import pyvips

kind, source, target = sys.argv[1:]
strength = 0.85
photo = pyvips.Image.new_from_file(source, access="sequential")
gray = photo.recomb([[0.299, 0.587, 0.114]])
levels = gray.linear(255 / (230 - 71) / 65535, -71 / (230 - 71)).clamp(min=0, max=1)
dark, light = (0x10, 0x14, 0x18), (0xF7, 0xEF, 0xE0)
ramp = pyvips.Image.identity(ushort=True, size=65536)
bands = [ramp.linear((b - a) / 255 / 65535, a / 255) for a, b in zip(dark, light, strict=True)]
table = bands[0].bandjoin(bands[1:]).cast("float").copy_memory()
top = (levels * 65535).cast("ushort").maplut(table)
if kind == "composite":
    base = (levels * 255).bandjoin([levels * 255, levels * 255]).copy(interpretation="srgb")
    over = (top * 255).bandjoin(255 * strength).copy(interpretation="srgb")
    out = base.composite2(over, "soft-light", compositing_space="srgb")[0:3] * 257
else:
    d = (levels <= 0.25).ifthenelse(((levels * 16 - 12) * levels + 4) * levels, levels**0.5)
    darker = levels - (1 - 2 * top) * levels * (1 - levels)
    lighter = levels + (2 * top - 1) * (d - levels)
    out = (levels + strength * ((top <= 0.5).ifthenelse(darker, lighter) - levels)) * 65535 + 0.5
out.cast("ushort").copy(interpretation="rgb16").write_to_file(target)
