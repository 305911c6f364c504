"""A photo must stay a photo: nothing of where it was taken, nothing else inside, nothing that eats
the machine."""

from __future__ import annotations

import io
import random
import struct
import zipfile
import zlib

import pytest
from PIL import Image

from hollow_pin.formats.errors import FileError
from hollow_pin.formats.picture import KEPT_PX, remake


def made(
    form: str = "JPEG", size: tuple[int, int] = (400, 300), mode: str = "RGB", **more
) -> bytes:
    image = Image.new(mode, size)
    image.paste(Image.effect_noise(size, 60).convert(mode))
    out = io.BytesIO()
    image.save(out, form, **more)
    return out.getvalue()


def refusal(data: bytes) -> str:
    with pytest.raises(FileError) as caught:
        remake(io.BytesIO(data))
    return str(caught.value)


@pytest.mark.parametrize(
    ("form", "mode", "more"),
    [
        ("JPEG", "RGB", {}),
        ("JPEG", "RGB", {"progressive": True}),
        ("JPEG", "L", {}),
        ("JPEG", "CMYK", {}),
        ("PNG", "RGBA", {}),
        ("PNG", "P", {}),
        ("PNG", "I;16", {}),
        ("WEBP", "RGB", {}),
    ],
)
def test_usual_pictures_are_kept(form: str, mode: str, more: dict) -> None:
    picture = remake(io.BytesIO(made(form, mode=mode, **more)))
    assert picture.size == (400, 300)
    with Image.open(io.BytesIO(picture.body)) as again:
        assert (again.format, again.mode, again.size) == ("JPEG", "RGB", (400, 300))
    with Image.open(io.BytesIO(picture.thumb)) as small:
        assert max(small.size) == 320


def test_place_date_and_maker_do_not_stay_and_up_is_up() -> None:
    image = Image.new("RGB", (60, 40), "white")
    image.paste("black", (0, 0, 60, 8))
    exif = Image.Exif()
    exif[0x0112] = 6  # to be turned by a quarter
    exif[0x010F] = "Some maker"
    exif[0x8825] = {1: "N", 2: (51.0, 2.0, 3.0), 3: "W", 4: (4.0, 5.0, 6.0)}
    out = io.BytesIO()
    image.save(out, "JPEG", exif=exif, comment=b"51.034 north")
    assert b"Some maker" in out.getvalue()
    body = remake(out).body
    with Image.open(io.BytesIO(body)) as picture:
        assert not picture.getexif()
        assert picture.size == (40, 60)
        assert picture.getpixel((38, 30))[0] < 90, "its dark edge is on the right now"
    for left in (b"Exif", b"maker", b"51.034", b"GPS"):
        assert left not in body


def test_large_pictures_are_kept_smaller() -> None:
    picture = remake(io.BytesIO(made(size=(5000, 3000))))
    assert max(picture.size) == KEPT_PX


SVG = b'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg"><script>x()</script></svg>'


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (b"MZ\x90\0" + bytes(500), "a program"),
        (b"\x7fELF\x02\x01\x01" + bytes(500), "a program"),
        (b"#!/bin/sh\necho", "a program"),
        (b"%PDF-1.7\n", "a document"),
        (b"PK\x03\x04" + bytes(100), "an archive"),
        (SVG, "SVG may carry programs"),
        (b"\xef\xbb\xbf  <svg onload='x()'>", "SVG may carry programs"),
        (b"GIF89a" + bytes(100), "JPEG, PNG or WebP"),
        (b"\0\0\0\x18ftypheic" + bytes(100), "Save it as JPEG"),
        (b"just words", "not a picture that can be read"),
    ],
)
def test_what_is_no_picture_is_refused_by_what_it_is(data: bytes, said: str) -> None:
    assert said in refusal(data)


def archive() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        packed.writestr("run.txt", "not a picture")
    return out.getvalue()


def with_comment(text: bytes) -> bytes:
    return made(comment=text)


@pytest.mark.parametrize(
    "data",
    [
        made() + archive(),
        made("PNG") + archive(),
        made() + b"<script>x()</script>",
        made("PNG") + b"<?php x(); ?>",
        with_comment(b"<ScRiPt>x()</script>"),
        with_comment(b"%PDF-1.4 1 0 obj"),
        made() + b"MZ\x90\0 and more of a program",
        made("WEBP") + b"something else",
    ],
)
def test_a_picture_that_is_something_else_as_well_is_refused(data: bytes) -> None:
    assert "more than a picture" in refusal(data)


def test_letters_that_turn_up_in_a_photo_by_chance_are_no_reason_to_refuse_it() -> None:
    """Millions of compressed bytes spell every short word sooner or later."""
    image, body = Image.frombytes("P", (8, 8), b"\x81<sVg\x90\x91\x92" * 8), io.BytesIO()
    image.putpalette(bytes(range(256)) * 3)
    image.save(body, "PNG", compress_level=0)
    assert b"<sVg" in body.getvalue()
    assert remake(body).size == (8, 8)


def test_what_cameras_put_behind_a_picture_is_left_out() -> None:
    first, second = made(), made(size=(80, 60))
    for after in (second, bytes(4096), struct.pack(">I", 24) + b"ftypmp42" + bytes(200)):
        assert remake(io.BytesIO(first + after)).size == (400, 300)


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP"])
@pytest.mark.parametrize("share", [0.03, 0.4, 0.98])
def test_a_picture_that_is_cut_short_is_refused(form: str, share: float) -> None:
    data = made(form)
    said = refusal(data[: int(len(data) * share)])
    assert "cut short" in said or "cannot be decoded" in said


def test_scribbled_bytes_never_do_more_than_be_refused() -> None:
    mutate_and_remake(150, seed=3)


def mutate_and_remake(times: int, seed: int) -> int:
    """Change pictures at random and make them anew; how many were made all the same."""
    whole = {form: made(form, size=(120, 90)) for form in ("JPEG", "PNG", "WEBP")}
    drawn, kept = random.Random(seed), 0
    for _ in range(times):
        data = bytearray(whole[drawn.choice(list(whole))])
        for _ in range(drawn.randint(1, 12)):
            data[drawn.randrange(len(data))] = drawn.randrange(256)
        try:
            remake(io.BytesIO(bytes(data)))
            kept += 1
        except FileError:
            continue
    return kept


def test_too_many_pixels_and_too_many_bytes_are_refused_before_they_are_read() -> None:
    def chunk(kind: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
        )

    head = struct.pack(">IIBBBBB", 30_000, 30_000, 8, 2, 0, 0, 0)
    bomb = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head)
    bomb += chunk(b"IDAT", zlib.compress(bytes(90_000))) + chunk(b"IEND", b"")
    assert "900 million pixels" in refusal(bomb)
    assert "up to 40 MB" in refusal(made() + bytes(40_000_000))
