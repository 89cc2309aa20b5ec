"""What is usual where the person is: paper of A4 or Letter, millimetres or inches; by the surroundings, as a desktop
sets them (LC_PAPER, LC_MEASUREMENT; POSIX.1-2017, 8.2, and glibc's additions)."""

from __future__ import annotations

import os

# Countries that use Letter: CLDR 45, supplemental data, measurementData (paperSize US-Letter)
_LETTER = frozenset(["BZ", "CA", "CL", "CO", "CR", "GT", "MX", "NI", "PA", "PH", "PR", "SV", "US", "VE"])
_INCHES = frozenset(["LR", "MM", "US"])  # the same, measurementSystem US; and those that only half use metres


def usual_paper() -> str:
    """The name of the size that a first sheet has."""
    return "Letter" if _country("LC_PAPER") in _LETTER else "A4"


def usual_unit() -> str:
    """In which lengths are told: mm or in."""
    return "in" if _country("LC_MEASUREMENT") in _INCHES else "mm"


def _country(what: str) -> str:
    """Of a locale such as en_US.UTF-8: US; empty where none is told."""
    told = next((os.environ[name] for name in ("LC_ALL", what, "LANG") if os.environ.get(name)), "")
    return told.partition(".")[0].partition("@")[0].partition("_")[2]
