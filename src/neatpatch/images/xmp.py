"""What a patched copy tells of itself: that, where and by which frame light was given back.

Written as XMP (ISO 16684-1), in a namespace that docs/formats.md describes.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree
from xml.sax.saxutils import escape

import tifffile
from PIL import Image

from neatpatch.images.sniff import sniff

NAMESPACE = "https://neat-patch.invalid/ns/patch/1/"
_RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
_END = b"</rdf:RDF>"
_PACKET = (
    '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>'
    '<rdf:RDF xmlns:rdf="{rdf}"></rdf:RDF><?xpacket end="w"?>'
)
"""An empty packet as the standard wants it (ISO 16684-1, 7.3.2)."""
XMP_TAG = 700


@dataclass(frozen=True)
class Place:
    """A round place of a picture; its centre and width in pixels."""

    x_px: float
    y_px: float
    outer_px: float


@dataclass(frozen=True)
class PatchNote:
    """By which frame a copy was patched, and where. ``taken_at``: ISO 8601 or None."""

    frame_sha256: str
    taken_at: str | None
    places: tuple[Place, ...]


def with_note(packet: bytes | None, note: PatchNote) -> bytes:
    """An XMP packet with the note in it; what else it tells stays. None: a new packet.

    One that is written in another way (UTF-16, other prefixes) stays as it is, without the note.
    """
    if packet is None:
        packet = _PACKET.format(rdf=_RDF).encode()
    if _END not in packet:
        return packet
    at = packet.rindex(_END)
    return packet[:at] + _description(note).encode() + packet[at:]


def _description(note: PatchNote) -> str:
    rows = "".join(f"<rdf:li>{p.x_px:g} {p.y_px:g} {p.outer_px:g}</rdf:li>" for p in note.places)
    taken = f"<np:FrameTakenAt>{escape(note.taken_at)}</np:FrameTakenAt>" if note.taken_at else ""
    return (
        f'<rdf:Description rdf:about="" xmlns:np="{NAMESPACE}">'
        f"<np:FrameSha256>{escape(note.frame_sha256)}</np:FrameSha256>{taken}"
        f"<np:Places><rdf:Seq>{rows}</rdf:Seq></np:Places></rdf:Description>"
    )


def read_note(path: Path) -> PatchNote | None:
    """What a copy tells, of several patches together; None where it tells nothing."""
    packet = packet_of(path)
    if packet is None:
        return None
    start, end = packet.find(b"<rdf:RDF"), packet.rfind(_END)
    try:
        tree = ElementTree.fromstring(packet[start : end + len(_END)])
    except ElementTree.ParseError:
        return None
    rows = tree.iterfind(f".//{{{NAMESPACE}}}Places/{{{_RDF}}}Seq/{{{_RDF}}}li")
    frame = tree.findtext(f".//{{{NAMESPACE}}}FrameSha256")
    if frame is None:
        return None
    places = tuple(p for row in rows if (p := _place(row.text or "")))
    return PatchNote(frame, tree.findtext(f".//{{{NAMESPACE}}}FrameTakenAt"), places)


def _place(text: str) -> Place | None:
    try:
        x, y, outer = (float(v) for v in text.split())
    except ValueError:
        return None
    return Place(x, y, outer)


def packet_of(path: Path) -> bytes | None:
    """The XMP packet of a picture, None without one."""
    if sniff(path) in ("tiff", "dng", "raw"):
        with tifffile.TiffFile(path) as tif:
            value = tif.pages.first.tags.valueof(XMP_TAG)
    else:
        with Image.open(path) as image:
            value = image.info.get("xmp")
    if isinstance(value, str):
        return value.encode()
    return bytes(value) if value else None
