"""Single-precision elementary functions that a compiler can turn into vector code, for use inside kernels.

log2 and exp2 split the float into exponent and mantissa (any text on IEEE 754 arithmetic); log2 then uses the series of
``ln((1+s)/(1-s))``, exp2 the Taylor series of ``2^f`` on -0.5…0.5. The arctangent is a least-squares fit of our own,
weighted towards equal error (worst 1.7e-6 rad). Tests hold every one of them against NumPy in double precision.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

import numpy as np

from kyanoscript.core.kernel import helper

f = np.float32
i = np.int32


@helper
def log2(x):
    """Binary logarithm of a positive normal number; absolute error below 2e-7 near 1, relative 2e-7 elsewhere."""
    bits = f(x).view(i)
    k = i(i(i(bits - i(0x3F3504F3)) >> i(23)))
    m = i(bits - i(k << i(23))).view(f)
    s = (m - f(1.0)) / (m + f(1.0))
    z = s * s
    return f(k) + s * (f(2.885390082) + z * (f(0.961796694) + z * (f(0.577078016) + z * f(0.412198583))))


@helper
def exp2(y):
    """2 to the power y, for y in -126…126; relative error below 2e-7."""
    c = min(max(y, f(-126.0)), f(126.0))
    k = np.floor(c + f(0.5))
    t = c - k
    p = f(1.0) + t * (
        f(0.6931471806)
        + t
        * (
            f(0.2402265070)
            + t * (f(0.0555041087) + t * (f(0.0096181291) + t * (f(0.0013333558) + t * f(0.0001540353))))
        )
    )
    return p * i(i(i(k) + i(127)) << i(23)).view(f)


@helper
def power(x, p):
    """x to the power p for x of 0 or more and p above 0; relative error below 2e-6. Zero gives zero."""
    return exp2(log2(max(x, f(1e-30))) * p) if x > f(1e-30) else f(0.0)


@helper
def arctan2(y, x):
    """Angle of (x, y) in radians, -π…π; error below 3e-6. (0, 0) gives 0."""
    ax = abs(x)
    ay = abs(y)
    big = max(max(ax, ay), f(1e-30))
    t = min(ax, ay) / big
    z = t * t
    a = t * (
        f(0.9999772310)
        + z
        * (
            f(-0.3326229751)
            + z * (f(0.1935408413) + z * (f(-0.1164271832) + z * (f(0.0526478626) + z * f(-0.0117192799))))
        )
    )
    a = f(1.5707963268) - a if ay > ax else a
    a = f(3.1415926536) - a if x < f(0.0) else a
    return -a if y < f(0.0) else a
