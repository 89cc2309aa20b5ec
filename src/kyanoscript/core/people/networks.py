"""The networks, as their authors give them out (Apache licence; MediaPipe 0.10.14), run by OpenCV.

``faces.tflite`` finds faces in a square of 128 pixels (V. Bazarevsky et al., "BlazeFace", 2019), ``points.tflite`` 468
points on one (Y. Kartynnik et al., "Real-time facial surface geometry from monocular video on mobile GPUs", 2019),
``outline.tflite`` whoever stands in the foreground, ``body-1.tflite`` with ``body-2.tflite`` 33 points of one body and
its outline (V. Bazarevsky et al., "BlazePose", 2020).
"""

from __future__ import annotations

import hashlib
import threading
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.watching import breathe

CHECKSUMS = {
    "faces": "bbff11cebd1eb27a1e004cae0b0e63ec8c551cbf34a4451148b4908b8db3eca8",
    "points": "1055cb9d4a9ca8b8c688902a3a5194311138ba256bcc94e336d8373a5f30c814",
    "body": "e9a5c5cb17f736fafd4c2ec1da3b3d331d6edbe8a0d32395855aeb2cdfd64b9f",
    "outline": "9ee168ec7c8f2a16c56fe8e1cfbc514974cbbb7e434051b455635f1bd1462f5c",
}
_PARTS = {"body": ("body-1", "body-2")}  # files of at most 4 MB each, which lie one after the other
_OUT = {
    "faces": ("regressors", "classificators"),
    "points": ("conv2d_21", "conv2d_31"),
    "outline": ("activation_10",),
    "body": ("Identity", "Identity_1", "Identity_2"),
}
_free: dict[str, list[cv2.dnn.Net]] = {}  # a network is run by one thread at a time, which takes it from here
_said: dict[tuple[Any, ...], tuple[NDArray[Any], ...]] = {}  # lately, of which square
_KEPT = 32 << 20  # bytes of it: more than one look at a picture needs
_lock = threading.Lock()


def run(name: str, gray: NDArray[np.float32]) -> tuple[NDArray[Any], ...]:
    """What a network finds in a gray square ``(n, n)``, as bright as the network is used to.

    It says the same of the same square: what it said last is kept, so that looking that was given up goes on.
    """
    breathe()
    key = name, hashlib.blake2b(gray.tobytes(), digest_size=16).digest(), gray.shape
    with _lock:
        if (found := _said.get(key)) is not None:
            return found
    given = np.ascontiguousarray(np.broadcast_to(gray, (1, 3, *gray.shape)), np.float32)
    with _lock:
        free = _free.setdefault(name, [])
        net = free.pop() if free else _network(name)
    net.setInput(given)
    found = tuple(np.asarray(out).copy() for out in net.forward(_OUT[name]))
    for out in found:
        out.flags.writeable = False
    with _lock:
        free.append(net)
        _said[key] = found
        while len(_said) > 1 and sum(out.nbytes for outs in _said.values() for out in outs) > _KEPT:
            del _said[next(iter(_said))]
    return found


def surely(logits: NDArray[Any]) -> NDArray[np.float64]:
    """How sure a network is, 0…1, of what it answers in logits."""
    return 1 / (1 + np.exp(-np.clip(np.asarray(logits, np.float64), -80, 80)))


def _network(name: str) -> cv2.dnn.Net:
    folder = resources.files("kyanoscript") / "core" / "people"
    data = b"".join((folder / f"{part}.tflite").read_bytes() for part in _PARTS.get(name, (name,)))
    if hashlib.sha256(data).hexdigest() != CHECKSUMS[name]:
        raise RuntimeError(f"{name}.tflite is not the file that ships with the program")
    return cv2.dnn.readNetFromTFLite(np.frombuffer(data, np.uint8))
