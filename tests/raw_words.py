"""What libraries say and nobody here does, and what people may type."""

import re

# What Python, NumPy, pydantic and operating systems say of values that cannot be
RAW = re.compile(
    "|".join((
        "Traceback", r"invalid \w+ value",
        r"File \".*line \d", "Warning:", "could not convert", "invalid literal", "pydantic",
        "Input should be", "Exceeds the limit", "set_int_max_str_digits", "cannot convert float", "NoneType",
        "has no attribute", r"\[Errno", "index out of range", "unsupported operand", "must be real",
        "not supported between", "<class '", r"\bnumpy\b", r"\bdtype\b", "0x[0-9a-f]{8}", "unhashable",
        r"takes \d+ positional", "expected str", "not enough values", "too many values to", "KeyError", "ValueError",
        "TypeError", "surrogates not allowed", "codec can't", "embedded null", "math domain",
        "should not; nothing was written", r"there are\s*$", r"there are\s*[.;]",
    )),
    re.MULTILINE,
)  # fmt: skip
LONG = "7" * 5000
TYPED = (
    "nan", "inf", "-inf", "1e308", "-1e308", "1e400", "0", "-0", "-1", "", " ", "0x10", "1_000", "½", "٣", "1,5", "1/0",
    "1:0", "0:1", ":", "=", "a=b", "..", "1..2", "1..1/3", "1..2/99", "nan..1/3", "#12", "#gggggg", "gold", "{", "[]",
    "null", "1 2 3", "a,b,c", "1,2", "nan,nan", "@x", "-", "--", "/", "../..", "/dev/null", "x" * 5000, LONG,
    "1e" + LONG, "\x1b[31m", "\u202equay", "quay\nlanding", "\udc80", "京都", "%s", "%", "100%", "12mm", "1e999 mm",
    "I", "#III",
)  # fmt: skip


def raw(said):
    """Words of a library in what was said, with those around them; None if there are none."""
    found = RAW.search(said)
    return found and said[max(0, found.start() - 80) : found.end() + 80]
