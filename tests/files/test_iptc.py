"""IPTC and XMP of a photograph, brought together field by field and written so that both say the same."""

import hashlib
import struct

import numpy as np
import pytest
import tifffile
from PIL import Image, IptcImagePlugin

from kyanoscript.core.script import Script
from kyanoscript.files.photos import iptc
from kyanoscript.files.photos.notes import read_notes
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.whole import WholePrint

PIXELS = np.random.default_rng(3).integers(0, 256, (48, 72, 3), dtype=np.uint8)
HEAD = b'<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">' \
       b'<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" ' \
       b'xmlns:p="http://ns.adobe.com/photoshop/1.0/"'  # fmt: skip
TAIL = b"</rdf:Description></rdf:RDF></x:xmpmeta>"
XMP = HEAD + b' p:City="Marrow Quay"><dc:subject><rdf:Bag><rdf:li>ferry</rdf:li></rdf:Bag></dc:subject>' + TAIL
DATASETS = ((2, 25, b"landing"), (2, 80, b"The dyers"), (2, 90, b"Elsewhere"), (2, 105, b"Evening"))


def packed(datasets):
    return b"".join(struct.pack(">BBBH", 0x1C, r, n, len(v)) + v for r, n, v in datasets)


def block(number, data):
    return b"8BIM" + struct.pack(">HHI", number, 0, len(data)) + data + bytes(len(data) % 2)


def photographed(tmp_path, suffix, datasets=DATASETS, xmp=XMP, digest=None):
    """A photograph with both; ``digest``: of the datasets as they were when both were equal."""
    file, data = tmp_path / f"landing{suffix}", packed(datasets)
    blocks = block(0x0425, digest) if digest is not None else b""
    if suffix == ".tif":
        tags = [(33723, "B", len(data), data, True), (700, "B", len(xmp), xmp, True)]
        tags += [(34377, "B", len(blocks), blocks, True)] if blocks else []
        tifffile.imwrite(file, PIXELS, photometric="rgb", extratags=[tag for tag in tags if tag[2]])
    else:
        said = b"Photoshop 3.0\0" + block(0x0404, data) + blocks
        extra = b"\xff\xed" + struct.pack(">H", len(said) + 2) + said
        Image.fromarray(PIXELS).save(file, extra=extra, **({"xmp": xmp} if xmp else {}))
    return file


def said(notes):
    """What the datasets and the XMP say, as text."""
    root = None if not notes.xmp else iptc.ElementTree.fromstring(notes.xmp.split(b"?>", 1)[1].rsplit(b"<?", 1)[0])
    by_number = {}
    for record, number, value in notes.iptc:
        if record == 2:
            by_number.setdefault(number, []).append(value.decode())
    return by_number, iptc._read(root) if root is not None else {}


def read(file):
    with file.open("rb") as data:
        return read_notes(data)


@pytest.mark.parametrize("suffix", [".jpg", ".tif"])
def test_what_only_one_of_them_says_is_said_by_both_and_where_they_differ_the_newer_is_right(tmp_path, suffix):
    """Without a digest that is XMP (guidelines of the metadata working group, from memory)."""
    both = {25: ["ferry"], 80: ["The dyers"], 90: ["Marrow Quay"], 105: ["Evening"]}
    assert said(read(photographed(tmp_path, suffix))) == (both, both)


@pytest.mark.parametrize("suffix", [".jpg", ".tif"])
def test_datasets_that_were_changed_afterwards_are_right(tmp_path, suffix):
    changed = {25: ["landing"], 80: ["The dyers"], 90: ["Elsewhere"], 105: ["Evening"]}
    same = {25: ["ferry"], 80: ["The dyers"], 90: ["Marrow Quay"], 105: ["Evening"]}
    now = hashlib.md5(iptc.written(DATASETS)).digest()
    assert said(read(photographed(tmp_path, suffix, digest=b"\1" * 16))) == (changed, changed)
    assert said(read(photographed(tmp_path, suffix, digest=now))) == (same, same)


@pytest.mark.parametrize("start", [".jpg", ".tif"])
@pytest.mark.parametrize("end", [".jpg", ".tif", ".png", ".webp"])
def test_both_are_written_where_there_is_a_place_and_say_the_same(tmp_path, start, end):
    photo = open_photo(photographed(tmp_path, start))
    file = tmp_path / f"print{end}"
    write(Out(photo, Script(), Pictures(photo.path), file, WholePrint(), Settings()))
    found, xmp = said(read(file))
    assert xmp == {25: ["ferry"], 80: ["The dyers"], 90: ["Marrow Quay"], 105: ["Evening"]}
    if end in (".jpg", ".tif"):
        assert found == xmp
        with Image.open(file) as image:  # another reader's
            other = IptcImagePlugin.getiptcinfo(image)
            assert (other[2, 25], other[2, 90], other[2, 105]) == (b"ferry", b"Marrow Quay", b"Evening")
            if end == ".jpg":
                blocks = image.info["photoshop"]
                assert blocks[0x0425] == hashlib.md5(blocks[0x0404]).digest()


def test_letters_beyond_ascii_are_told_as_utf_8(tmp_path):
    accented = "Fährhaus".encode("latin-1")
    xmp = XMP.replace(b"Marrow Quay", "Märrow Quay".encode())
    notes = read(photographed(tmp_path, ".jpg", ((2, 80, accented), (2, 40, b"keep"), (2, 202, b"\xff\xd8\x80")), xmp))
    assert notes.iptc[0] == (1, 90, b"\x1b%G")
    assert {d[1]: d[2] for d in notes.iptc if d[0] == 2 and d[1] in (80, 90)} == {
        80: "Fährhaus".encode(), 90: "Märrow Quay".encode(),
    }  # fmt: skip
    assert (2, 202, b"\xff\xd8\x80") in notes.iptc  # a picture is no text
    assert said(read(photographed(tmp_path, ".jpg", ((1, 90, b"\x1b%G"), (2, 80, "Fähre".encode())), XMP)))[1][80] == [
        "Fähre"
    ]


def test_of_several_languages_the_one_for_all_counts_and_long_text_is_cut_between_letters(tmp_path):
    alt = b'><dc:title><rdf:Alt><rdf:li xml:lang="fr">Le bac</rdf:li><rdf:li xml:lang="x-default">The ferry</rdf:li>'
    xmp = HEAD + alt + b"</rdf:Alt></dc:title><p:City>" + ("ä" * 40).encode() + b"</p:City>" + TAIL
    notes = read(photographed(tmp_path, ".jpg", ((2, 5, b"Old"),), xmp))
    assert (2, 5, b"The ferry") in notes.iptc
    assert (2, 90, "ä".encode() * 16) in notes.iptc  # 32 bytes


def test_without_one_of_them_nothing_is_made_of_the_other_while_reading(tmp_path):
    assert read(photographed(tmp_path, ".jpg", DATASETS, b"")).xmp == b""
    notes = read(photographed(tmp_path, ".jpg", (), XMP))
    assert notes.iptc == ()
    assert iptc.written(()) == b""
    assert iptc.in_xmp(((2, 12, b"no place in XMP"),)) is None


@pytest.mark.parametrize("text", ['{"shape": [48, 72, 3]}', "ImageJ=1.53\nimages=3", "<?xml version='1.0'?><OME/>"])
def test_what_a_library_wrote_for_itself_is_no_caption(tmp_path, text):
    file = tmp_path / "stack.tif"
    tifffile.imwrite(file, PIXELS, photometric="rgb", description=text, metadata=None)
    assert 0x010E not in read(file).about
    tifffile.imwrite(file, PIXELS, photometric="rgb", description="The ferry {1926}", metadata=None)
    assert read(file).about[0x010E] == "The ferry {1926}"
    tifffile.imwrite(file, PIXELS, photometric="rgb")  # with what the library writes by itself
    assert 0x010E not in read(file).about


def test_only_what_was_asked_for_goes_along(tmp_path):
    photo = open_photo(photographed(tmp_path, ".jpg", (*DATASETS, (2, 116, b"Dye Works"))))
    for kept, there in (("no-place", {25, 80, 105, 116}), ("rights", {80, 116}), ("none", set())):
        file = tmp_path / f"{kept}.jpg"
        write(Out(photo, Script(), Pictures(photo.path), file, WholePrint(), Settings(notes=kept)))
        found, xmp = said(read(file))
        assert (set(found), set(xmp)) == (there, there)
        assert (b"8BIM" in file.read_bytes()) == bool(there)
