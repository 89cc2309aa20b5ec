"""Pages at their exact size: PDF 1.7 (ISO 32000-1), a picture each, without loss, and what it is by the standards.

With a printer's profile it is PDF/X-4 (ISO 15930-7, from memory): the output intent is that printer on that paper. Any
other picture has its own space beside it and no output intent: PDF/A-2b (ISO 19005-2, from memory). Plates and charts
are coverage, and no colours; they claim neither. A point is 1/72 inch; boxes are those of ISO 32000-1, 14.11.2.
"""

from __future__ import annotations

import datetime
import io
import os
import time
import uuid
import zlib
from collections.abc import Iterable
from typing import Any, BinaryIO

from kyanoscript import __version__
from kyanoscript.core.picture import Rect

_BLEED = 3 * 72 / 25.4  # points of what is printed beyond the cut: 3 mm, common practice, no source
_PDFX = "http://www.npes.org/pdfx/ns/id/"
_PRODUCER = f"Kyanoscript {__version__}"


def add_page(
    pdf: Any,
    bands: Iterable[bytes],
    size: tuple[int, int],
    bits: int,
    ppi: float,
    colours: Any,
    trim: Rect | None = None,
) -> None:
    """A page of a picture of its exact size, and nothing else; ``bands``: its rows, as PDF has them."""
    from pikepdf import Array, Dictionary, Name, Stream

    packer, packed = zlib.compressobj(6), io.BytesIO()
    for band in bands:
        packed.write(packer.compress(band))
    packed.write(packer.flush())
    points = 72 / ppi
    wide, high = size[0] * points, size[1] * points
    image = Stream(
        pdf,
        packed.getvalue(),
        Type=Name.XObject, Subtype=Name.Image, Width=size[0], Height=size[1], ColorSpace=colours,
        BitsPerComponent=bits, Filter=Name.FlateDecode,
    )  # fmt: skip
    pdf.add_blank_page(page_size=(wide, high))
    page = pdf.pages[-1]
    page.Resources = Dictionary(XObject=Dictionary(Print=pdf.make_indirect(image)))
    page.Contents = Stream(pdf, f"q {wide:.6f} 0 0 {high:.6f} 0 0 cm /Print Do Q".encode())
    cut = trim or Rect(0, 0, *size)
    box = [cut.x * points, high - cut.bottom * points, cut.right * points, high - cut.y * points]
    more = _BLEED if trim else 0.0
    bleed = [max(0.0, box[0] - more), max(0.0, box[1] - more), min(wide, box[2] + more), min(high, box[3] + more)]
    page.TrimBox, page.BleedBox = Array([round(v, 5) for v in box]), Array([round(v, 5) for v in bleed])


def colours_of(pdf: Any, icc: bytes, channels: int) -> Any:
    """The space of a page's picture, by its profile; a printer's becomes the document's output intent, too."""
    from pikepdf import Array, Dictionary, Name, Stream, String

    profile = pdf.make_indirect(Stream(pdf, icc, N=channels))
    if is_printers(icc):
        intent = Dictionary(
            Type=Name.OutputIntent, S=Name.GTS_PDFX, OutputConditionIdentifier=String("Custom"),
            RegistryName=String("http://www.color.org"), Info=String("The printer's profile"),
            DestOutputProfile=profile,
        )  # fmt: skip
        pdf.Root.OutputIntents = Array([pdf.make_indirect(intent)])
    return Array([Name.ICCBased, profile])


def is_printers(icc: bytes) -> bool:
    """Whether a profile is of an output device (ICC.1, 7.2.5)."""
    return icc[12:16] == b"prtr"


def save_pdf(pdf: Any, file: BinaryIO, title: str, standard: str = "") -> None:
    """With what it is called, who made it and when; ``standard``: "X-4", "A-2b", or none.

    The same document of the same second is the same file; SOURCE_DATE_EPOCH (reproducible-builds.org) sets that.
    """
    from pikepdf import Dictionary, Name, String

    when = datetime.datetime.fromtimestamp(int(os.environ.get("SOURCE_DATE_EPOCH") or time.time()), datetime.UTC)
    day, stamp = when.strftime("D:%Y%m%d%H%M%SZ"), when.strftime("%Y-%m-%dT%H:%M:%SZ")
    about = Dictionary(
        Title=String(title), Creator=String("Kyanoscript"), Producer=String(_PRODUCER), CreationDate=String(day),
        ModDate=String(day), Trapped=Name("/False"),
    )  # fmt: skip
    pdf.trailer.Info = pdf.make_indirect(about)
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as said:
        said["dc:title"], said["dc:format"] = title, "application/pdf"
        said["pdf:Producer"], said["pdf:Trapped"] = _PRODUCER, "False"
        said["xmp:CreatorTool"] = "Kyanoscript"
        for name in ("xmp:CreateDate", "xmp:ModifyDate", "xmp:MetadataDate"):
            said[name] = stamp
        if standard == "X-4":
            said.register_xml_namespace(_PDFX, "pdfxid")
            said[f"{{{_PDFX}}}GTS_PDFXVersion"] = "PDF/X-4"
            said["xmpMM:DocumentID"] = f"uuid:{uuid.uuid5(uuid.NAMESPACE_URL, title + stamp)}"
            said["xmpMM:VersionID"], said["xmpMM:RenditionClass"] = "1", "default"
        elif standard == "A-2b":
            said["pdfaid:part"], said["pdfaid:conformance"] = "2", "B"
    out = io.BytesIO()
    pdf.save(out, deterministic_id=True, compress_streams=False, min_version="1.7")
    file.write(out.getbuffer())
