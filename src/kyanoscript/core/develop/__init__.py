"""How a camera's raw becomes a photograph: white, exposure, highlights."""

from kyanoscript.core.develop.source import CameraSource, developed
from kyanoscript.core.develop.values import AS_SHOT, Develop
from kyanoscript.core.develop.white import Camera, White, gains_for, seen_white, white_of

__all__ = ["AS_SHOT", "Camera", "CameraSource", "Develop", "White", "developed", "gains_for", "seen_white", "white_of"]
