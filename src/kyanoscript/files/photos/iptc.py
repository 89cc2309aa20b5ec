"""What IPTC and XMP say of the same things, brought together field by field.

Datasets as in IPTC IIM 4.2, and what each is in XMP as in the IPTC Photo Metadata standard (core, 2008 and later; from
memory). Where both say something and it is not the same, XMP is right, as the newer of the two, unless a digest that
lies beside the datasets shows that they were changed after the two were last made equal: then the datasets are
(guidelines of the metadata working group, 2.0, from memory).
"""

from __future__ import annotations

import hashlib
import struct
from collections.abc import Mapping
from dataclasses import dataclass
from xml.etree import ElementTree

Dataset = tuple[int, int, bytes]  # record, number, value

RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
_XML = "http://www.w3.org/XML/1998/namespace"
# By words of our own; what counts in a file is what each points to
_VOCABULARIES = {
    "dc": "http://purl.org/dc/elements/1.1/",
    "press": "http://ns.adobe.com/photoshop/1.0/",
    "core": "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
}
_BYTES = 200  # datasets of record 2 from here on hold a small picture, and no text
_UTF_8 = (1, 90, b"\x1b%G")  # how the letters are coded (IIM 4.2, 1:90; ISO 2022)
_ABOUT = f"{{{RDF}}}about"


@dataclass(frozen=True)
class _Field:
    vocabulary: str
    name: str
    form: str  # "", or how several values are listed: Alt (of languages), Bag, Seq
    most: int  # bytes that a value may have in IIM

    @property
    def tag(self) -> str:
        return f"{{{_VOCABULARIES[self.vocabulary]}}}{self.name}"


FIELDS = {
    5: _Field("dc", "title", "Alt", 64), 25: _Field("dc", "subject", "Bag", 64),
    40: _Field("press", "Instructions", "", 256), 80: _Field("dc", "creator", "Seq", 32),
    85: _Field("press", "AuthorsPosition", "", 32), 90: _Field("press", "City", "", 32),
    92: _Field("core", "Location", "", 32), 95: _Field("press", "State", "", 32),
    100: _Field("core", "CountryCode", "", 3), 101: _Field("press", "Country", "", 64),
    103: _Field("press", "TransmissionReference", "", 32), 105: _Field("press", "Headline", "", 256),
    110: _Field("press", "Credit", "", 32), 115: _Field("press", "Source", "", 32),
    116: _Field("dc", "rights", "Alt", 128), 120: _Field("dc", "description", "Alt", 2000),
    122: _Field("press", "CaptionWriter", "", 32),
}  # fmt: skip


def agreed(datasets: tuple[Dataset, ...], root: ElementTree.Element | None, digest: bytes) -> tuple[Dataset, ...]:
    """Datasets that say what both say; ``root``: of the XMP, if there is any, which is changed to say so too.

    ``digest``: of the datasets as they were when both were last made equal; empty where there is none.
    """
    if not datasets or root is None:  # nothing is made of one that was not there
        return datasets
    changed = bool(digest) and digest != digest_of(written(datasets))
    said, xmp = _texts(datasets), _read(root)
    texts = dict(said)
    for number in FIELDS:
        if xmp.get(number) and not (changed and number in said):
            texts[number] = xmp[number]
    for number, values in texts.items():
        if xmp.get(number) != values:
            _put(root, FIELDS[number], values)
    return _datasets(datasets, texts, {number for number in texts if texts[number] == said.get(number)})


def in_xmp(datasets: tuple[Dataset, ...]) -> ElementTree.Element | None:
    """What datasets say, as XMP; None if they say nothing that has a place there."""
    texts = _texts(datasets)
    if not texts:
        return None
    root = ElementTree.Element(f"{{{RDF}}}RDF")
    ElementTree.SubElement(root, f"{{{RDF}}}Description", {_ABOUT: ""})
    for number, values in texts.items():
        _put(root, FIELDS[number], values)
    return root


def written(datasets: tuple[Dataset, ...]) -> bytes:
    """Datasets as a file holds them (IIM 4.2, 1.6); nothing of none."""
    made = b"".join(
        struct.pack(">BBBH", 0x1C, record, number, len(value)) + value for record, number, value in datasets
    )
    version = struct.pack(">BBBHH", 0x1C, 2, 0, 2, 4)
    letters = b"".join(struct.pack(">BBBH", 0x1C, r, n, len(v)) + v for r, n, v in datasets if r == 1)
    return letters + version + made[len(letters) :] if made else b""


def blocks_in(data: bytes) -> dict[int, bytes]:
    """Blocks by their numbers, as datasets, digest, profile and resolution lie in documents and beside pictures."""
    found: dict[int, bytes] = {}
    at = 0
    while at + 12 <= len(data) and data[at : at + 4] == b"8BIM":
        number, name = struct.unpack_from(">HB", data, at + 4)
        at += 6 + (name + 2) // 2 * 2
        (length,) = struct.unpack_from(">I", data, at)
        found[number] = data[at + 4 : at + 4 + length]
        at += 4 + (length + 1) // 2 * 2
    return found


def digest_of(block: bytes) -> bytes:
    """Of datasets as a file holds them."""
    return hashlib.md5(block, usedforsecurity=False).digest()


def _texts(datasets: tuple[Dataset, ...]) -> dict[int, list[str]]:
    """Values by their numbers, of those that XMP has a place for."""
    coding = "utf-8" if _UTF_8 in datasets else None
    found: dict[int, list[str]] = {}
    for record, number, value in datasets:
        if record == 2 and number in FIELDS and (text := _clean(_decoded(value, coding))):
            found.setdefault(number, []).append(text)
    return found


def _decoded(value: bytes, coding: str | None) -> str:
    """Text; where its coding is not told UTF-8 if it is that, else Latin-1, as programs wrote it (common practice)."""
    if coding is not None:
        return value.decode(coding, "replace")
    try:
        return value.decode()
    except UnicodeDecodeError:
        return value.decode("latin-1")


def _clean(text: str) -> str:
    return "".join(c for c in text if c.isprintable() or c in "\n\t").strip()


def _datasets(before: tuple[Dataset, ...], texts: Mapping[int, list[str]], same: set[int]) -> tuple[Dataset, ...]:
    """Datasets of texts, those that are the same as they were; and whatever XMP has no place for."""
    kept = [d for d in before if not (d[0] == 2 and d[1] in FIELDS)]
    own = [d for d in before if d[0] == 2 and d[1] in same]
    made = [(2, n, _short(text, FIELDS[n].most)) for n, values in texts.items() if n not in same for text in values]
    ascii_ = all(value.isascii() for _, _, value in made)
    if not ascii_ and _UTF_8 not in before:  # what was there in another coding is written anew
        own, made = [], [(2, n, _short(text, FIELDS[n].most)) for n, values in texts.items() for text in values]
        text = [(r, n, _decoded(v, None).encode()) for r, n, v in kept if r == 2 and n < _BYTES]
        kept = [_UTF_8, *(d for d in kept if d[:2] != (1, 90) and not (d[0] == 2 and d[1] < _BYTES)), *text]
    return tuple(sorted([*kept, *own, *made], key=lambda d: d[:2]))


def _short(text: str, most: int) -> bytes:
    """As long as there is room for in UTF-8, and no letter cut in two."""
    return text.encode()[:most].decode("utf-8", "ignore").encode()


# XMP


def _read(root: ElementTree.Element) -> dict[int, list[str]]:
    """What XMP says of the fields."""
    found: dict[int, list[str]] = {}
    for description in root.iter(f"{{{RDF}}}Description"):
        for number, field in FIELDS.items():
            texts = [description.get(field.tag, "")]
            if (element := description.find(field.tag)) is not None:
                items = list(element.iter(f"{{{RDF}}}li"))
                if field.form == "Alt":  # of several languages the one that counts where none is wanted
                    items = sorted(items, key=lambda item: item.get(f"{{{_XML}}}lang") != "x-default")[:1]
                texts = [item.text or "" for item in items] if items else [element.text or ""]
            if texts := [text for text in map(_clean, texts) if text]:
                found.setdefault(number, texts)
    return found


def _put(root: ElementTree.Element, field: _Field, values: list[str]) -> None:
    """Say it, in place of what was said."""
    for vocabulary, uri in _VOCABULARIES.items():
        ElementTree.register_namespace(vocabulary, uri)
    place = None
    for description in root.iter(f"{{{RDF}}}Description"):
        place = description if place is None else place
        description.attrib.pop(field.tag, None)
        for old in description.findall(field.tag):
            description.remove(old)
    if place is None:
        return
    element = ElementTree.SubElement(place, field.tag)
    if not field.form:
        element.text = values[0]
        return
    listed = ElementTree.SubElement(element, f"{{{RDF}}}{field.form}")
    for value in values:
        item = ElementTree.SubElement(listed, f"{{{RDF}}}li")
        item.text = value
        if field.form == "Alt":
            item.set(f"{{{_XML}}}lang", "x-default")
