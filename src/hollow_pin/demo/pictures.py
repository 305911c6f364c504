"""Photos for the examples, drawn: a track seen from above, a housing, a shell's corner, a plug."""

from __future__ import annotations

import io
import random
from typing import Literal

from PIL import Image, ImageDraw, ImageFilter

Subject = Literal["worn track", "dusty track", "shell corner", "plug"]
SIZE = (1280, 960)


def photograph(subject: Subject, seed: int) -> io.BytesIO:
    """A picture file of a subject, as a camera would hand it over."""
    drawn = random.Random(seed)
    image = Image.new("RGB", SIZE, (188, 178, 158))
    pen = ImageDraw.Draw(image)
    if subject == "shell corner":
        _corner(pen, drawn)
    elif subject == "plug":
        _plug(pen)
    else:
        _track(pen, drawn, subject)
    grain = Image.effect_noise(SIZE, 22).convert("RGB")
    soft = image.filter(ImageFilter.GaussianBlur(1.6))
    file = io.BytesIO()
    Image.blend(soft, grain, 0.12).save(file, "JPEG", quality=88)
    return file


def _track(pen: ImageDraw.ImageDraw, drawn: random.Random, subject: Subject) -> None:
    """A housing's wafer: an arc of dark track between two silver pads."""
    pen.rounded_rectangle((240, 90, 1040, 870), 60, fill=(214, 205, 180), outline=(120, 110, 90))
    pen.arc((380, 210, 900, 730), 150, 390, fill=(52, 50, 54), width=86)
    for angle_end in ((150, 158), (382, 390)):
        pen.arc((380, 210, 900, 730), *angle_end, fill=(196, 198, 202), width=88)
    if subject == "worn track":
        pen.arc((410, 240, 870, 700), 258, 282, fill=(132, 122, 112), width=22)
        pen.arc((416, 246, 864, 694), 263, 277, fill=(176, 164, 148), width=10)
    else:
        for _ in range(260):
            x, y, r = drawn.gauss(640, 210), drawn.gauss(330, 90), drawn.uniform(1, 5)
            pen.ellipse((x - r, y - r, x + r, y + r), fill=(226, 220, 206))
    pen.ellipse((560, 390, 720, 550), fill=(96, 92, 88), outline=(60, 58, 56), width=6)


def _plug(pen: ImageDraw.ImageDraw) -> None:
    """Two wires in a white plug on a dark board."""
    pen.rectangle((0, 380, 1280, 960), fill=(44, 62, 58))
    for x, colour in ((560, (36, 34, 36)), (700, (186, 52, 44))):
        pen.line((x, 0, x + 10, 200, x, 480), fill=colour, width=46, joint="curve")
    pen.rounded_rectangle((480, 440, 800, 640), 18, fill=(232, 228, 216), outline=(150, 146, 136))
    for x in (560, 700):
        pen.rectangle((x - 24, 640, x + 24, 730), fill=(196, 184, 140))


def _corner(pen: ImageDraw.ImageDraw, drawn: random.Random) -> None:
    """Where it fell: scratches across the edge of a dark shell."""
    pen.polygon([(0, 960), (0, 420), (760, 250), (1280, 620), (1280, 960)], fill=(58, 66, 72))
    pen.line([(0, 420), (760, 250), (1280, 620)], fill=(110, 118, 122), width=10)
    for _ in range(14):
        x, y = drawn.uniform(640, 860), drawn.uniform(260, 360)
        long = drawn.uniform(30, 130)
        pen.line((x, y, x + long, y + long * 0.4), fill=(170, 172, 170), width=drawn.randint(1, 4))
