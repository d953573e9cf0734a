"""MusicXML, the door: bytes to a tree and back, packed or not, with nothing fetched and nothing blown up."""

from __future__ import annotations

import io
import lzma
import zipfile
import zlib
from dataclasses import dataclass, replace

from lxml import etree

from dromic.errors import RiffError

LARGEST_XML = 32 * 2**20
MOST_ENTRIES = 500
CONTAINER = "META-INF/container.xml"
_PACKED = b"PK\x03\x04"
# Whatever unpacking stumbles over.
_BROKEN = (
    zipfile.BadZipFile,
    zipfile.LargeZipFile,
    zlib.error,
    lzma.LZMAError,
    NotImplementedError,
    OSError,
    EOFError,
    RuntimeError,
    ValueError,
)


@dataclass(frozen=True)
class Score:
    """A score in a file.

    Parameters
    ----------
    tree : lxml.etree.ElementTree
        Partwise.
    entry : str
        Its name inside a packed file; empty when it is not packed.
    packed : bytes
        The packed file; empty when it is not packed.
    """

    tree: etree._ElementTree
    entry: str = ""
    packed: bytes = b""

    @property
    def root(self) -> etree._Element:
        """The element ``score-partwise``."""
        return self.tree.getroot()


def parse_xml(data: bytes) -> etree._ElementTree:
    """Parse XML without fetching or expanding anything.

    Raises
    ------
    RiffError
        With line and column where the XML is broken.
    """
    parser = etree.XMLParser(load_dtd=False, no_network=True, resolve_entities=False, huge_tree=False)
    try:
        return etree.parse(io.BytesIO(data), parser)
    except etree.XMLSyntaxError as error:
        line, column = error.position
        raise RiffError(
            f"this is not well-formed XML ({error.msg.splitlines()[0]}); save it anew where it comes from",
            line=line or None,
            column=column or None,
        ) from None


def open_score(data: bytes) -> Score:
    """Find the score in a MusicXML file, packed or not.

    Parameters
    ----------
    data : bytes

    Raises
    ------
    RiffError
        When it is no MusicXML score, or too large.
    """
    if data.startswith(_PACKED):
        return _unpacked(data)
    return _score(data)


def _score(data: bytes) -> Score:
    if len(data) > LARGEST_XML:
        raise RiffError(f"the score is larger than {LARGEST_XML // 2**20} MB, which no riff is")
    tree = parse_xml(data)
    root = tree.getroot()
    if root.tag == "score-timewise":
        _turn_partwise(root)
    if root.tag != "score-partwise":
        raise RiffError(
            f"this is XML, but no MusicXML score: found <{str(root.tag)[:40]}>, expected <score-partwise>"
        )
    return Score(tree)


def _unpacked(data: bytes) -> Score:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            if len(entries) > MOST_ENTRIES:
                raise RiffError(f"the packed file has {len(entries)} entries, which no score has")
            name = _root_entry(archive)
            return replace(_score(_extract(archive, name)), entry=name, packed=data)
    except _BROKEN as error:
        raise RiffError(f"the packed file is broken ({error}); save it anew") from None


def _extract(archive: zipfile.ZipFile, name: str) -> bytes:
    """Unpack one entry, and never more than a score may have, whatever its header says."""
    if name.startswith("/") or ".." in name.split("/"):
        raise RiffError(f"the packed file points outside itself ('{name[:60]}'), which is not safe")
    try:
        if archive.getinfo(name).compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
            raise RiffError("the score is packed as no packed score is (.mxl is deflated); save it anew")
        with archive.open(name) as entry:
            data = entry.read(LARGEST_XML + 1)
    except KeyError:
        raise RiffError(f"the packed file has no entry '{name[:60]}'; save it anew") from None
    if len(data) > LARGEST_XML:
        raise RiffError(f"the score unpacks to more than {LARGEST_XML // 2**20} MB, which no riff is")
    return data


def _root_entry(archive: zipfile.ZipFile) -> str:
    names = archive.namelist()
    if CONTAINER in names:
        tree = parse_xml(_extract(archive, CONTAINER))
        for one in tree.getroot().iter("{*}rootfile"):
            path = one.get("full-path")
            if path:
                return path
    found = [name for name in names if name.endswith((".xml", ".musicxml")) and not name.startswith("META-INF")]
    if not found:
        raise RiffError("the packed file holds no score")
    return found[0]


def _turn_partwise(root: etree._Element) -> None:
    """From measures that hold parts to parts that hold measures."""
    parts: dict[str, etree._Element] = {}
    measures = root.findall("measure")
    for measure in measures:
        for part in measure.findall("part"):
            name = part.get("id", "")
            whole = parts.setdefault(name, etree.Element("part", id=name))
            own = etree.SubElement(
                whole, "measure", {str(key): str(value) for key, value in measure.attrib.items()}
            )
            own.extend(list(part))
        root.remove(measure)
    root.tag = "score-partwise"
    root.extend(parts.values())


def score_bytes(score: Score) -> bytes:
    """Write a score as it came: packed or not, everything else in the packed file untouched."""
    xml = etree.tostring(score.tree, xml_declaration=True, encoding="UTF-8")
    if not score.packed:
        return xml
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(score.packed)) as old, zipfile.ZipFile(out, "w") as new:
        for entry in old.infolist():
            data = xml if entry.filename == score.entry else _extract(old, entry.filename)
            new.writestr(entry, data, compress_type=entry.compress_type)
    return out.getvalue()


def pack(xml: bytes, name: str = "score.musicxml") -> bytes:
    """Pack a score as ``.mxl``."""
    container = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<container><rootfiles><rootfile full-path="{name}" '
        'media-type="application/vnd.recordare.musicxml+xml"/></rootfiles></container>\n'
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for entry, data, kind in (
            ("mimetype", "application/vnd.recordare.musicxml", zipfile.ZIP_STORED),
            (CONTAINER, container, zipfile.ZIP_DEFLATED),
            (name, xml, zipfile.ZIP_DEFLATED),
        ):
            # Without the time of day, so that the same score gives the same file.
            archive.writestr(zipfile.ZipInfo(entry), data, compress_type=kind)
    return out.getvalue()
