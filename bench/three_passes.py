"""(a) Three passes at 24 MP, whole processes, against the same chain in pyvips: time and peak resident memory.

Gray weights, levels, gradient map in soft light at 85 %; a 16-bit TIFF to a 16-bit TIFF, start included.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np
import tifffile

import measure

SCRIPT = {
    "kyanoscript": 1,
    "passes": [
        {"pass": "gray-weights"},
        {"pass": "levels", "in_black": 71, "in_white": 230},
        {
            "pass": "gradient-map",
            "stops": [[0, "#101418"], [100, "#f7efe0"]],
            "strength": 85,
            "blend": "soft-light",
        },
    ],
}


def against_pyvips(folder: Path) -> dict[str, Any]:
    """Measure (a)."""
    source = measure.picture(folder)
    script = folder / "script.json"
    script.write_text(json.dumps(SCRIPT))
    ours_file, other_file = folder / "ours.tif", folder / "other.tif"
    ours_words = measure.render_words(source, script, ours_file)
    measure.run(ours_words)  # compiles, should that still be needed, and warms the disk's cache
    others = {
        kind: [sys.executable, str(measure.HERE / "pyvips_chain.py"), kind, str(source), str(other_file)]
        for kind in ("composite", "arithmetic")
    }
    measured = {kind: measure.best(words) for kind, words in others.items()}
    chosen = min(measured, key=lambda kind: measured[kind][0])
    ours = measure.best(ours_words)
    measure.run(others["arithmetic"])
    difference = tifffile.imread(ours_file).astype(np.int32) - tifffile.imread(other_file)
    return {
        "ours_seconds": ours[0],
        "ours_megabytes": ours[1],
        "ours_processor": ours.processor,
        "pyvips_chain": chosen,
        "pyvips_seconds": measured[chosen][0],
        "pyvips_megabytes": measured[chosen][1],
        "pyvips_processor": measured[chosen].processor,
        "pyvips_all": measured,
        "time_ratio": ours[0] / measured[chosen][0],
        "processor_ratio": ours.processor / measured[chosen].processor,
        "memory_ratio": ours[1] / measured[chosen][1],
        "mean_difference_of_255": float(np.abs(difference).mean() / 257),
    }
