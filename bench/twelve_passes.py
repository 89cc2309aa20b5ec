"""(c) The twelve-pass script at 24 MP against pyvips; (d) its memory and time from 6 to 400 MP; (e) wide blurs.

Whole processes, 16-bit TIFF to 16-bit TIFF, start included.
"""

from __future__ import annotations

import json
import random
import sys
from pathlib import Path
from typing import Any

import measure


def script() -> dict[str, Any]:
    """Twelve passes: all kinds, one outside an oval, a plate under a wide blur, and 40 strokes of dodge and burn."""
    dice = random.Random(5)
    strokes = []
    for _ in range(40):
        x, y = dice.uniform(5, 95), dice.uniform(5, 95)
        way = [[round(x + 4 * k + dice.uniform(-1, 1), 2), round(y + dice.uniform(-3, 3), 2)] for k in range(5)]
        tones = dice.choice(["shadows", "mids", "highlights"])
        strokes.append(
            {"points": way, "exposure": dice.choice([50, -50, 25]), "tones": tones, "size": dice.choice([60, 100, 160])}
        )
    oval = {"shape": "oval", "width": 700, "height": 500, "inverted": True}
    passes = [
        {"pass": "exposure", "exposure": 0.3, "shadows": 20, "highlights": -20},
        {"pass": "colour-balance", "mids_red": 8, "highlights_blue": -6},
        {"pass": "gray-weights", "red": 45, "green": 45, "blue": 10, "ring": [[55, 20], [255, -40]]},
        {"pass": "levels", "in_black": 12, "in_white": 244, "gamma": 1.1},
        {"pass": "curves", "every": [[0, 0], [64, 52], [192, 204], [255, 255]]},
        {"pass": "local-exposure", "of": 2, "open": 40, "hold": 20},
        {"pass": "local-contrast", "of": 2, "fine": 30, "broad": 15},
        {"pass": "sharpen", "amount": 80, "radius": 0.25},
        {"pass": "curves", "every": [[0, 0], [128, 110], [255, 255]], "stencil": {"shapes": [oval]}},
        {
            "pass": "plate",
            "source": "print",
            "run": [{"pass": "soften", "radius": 15}],
            "blend": "soft-light",
            "strength": 45,
        },
        {"pass": "gradient-map", "stops": [[0, "#101418"], [100, "#f7efe0"]]},
        {"pass": "dodge-burn", "strokes": strokes},
    ]
    return {"kyanoscript": 7, "passes": passes}


def _file(folder: Path) -> Path:
    file = folder / "twelve.json"
    file.write_text(json.dumps(script()))
    return file


def against_pyvips(folder: Path) -> dict[str, Any]:
    """Time and memory at 24 MP, both sides."""
    source, file = measure.picture(folder), _file(folder)
    ours_words = measure.render_words(source, file, folder / "ours.tif")
    measure.run(ours_words)
    other_words = [sys.executable, str(measure.HERE / "pyvips_twelve.py"), str(file), str(source)]
    other = measure.best([*other_words, str(folder / "other.tif")], 3)
    ours = measure.best(ours_words, 3)
    return {
        "ours_seconds": ours[0],
        "ours_megabytes": ours[1],
        "ours_processor": ours.processor,
        "pyvips_seconds": other[0],
        "pyvips_megabytes": other[1],
        "pyvips_processor": other.processor,
        "time_ratio": ours[0] / other[0],
        "processor_ratio": ours.processor / other.processor,
        "memory_ratio": ours[1] / other[1],
    }


def sizes(folder: Path) -> list[dict[str, float]]:
    """Seconds per megapixel and peak memory at 6, 24, 100 and 400 MP, tiled TIFF to tiled TIFF."""
    file, found = _file(folder), []
    source = measure.picture(folder, 6, tiled=True)
    start = measure.best(measure.render_words(source, file, folder / "tiled.tif", "--longer-side", "60"), 3)[0]
    for megapixels in (6, 24, 100, 400):
        source, target = measure.picture(folder, megapixels, tiled=True), folder / "tiled.tif"
        words = measure.render_words(source, file, target, "--tiled")
        took = measure.best(words, 3 if megapixels < 50 else 1)
        found.append({"megapixels": megapixels, "start": start, **took._asdict()})
        target.unlink()
        if megapixels > 50:
            source.unlink()
    return found


def wide_blurs(folder: Path) -> dict[str, float]:
    """Seconds of one soften at radius 10, 50 and 300 px of 24 MP."""
    source, found = measure.picture(folder), {}
    for pixels in (10, 50, 300):
        file = folder / "blur.json"
        file.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "soften", "radius": pixels / 6}]}))
        found[f"{pixels}"] = measure.best(measure.render_words(source, file, folder / "ours.tif"), 3)[0]
    return found
