"""Scans of charts, made as badly as people make them, and read: ``python tools/darkroom/readings.py --count 200``.

Every scan is of another chart and process, turned by any angle, in perspective, unevenly lit by up to 30 %, blurred,
dusty, grainy, at 100 to 600 pixels per inch, in a JPEG of quality 60.
"""

from __future__ import annotations

import argparse
import io

import numpy as np
from PIL import Image

from kyanoscript.core.colour import SRGB, to_encoded, to_lab
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.chart import ChartFilm, Drawn
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.chart import STEPS, wedge
from kyanoscript.core.process.darkroom import Scanner, coated, paper_light, printed, scanned
from kyanoscript.core.process.reading import Scan, read_chart

PPI = 300.0  # of the print
LABELS = tuple(BATHS)


def scan_of(k: int) -> tuple[np.ndarray, np.ndarray, Scanner]:
    """The k-th scan as planes, the print's light, and how it was scanned."""
    rng = np.random.default_rng(1000 + k)
    bath = BATHS[LABELS[k % len(LABELS)]]
    film = ChartFilm(Drawn(wedge(STEPS[k % len(STEPS)]), PPI), mirrored=False)
    planes = film.region(Rect(0, 0, *film.size(1.0)))
    light = printed(bath, planes, coating=coated(planes.shape[1:], PPI, k))
    how = Scanner(
        ppi=float(rng.uniform(100, 600)), turn=float(rng.uniform(-180, 180)), perspective=float(rng.uniform(0, 0.03)),
        uneven=float(rng.uniform(0, 0.3)), blur=float(rng.uniform(0.3, 1.2)), dust=int(rng.integers(0, 40)),
        noise=float(rng.uniform(0.002, 0.02)), seed=k,
    )  # fmt: skip
    file = io.BytesIO()
    Image.fromarray(scanned(light, PPI, how, paper_light(bath))).save(file, "JPEG", quality=60)
    pixels = np.asarray(Image.open(file))
    return np.ascontiguousarray(pixels.transpose(2, 0, 1), np.float32) / np.float32(255), light, how


def read(k: int) -> tuple[Scan, list[float], Scanner]:
    """The k-th scan read, and by how much of L* each patch that counts is off."""
    planes, light, how = scan_of(k)
    scan = read_chart(planes, SRGB, BATHS[LABELS[k % len(LABELS)]].paper[0])
    off = []
    for one in scan.good:
        box = one.patch.box
        rows, columns = (slice(round((start + side / 4) * PPI / 25.4), round((start + side * 3 / 4) * PPI / 25.4))
                         for start, side in ((box.y, box.height), (box.x, box.width)))  # fmt: skip
        true = to_encoded(light[:, rows, columns].reshape(3, -1).mean(axis=1)).reshape(3, 1)
        off.append(abs(one.lab[0] - float(to_lab(true, SRGB)[0, 0])))
    return scan, off, how


def main() -> None:
    """Read so many, and say how well."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    count = parser.parse_args().count
    every, missed, damaged, three = [], 0, 0, 0
    for k in range(count):
        try:
            scan, off, how = read(k)
        except ValueError as error:
            missed += 1
            print(k, error)
            continue
        every += off
        damaged += len(scan.patches) - len(scan.good)
        three += scan.markers < 4
        if max(off) > 1.5:
            print(f"{k}: {scan.chart.name}, off by {max(off):.2f} at most, {how}")
    print(f"{count - missed} of {count} charts found, {three} of them by three markers; {damaged} patches left out")
    middle, most = np.percentile(every, [50, 95])
    print(f"off by {middle:.2f} L* at the median, {most:.2f} at 95 %, {max(every):.2f} at most")


if __name__ == "__main__":
    main()
