"""JPEG XL: what its header says of size, bits, turning and colours, and a header that says another space.

The codec at hand hands out pixels and takes them, and neither tells nor writes their colours; so the header is read and
written here, from ISO/IEC 18181-1 (annexes A and E: size, image metadata, colour encoding; their fields and codes
are told from memory and held by tests against the codec) and 18181-2 (boxes).
"""

from __future__ import annotations

import struct
from dataclasses import dataclass

from kyanoscript.core.colour import BT2020, DISPLAY_P3, SRGB, Space, space_of
from kyanoscript.translation import tr

_MARK = b"\xff\x0a"
_BOX = b"\0\0\0\x0cJXL \r\n\x87\n"
_TYPE = b"\0\0\0\x14ftypjxl \0\0\0\0jxl "
_D65, _CUSTOM = 1, 2
_PRIMARIES = {1: SRGB, 9: BT2020, 11: DISPLAY_P3}
_LINEAR, _SRGB_CURVE = 8, 13
Codes = tuple[tuple[int, int], ...]  # of a number that is packed one of four ways: what is added, and how many bits
_ENUM: Codes = ((0, 0), (1, 0), (2, 4), (18, 6))
_XY: Codes = ((0, 19), (524_288, 19), (1_048_576, 20), (2_097_152, 21))


@dataclass(frozen=True)
class Header:
    """What is needed of it."""

    width: int
    height: int
    orientation: int
    colours: str  # "srgb", "space", "linear" or "gamma" (of a space), "unknown" or "profile"
    space: Space
    gamma: float  # what light is the power of, for "gamma"
    at: int  # bits before the colours
    end: int  # bits up to their end
    plain_tail: bool  # nothing unusual follows before the picture itself


class _Bits:
    """Bits, lowest first."""

    def __init__(self, data: bytes) -> None:
        self.number = int.from_bytes(data, "little")
        self.size = 8 * len(data)
        self.at = 0

    def take(self, count: int) -> int:
        if self.at + count > self.size:
            raise ValueError(tr("the header is cut short"))
        found = (self.number >> self.at) & ((1 << count) - 1)
        self.at += count
        return found

    def one_of(self, codes: Codes) -> int:
        added, count = codes[self.take(2)]
        return added + self.take(count)


def codestream(data: bytes) -> bytes:
    """The codestream, out of its boxes if it lies in some. Raises ValueError."""
    if data[:2] == _MARK:
        return data
    found, at = b"", 12
    while at + 8 <= len(data):
        size, name = struct.unpack_from(">I4s", data, at)
        head = 8
        if size == 1:
            (size,) = struct.unpack_from(">Q", data, at + 8)
            head = 16
        end = len(data) if size == 0 else at + size
        if size and size < head:
            raise ValueError(tr("a box is damaged"))
        if name == b"jxlc":
            return data[at + head : end]
        if name == b"jxlp":
            found += data[at + head + 4 : end]
        at = end
    if not found:
        raise ValueError(tr("there is no picture in it"))
    return found


def notes(data: bytes) -> tuple[bytes, bytes]:
    """The EXIF block and the XMP packet that lie beside the picture; empty where there are none, or they are packed."""
    found, at = {b"Exif": b"", b"xml ": b""}, 12
    while data[:2] != _MARK and at + 8 <= len(data):
        size, name = struct.unpack_from(">I4s", data, at)
        if size < 8:
            break
        if name in found:
            found[name] = data[at + 8 : at + size]
        at += size
    skipped = 4 + int.from_bytes(found[b"Exif"][:4], "big")
    return found[b"Exif"][skipped:], found[b"xml "]


def header(data: bytes) -> Header:
    """Raises ValueError where it is damaged or holds what is not known here."""
    stream = codestream(data)
    if stream[:2] != _MARK:
        raise ValueError(tr("the mark of a codestream is missing"))
    bits = _Bits(stream[2:600])
    width, height = _size(bits)
    if bits.take(1):  # everything as usual: 8 bits, sRGB
        return Header(width, height, 1, "srgb", SRGB, 0.0, bits.at, bits.at, False)
    orientation, extra = 1, bits.take(1)
    if extra:
        orientation = bits.take(3) + 1
        if bits.take(1):
            _size(bits)
        if bits.take(1) or bits.take(1):
            raise ValueError(tr("it holds a preview or moves"))
    _depth(bits)
    bits.take(1)
    for _ in range(bits.one_of(((0, 0), (1, 0), (2, 4), (1, 12)))):
        _extra_channel(bits)
    bits.take(1)
    at = bits.at
    colours, space, gamma = _colours(bits)
    end = bits.at
    tail = not extra and colours != "profile" and bits.take(2) == 0 and bits.take(1) == 1
    return Header(width, height, orientation, colours, space, gamma, at, end, tail)


def _size(bits: _Bits) -> tuple[int, int]:
    small = bits.take(1)
    codes: Codes = ((1, 9), (1, 13), (1, 18), (1, 30))

    def side() -> int:
        return 8 * (bits.take(5) + 1) if small else bits.one_of(codes)

    height = side()
    ratio = bits.take(3)
    if ratio == 0:
        return side(), height
    across, down = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))[ratio - 1]
    return height * across // down, height


def _depth(bits: _Bits) -> None:
    if bits.take(1):
        bits.one_of(((32, 0), (16, 0), (24, 0), (1, 6)))
        bits.take(4)
    else:
        bits.one_of(((8, 0), (10, 0), (12, 0), (1, 6)))


def _extra_channel(bits: _Bits) -> None:
    if bits.take(1):
        return
    kind = bits.one_of(_ENUM)
    _depth(bits)
    bits.one_of(((0, 0), (3, 0), (4, 0), (1, 3)))
    bits.take(8 * bits.one_of(((0, 0), (0, 4), (16, 5), (48, 10))))
    if kind == 0:
        bits.take(1)
    elif kind not in (1, 3, 4, 15, 16):
        raise ValueError(tr("it holds channels that are not known"))


def _colours(bits: _Bits) -> tuple[str, Space, float]:
    if bits.take(1):
        return "srgb", SRGB, 0.0
    profile, model = bits.take(1), bits.one_of(_ENUM)
    if profile:
        return "profile", SRGB, 0.0
    if model > 1:
        return "unknown", SRGB, 0.0
    white = bits.one_of(_ENUM)
    at_white = _place(bits) if white == _CUSTOM else SRGB.white
    space: Space | None = SRGB
    if model == 0:
        primaries = bits.one_of(_ENUM)
        if primaries == _CUSTOM:
            space = space_of("its own", [_place(bits) for _ in range(3)], at_white)
        else:
            space = _PRIMARIES.get(primaries) if white == _D65 else None
    gamma, curve = 0.0, _SRGB_CURVE
    if bits.take(1):
        gamma = bits.take(24) / 1e7
    else:
        curve = bits.one_of(_ENUM)
    bits.one_of(_ENUM)
    if space is None or (not gamma and curve not in (_LINEAR, _SRGB_CURVE)):
        return "unknown", SRGB, 0.0
    return ("gamma" if gamma else "linear" if curve == _LINEAR else "space"), space, gamma


def _place(bits: _Bits) -> tuple[float, float]:
    def number() -> float:
        packed = bits.one_of(_XY)
        return (packed >> 1 if packed % 2 == 0 else -(packed + 1) // 2) / 1e6

    return number(), number()


def in_space(stream: bytes, space: Space, gray: bool) -> bytes:
    """A codestream of the codec with the colours of a space (its curve that of sRGB) told in its header.

    Only for pictures without loss: of others the pixels have been changed for the space that the codec takes.
    """
    stream = codestream(stream)
    found = header(stream)
    if not found.plain_tail:
        raise ValueError(tr("this header cannot be changed"))
    bits: list[tuple[int, int]] = []  # values and how many bits they take
    if space == SRGB and not gray:
        bits.append((1, 1))
    else:
        bits += [(0, 1), (0, 1), *_enum(1 if gray else 0)]
        known = next((code for code, other in _PRIMARIES.items() if other == space), 0)
        bits += _enum(_D65) if known or gray else [*_enum(_CUSTOM), *_packed_place(space.white)]
        if not gray:
            bits += _enum(known) if known else [*_enum(_CUSTOM), *(b for xy in space.places for b in _packed_place(xy))]
        bits += [(0, 1), *_enum(_SRGB_CURVE), *_enum(1)]  # no power; the curve; relative colorimetric
    source = int.from_bytes(stream[2:602], "little")
    made, at = source & ((1 << found.at) - 1), found.at
    for value, count in [*bits, (0, 2), (1, 1)]:  # and no extensions, and the usual transform
        made |= value << at
        at += count
    picture = -(-(found.end + 3) // 8)  # the frames begin at a whole byte
    return _MARK + made.to_bytes(-(-at // 8), "little") + stream[2 + picture :]


def _enum(value: int) -> list[tuple[int, int]]:
    if value < 2:
        return [(value, 2)]
    return [(2, 2), (value - 2, 4)] if value < 18 else [(3, 2), (value - 18, 6)]


def _packed_place(xy: tuple[float, float]) -> list[tuple[int, int]]:
    made = []
    for value in xy:
        millionths = round(value * 1e6)
        packed = 2 * millionths if millionths >= 0 else -2 * millionths - 1
        which = max(k for k, (added, _) in enumerate(_XY) if packed >= added)
        made += [(which, 2), (packed - _XY[which][0], _XY[which][1])]
    return made


def boxed(stream: bytes, deep: bool, exif: bytes, xmp: bytes) -> bytes:
    """A codestream in boxes, with notes beside it (ISO/IEC 18181-2); ``deep``: of 16 bits, which is level 10."""
    made = _BOX + _TYPE + (b"\0\0\0\x09jxll\x0a" if deep else b"")
    for name, data in ((b"jxlc", stream), (b"Exif", bytes(4) + exif if exif else b""), (b"xml ", xmp)):
        if data:
            made += struct.pack(">I4s", len(data) + 8, name) + data
    return made
