"""Pictures from files: looked into, decoded, made anew as JPEG with nothing but the picture in it."""

from __future__ import annotations

import io
import re
import struct
from dataclasses import dataclass
from threading import Lock
from typing import BinaryIO

from PIL import ExifTags, Image

from hollow_pin.formats.errors import FileError

LARGEST_BYTES = 40_000_000
MOST_PIXELS = {"JPEG": 50_000_000, "PNG": 50_000_000, "WEBP": 16_000_000}
"""By what decoding them holds: a WebP needs three canvases of four bytes a pixel at once."""
KEPT_PX = 2048
"""The longer side of what is kept: a six-lobe screw's recess is still to be made out."""
THUMB_PX = 320
STRIP = 64
MOST_HELD = 250e6
LOOKED_AT = 1 << 20
QUALITY = 84

_ONE_AT_A_TIME = Lock()
"""Decoding takes memory: two large pictures wait for each other."""

_KINDS = {"JPEG": "JPEG", "PNG": "PNG", "WEBP": "WebP"}
_NOT_PICTURES: tuple[tuple[bytes, str], ...] = (
    (b"MZ", "a program"),
    (b"\x7fELF", "a program"),
    (b"\xcf\xfa\xed\xfe", "a program"),
    (b"#!", "a program"),
    (b"PK\x03\x04", "an archive or a document"),
    (b"%PDF-", "a document"),
    (b"Rar!", "an archive"),
    (b"7z\xbc\xaf", "an archive"),
    (b"\x1f\x8b", "an archive"),
)
_SECOND = (
    b"<script",
    b"<?php",
    b"<html",
    b"<!doctype",
    *(b"<svg" + after for after in (b" ", b">", b"/", b"\t", b"\r", b"\n")),
    b"<iframe",
    b"%pdf-",
    b"\x7felf\x02\x01",
)
"""In small letters: what has no business in a picture. Each is long enough not to turn up by chance
in a million photos; four letters would in every hundredth."""
_BARE = "\x7f \t\r\n>/"
_ZIP_END = b"PK\x05\x06"
_ZIP_TAIL = 65_557
"""An archive's last record begins at most this far from the end of a file."""


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: JPEG bytes, whole and small, and its size in pixels."""

    body: bytes
    thumb: bytes
    size: tuple[int, int]


def remake(file: BinaryIO) -> Picture:
    """Decode a picture and make it anew: upright, at most 2048 px, no place, date or maker in it.

    Raises FileError where it is no picture, too large, cut short, or has something else inside.
    """
    file.seek(0, io.SEEK_END)
    length = file.tell()
    if length > LARGEST_BYTES:
        raise FileError(
            f"The file has {length / 1e6:.0f} MB; up to {LARGEST_BYTES // 1_000_000} MB are taken. "
            "Save the picture smaller."
        )
    file.seek(0)
    head = file.read(64)
    _refuse_by(head, length)
    with _ONE_AT_A_TIME:
        _refuse_second_content(file, head)
        file.seek(0)
        return _remade(file)


def _refuse_by(head: bytes, length: int) -> None:
    if not length:
        raise FileError("The file is empty.")
    for start, what in _NOT_PICTURES:
        if head.startswith(start):
            raise FileError(f"This is {what}, not a picture, whatever it is called.")
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    if text.startswith((b"<svg", b"<?xml")):
        raise FileError("A drawing in SVG may carry programs. Save it as PNG or JPEG.")
    if head[4:8] == b"ftyp":
        raise FileError("Pictures and films of this kind are not read. Save it as JPEG or PNG.")
    is_picture = (
        head.startswith((b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n"))
        or head[:4] + head[8:12] == b"RIFFWEBP"
    )
    if not is_picture:
        raise FileError("This is not a picture that can be read: JPEG, PNG or WebP are.")


def _refuse_second_content(file: BinaryIO, head: bytes) -> None:
    """A file that is a picture to one program and something else to another is refused."""
    file.seek(0)
    data = file.read()
    for start in range(0, len(data), LOOKED_AT):
        small = data[start : start + LOOKED_AT + 16].lower()
        for second in _SECOND:
            if second in small:
                raise _Second(f"“{second.decode('latin-1').strip(_BARE)}” stands in it")
    if _ZIP_END in data[-_ZIP_TAIL:] and b"PK\x01\x02" in data:
        raise _Second("an archive is joined to it")
    end = _end_of(data, head)
    if end is None:
        raise FileError("The picture is cut short. Copy it again from the camera.")
    after = data[end:]
    if after.strip(b"\0") and not _camera_leaves(after):
        raise _Second(f"{len(after)} more bytes follow the picture")


class _Second(FileError):
    def __init__(self, what: str) -> None:
        super().__init__(
            f"The file is more than a picture: {what}. Open it in a picture program, save it anew, "
            "and add that."
        )


def _camera_leaves(after: bytes) -> bool:
    """What cameras put behind a picture: a further picture, a film, or a trailer of their own."""
    further = after.lstrip(b"\0").startswith(b"\xff\xd8\xff")
    return further or after[4:8] == b"ftyp" or after.endswith(b"SEFT")


def _end_of(data: bytes, head: bytes) -> int | None:
    """Where the picture in a file ends; None where the file ends before it does."""
    if head.startswith(b"\x89PNG"):
        at = 8
        while at + 8 <= len(data):
            size, kind = struct.unpack_from(">I4s", data, at)
            at += 12 + size
            if kind == b"IEND":
                return at if at <= len(data) else None
        return None
    if head.startswith(b"RIFF"):
        end = 8 + int(struct.unpack_from("<I", data, 4)[0])
        return end + end % 2 if end <= len(data) else None
    return _end_of_jpeg(data)


_AFTER_SCAN = re.compile(rb"\xff[\x01-\xcf\xd8-\xfe]")


def _end_of_jpeg(data: bytes) -> int | None:
    at = 2
    while at + 4 <= len(data):
        if data[at] != 0xFF:
            return None
        marker = data[at + 1]
        if marker == 0xFF:
            at += 1
            continue
        if marker == 0xD9:
            return at + 2
        if marker == 0x01 or 0xD0 <= marker <= 0xD7:
            at += 2
            continue
        at += 2 + int(struct.unpack_from(">H", data, at + 2)[0])
        if marker == 0xDA:
            end = _AFTER_SCAN.search(data, at)
            if end is None:
                return None
            at = end.start()
    return at + 2 if data[at : at + 2] == b"\xff\xd9" else None


def _remade(file: BinaryIO) -> Picture:
    Image.MAX_IMAGE_PIXELS = None
    try:
        if (webp := _webp_size(file.read(30))) is not None:
            # Its decoder takes the memory for all of it as soon as it is opened.
            _refuse_pixels("WEBP", *webp)
        file.seek(0)
        with Image.open(file, formats=tuple(_KINDS)) as image:
            _refuse_pixels(image.format or "", *image.size)
            if _held_while_decoded(image) > MOST_HELD:
                raise FileError(
                    "The picture is saved so that all of it must be held at once to be decoded. Save "
                    "it as an ordinary JPEG, not a progressive one, or smaller."
                )
            image.draft("RGB", (KEPT_PX, KEPT_PX))
            turned = image.getexif().get(ExifTags.Base.Orientation, 1)
            image_out = _reduced(image)
            image_out.thumbnail((KEPT_PX, KEPT_PX), reducing_gap=2.0)
            image_out = _upright(image_out, turned)
    except FileError:
        raise
    except (OSError, ValueError, SyntaxError, struct.error, Image.DecompressionBombError) as wrong:
        reason = str(wrong) or type(wrong).__name__
        raise FileError(f"The picture cannot be decoded: {reason}. Is it whole?") from None
    small = image_out.copy()
    small.thumbnail((THUMB_PX, THUMB_PX))
    return Picture(_jpeg(image_out), _jpeg(small), image_out.size)


def _refuse_pixels(kind: str, width: int, height: int) -> None:
    most = MOST_PIXELS.get(kind, 0)
    if width * height > most:
        raise FileError(
            f"The picture has {width * height / 1e6:.0f} million pixels; up to {most // 1_000_000} "
            f"million are taken of a {_KINDS.get(kind, kind)}. Save it smaller."
        )


def _webp_size(head: bytes) -> tuple[int, int] | None:
    """The canvas a WebP's head asks for (RFC 9649); None for another file."""
    if len(head) < 30 or head[:4] + head[8:12] != b"RIFFWEBP":
        return None
    kind, body = head[12:16], head[20:]
    if kind == b"VP8X":
        return 1 + int.from_bytes(body[4:7], "little"), 1 + int.from_bytes(body[7:10], "little")
    if kind == b"VP8L":
        bits = int.from_bytes(body[1:5], "little")
        return 1 + (bits & 0x3FFF), 1 + (bits >> 14 & 0x3FFF)
    if kind == b"VP8 ":
        sides = (int.from_bytes(body[at : at + 2], "little") & 0x3FFF for at in (6, 8))
        width, height = sides
        return width, height
    raise FileError("The picture cannot be decoded: it is a WebP of a kind that is not known.")


def _held_while_decoded(image: Image.Image) -> float:
    """Bytes for a progressive JPEG's coefficients: two for each of its components' samples."""
    layers = getattr(image, "layer", [])
    if not image.info.get("progressive") or not layers:
        return 0.0
    widest, highest = max(h for _, h, _, _ in layers), max(v for _, _, v, _ in layers)
    samples = sum(h * v for _, h, v, _ in layers) / (widest * highest)
    return float(2 * samples * image.width * image.height)


def _reduced(image: Image.Image) -> Image.Image:
    """In colours alone, by whole numbers of pixels smaller, one strip after the other: so that a
    large picture is held once and no more."""
    factor = max(image.size) // KEPT_PX
    if factor < 2:
        return _on_white(image)
    width, height = image.size
    image.load()
    small = Image.new("RGB", (-(-width // factor), -(-height // factor)))
    for top in range(0, height, STRIP * factor):
        strip = image.crop((0, top, width, min(height, top + STRIP * factor)))
        strip.info = image.info
        small.paste(_on_white(strip).reduce(factor), (0, top // factor))
    return small


_TURNS = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}


def _upright(image: Image.Image, turned: int) -> Image.Image:
    """As the camera was held, by the orientation of its EXIF."""
    turn = _TURNS.get(turned)
    return image if turn is None else image.transpose(turn)


def _on_white(image: Image.Image) -> Image.Image:
    """Only the colours: what is see-through lies on white."""
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        above = image.convert("RGBA")
        ground = Image.new("RGB", above.size, "white")
        ground.paste(above, mask=above.getchannel("A"))
        return ground
    if image.mode.startswith("I") or image.mode == "F":
        sixteen = image.convert("I")
        return sixteen.point(lambda v: v / 256).convert("L").convert("RGB")
    return image.convert("RGB")


def _jpeg(image: Image.Image) -> bytes:
    bare = Image.new("RGB", image.size)
    bare.paste(image)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()
