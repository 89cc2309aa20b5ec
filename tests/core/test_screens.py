"""Screens: coverage into dots. Angle, ruling and blue noise are measured in the spectrum, dot gain by handbooks."""

import numpy as np
import pytest
import scipy.fft

from kyanoscript.core.paper.dots import KINDS
from kyanoscript.core.paper.screens import (
    Screen,
    angles_for,
    covered,
    effective,
    screened,
    tile_of,
    too_near,
)

SIDE = 1024
ROWS = ((45, 85, 2400), (15, 100, 2400), (75, 120, 1200), (0, 65, 600), (22.5, 150, 2540))
DOTS = [(kind, *row) for kind in ("round", "elliptical", "line") for row in ROWS]


def dots(screen, coverage, side=SIDE):
    return screened(np.full((side, side), covered(np.array(coverage)), np.uint16), tile_of(screen))


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("coverage", [0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98])
def test_the_mean_of_what_prints_is_the_coverage(kind, coverage):
    """Within 0.3 %, from 2 to 98 %."""
    assert dots(Screen(kind, 85, 15), coverage).mean() == pytest.approx(coverage, abs=0.003)


@pytest.mark.parametrize("kind", KINDS)
def test_nothing_prints_nothing_and_all_prints_all(kind):
    assert not dots(Screen(kind), 0, 256).any()
    assert dots(Screen(kind), 1, 256).all()


@pytest.mark.parametrize("kind", KINDS)
def test_more_coverage_never_takes_a_dot_away(kind):
    less, more = dots(Screen(kind), 0.3, 256), dots(Screen(kind), 0.31, 256)
    assert (more | ~less).all()
    assert more.sum() > less.sum()


def peak(screen, coverage=0.3, side=2048):
    """The strongest frequency, cycles to the inch, and its angle against the clock from lying, degrees 0…180."""
    pattern = dots(screen, coverage, side).astype(np.float32)
    window = np.hanning(side).astype(np.float32)
    n = 2 * side
    # Half of the spectrum: the other half is the same, seen from the other side of the middle.
    power = np.abs(scipy.fft.rfft2((pattern - pattern.mean()) * window[:, None] * window, (n, n)))
    y, x = np.unravel_index(np.argmax(power), power.shape)

    def at(y, x):
        y, x = (y, x) if x >= 0 else (-y, -x)
        y, x = (y, x) if x <= side else (-y, n - x)
        return np.log(float(power[y % n, x]))

    def between(a, b, c):  # a parabola through the logarithms of three neighbours
        return 0.5 * (a - c) / (a - 2 * b + c)

    fy = (y if y < side else y - n) + between(at(y - 1, x), at(y, x), at(y + 1, x))
    fx = x + between(at(y, x - 1), at(y, x), at(y, x + 1))
    return np.hypot(fx, fy) / n * screen.ppi, np.degrees(np.arctan2(-fy, fx)) % 180


@pytest.mark.parametrize(("kind", "angle", "ruling", "ppi"), DOTS)
def test_angle_and_ruling_are_those_asked_for(kind, angle, ruling, ppi):
    """In the spectrum: the angle within 0.2°, the ruling within 0.5 %. Dots have two directions, lines lie across."""
    found, direction = peak(Screen(kind, ruling, angle, ppi=ppi))
    assert found == pytest.approx(ruling, rel=0.005)
    off = (direction - angle) % 90
    assert min(off, 90 - off) < 0.2
    if kind == "line":
        across = (direction - angle - 90) % 180
        assert min(across, 180 - across) < 0.2


def test_blue_noise_has_nothing_below_half_its_principal_frequency():
    """Ulichney (1993): the principal frequency is √g cycles a pixel for a share g of dots, √(1 − g) above one half."""
    for share in (0.1, 0.2, 0.35, 0.5, 0.7, 0.9):
        pattern = dots(Screen("blue"), share, 128).astype(float)
        assert low_part(pattern, share) < 0.15
        dice = np.random.default_rng(1).random((128, 128)) < share  # white noise, by which the test can fail
        assert low_part(dice, share) > 0.8


def low_part(pattern, share):
    """Power below half the principal frequency, against that of white noise with as many dots."""
    power = np.abs(np.fft.fft2(pattern - pattern.mean())) ** 2
    frequency = np.hypot(np.fft.fftfreq(128)[:, None], np.fft.fftfreq(128)[None])
    low = (frequency > 0) & (frequency < np.sqrt(min(share, 1 - share)) / 2)
    return power[low].mean() / power[frequency > 0].mean()


@pytest.mark.parametrize("kind", KINDS)
def test_tiles_join_without_a_seam(kind):
    """A part is what it is in the whole, wherever it begins; across the tile's rim as within."""
    screen = Screen(kind, 100, 15)
    tile = tile_of(screen)
    coverage = covered(np.random.default_rng(2).random((700, 1800)) * 0.2 + 0.4)
    whole = screened(coverage, tile)
    for x, y in ((0, 0), (137, 41), (1024, 512), (1531, 601)):
        assert np.array_equal(screened(coverage[y : y + 90, x : x + 200], tile, x, y), whole[y : y + 90, x : x + 200])
    flat = screened(np.full((1200, 1200), 30_000, np.uint16), tile)
    along = np.abs(np.diff(flat.astype(int), axis=1)).mean(axis=0)  # how often ink begins or ends at each column
    assert along.max() < along.mean() + 8 * max(along.std(), 1e-9)


def test_grains_are_as_large_as_they_are_asked_for():
    """Half the distance at which a grain is no longer like itself grows with the size."""

    def width(grain):
        pattern = dots(Screen("grain", grain=grain, ppi=1200), 0.5, 512) - 0.5
        power = np.abs(np.fft.fft2(pattern)) ** 2
        alike = np.fft.ifft2(power).real[0]
        return int(np.argmax(alike < 0.5 * alike[0]))

    assert width(0.4) == pytest.approx(2 * width(0.2), rel=0.35)


@pytest.mark.parametrize(("what", "words"), [
    (Screen("dotted"), "there is no screen"), (Screen(ppi=100), "100 pixels per inch"), (Screen(ruling=5), "5 lines"),
    (Screen(ruling=250, ppi=600), "too fine"), (Screen("grain", grain=9), "9 mm"),
])  # fmt: skip
def test_what_cannot_be_is_said(what, words):
    with pytest.raises(ValueError, match=words):
        tile_of(what)


def test_dot_gain_of_the_handbooks():
    """Murray and Davies (1936) and Yule and Nielsen (1951), n = 2, of a tint of .30 on a solid of 1.50."""
    assert effective(1.5, 0.3) == pytest.approx(0.5151, abs=5e-5)
    assert effective(1.5, 0.3, 2) == pytest.approx(0.3552, abs=5e-5)


def test_three_strong_inks_lie_thirty_degrees_apart_and_nearer_ones_are_said():
    assert angles_for((0.9, 0.5, 0.7, 0.1)) == (45, 15, 75, 0)  # common practice, no source
    assert angles_for((0.9, 0.5), first=60) == (60, 90)
    assert too_near((45, 75, 15)) == []
    assert too_near((45, 50, 15)) == ["inks 1 and 2 are 5° apart; nearer than 15° they make a moiré"]
    assert too_near((0, 90)) == ["inks 1 and 2 are 0° apart; nearer than 15° they make a moiré"]  # a quarter turn
    assert too_near((45, 75, 15, 50), lightest=3) == []
