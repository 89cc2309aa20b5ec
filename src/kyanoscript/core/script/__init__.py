"""Everything done to a photograph: as data, as JSON, and what can be said of it."""

from kyanoscript.core.script.address import with_value
from kyanoscript.core.script.complaint import ScriptError, nearest
from kyanoscript.core.script.data import MOST_PASSES, Script, State, first_change, number_of, numeral
from kyanoscript.core.script.identity import fresh
from kyanoscript.core.script.json import (
    LONGEST,
    VERSION,
    check_length,
    dumps,
    from_json,
    loads,
    packed,
    pass_from_json,
    pass_to_json,
    to_json,
)
from kyanoscript.core.script.walk import mapped, walk

__all__ = [
    "LONGEST",
    "MOST_PASSES",
    "VERSION",
    "Script",
    "ScriptError",
    "State",
    "check_length",
    "dumps",
    "first_change",
    "fresh",
    "from_json",
    "loads",
    "mapped",
    "nearest",
    "number_of",
    "numeral",
    "packed",
    "pass_from_json",
    "pass_to_json",
    "to_json",
    "walk",
    "with_value",
]
