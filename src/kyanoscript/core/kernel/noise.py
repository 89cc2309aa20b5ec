"""Noise that belongs to places, not to pixels: the same whatever region is rendered.

Values come from a hash of a lattice point and a seed (the finaliser of MurmurHash3, public domain). A grain is the sum
of the hash's four bytes (nearly Gaussian after Irwin and Hall) or even. Between lattice points grains are weighed and
divided by the root of the summed squares, so that σ is the same everywhere.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

import numpy as np

from kyanoscript.core.kernel import helper

f = np.float32


@helper
def scrambled(x, y, seed):
    """32 even bits of a lattice point."""
    h = (x * 73856093) ^ (y * 19349663) ^ (seed * 83492791)
    h = h & 0xFFFFFFFF
    h = h ^ (h >> 16)
    h = (h * 0x85EBCA6B) & 0xFFFFFFFF
    h = h ^ (h >> 13)
    h = (h * 0xC2B2AE35) & 0xFFFFFFFF
    return h ^ (h >> 16)


@helper
def grain_of(h, uniform):
    """A grain from its bits: mean 0, σ 1; even, or the sum of four bytes."""
    if uniform:
        return (f(h) * f(1.0 / 2147483648.0) - f(1.0)) * f(1.7320508)
    total = (h & 255) + ((h >> 8) & 255) + ((h >> 16) & 255) + ((h >> 24) & 255)
    return (f(total) - f(510.0)) * f(1.0 / 147.7999)


@helper
def noise_at(u, v, seed, square, uniform):
    """Grains around a place of the lattice, weighed: mean 0, σ 1."""
    nx, ny = np.int64(np.floor(u + 0.5)), np.int64(np.floor(v + 0.5))
    total, norm = f(0.0), f(0.0)
    for j in range(-1, 2):
        dy = f(v - np.float64(ny + j))
        for i in range(-1, 2):
            dx = f(u - np.float64(nx + i))
            w = max(f(1.0) - (dx * dx + dy * dy) * square, f(0.0))
            w = w * w
            if w > f(0.0):
                total += w * grain_of(scrambled(nx + i, ny + j, seed), uniform)
                norm += w * w
    return total / np.sqrt(norm)


@helper
def clouds_at(u, v, seed):
    """Four octaves of smooth noise, about −1…1: each twice as fine and half as strong as the one before."""
    total, strength, size = f(0.0), f(0.5), 1.0
    for octave in range(4):
        total += strength * noise_at(u * size, v * size, seed + 977 * octave, f(0.45), False)
        strength *= f(0.5)
        size *= 2.0
    return total * f(0.8)
