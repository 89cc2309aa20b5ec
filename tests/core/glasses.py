"""Contrast glasses and emulsions reckoned from spectra: how much each of the three channels counts.

A photograph's colours become spectra by the basis of Mallett and Yuksel ("Spectral primary decomposition for rendering
with sRGB reflectance", EGSR 2019; from colour-science), in daylight (CIE D65). What an emulsion answers is the sum of
the spectrum times its sensitivity, times what the glass lets through; as the spectrum is a sum of three, so is the
answer, and the three weights are exact.

Sensitivities and glasses are as handbooks of photography draw them: silver bromide sees up to about 500 nm, sensitised
for green up to 590 nm with a dip at 500, sensitised for all up to 660 to 680 nm; a glass cuts at the wavelength where
half goes through. The numbers below are from memory, read off no page.

``python -m tests.core.glasses`` prints the starts of the pass *Gray weights*.
"""

import warnings

import numpy as np

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as reference
    from colour.recovery import MSDS_BASIS_FUNCTIONS_sRGB_MALLETT2019 as BASIS

NM = np.arange(380, 781, 5)
PANCHROMATIC = {
    380: 0.75, 400: 0.9, 430: 1, 450: 0.98, 470: 0.8, 500: 0.5, 520: 0.5, 540: 0.58, 560: 0.65, 580: 0.7, 600: 0.74,
    620: 0.75, 640: 0.66, 650: 0.52, 660: 0.3, 670: 0.1, 680: 0.02, 690: 0,
}  # fmt: skip
EMULSIONS = {
    "blue-sensitive emulsion": {380: 1, 440: 1, 460: 0.9, 480: 0.5, 500: 0.1, 520: 0.01, 540: 0},
    "orthochromatic emulsion": {
        380: 0.75, 420: 0.95, 440: 1, 460: 0.9, 480: 0.6, 500: 0.35, 520: 0.45, 540: 0.7, 550: 0.8, 560: 0.75,
        570: 0.5, 580: 0.2, 590: 0.05, 600: 0,
    },
    "panchromatic emulsion": PANCHROMATIC,
}  # fmt: skip


def _cut(at, wide=9.0):
    """A glass that lets through what is longer than a wavelength."""
    return 0.91 / (1 + np.exp(-(NM - at) / wide))


def _band(middle, half):
    return 0.6 * np.exp(-np.log(2) * ((NM - middle) / half) ** 2)


GLASSES = {  # on a panchromatic emulsion
    "yellow glass": _cut(495),
    "orange glass": _cut(550),
    "red glass": _cut(600),
    "green glass": _band(535, 38),
    "blue glass": _band(445, 38),
}


def seen(name):
    """What an emulsion, or a glass before a panchromatic one, answers to light of each wavelength in daylight."""
    table = EMULSIONS.get(name, PANCHROMATIC)
    sensitivity = np.interp(NM, list(table), list(table.values()), right=0)
    daylight = np.interp(NM, (d65 := reference.SDS_ILLUMINANTS["D65"]).wavelengths, d65.values)
    return sensitivity * daylight * GLASSES.get(name, 1)


def shares(name):
    """What red, green and blue count, per cent."""
    basis = np.stack([np.interp(NM, BASIS.wavelengths, plane) for plane in np.asarray(BASIS.values).T])
    found = basis @ seen(name)
    return 100 * found / found.sum()


if __name__ == "__main__":
    for each in (*GLASSES, *EMULSIONS):
        print(f'"{each}": _reckoned({", ".join(f"{share:.1f}" for share in shares(each))}),')
