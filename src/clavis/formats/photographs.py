"""Photographs in: read, turned upright, made smaller and encoded anew. Nothing of the file that came but its picture is
kept: no place, no camera, no name, nothing hidden in it."""

import io
import threading
import warnings
from dataclasses import dataclass

from clavis.core.errors import ClavisError

LARGEST_BYTES = 20_000_000
MOST_PIXELS = 60_000_000
"""of the picture that comes in: what a camera takes, and no bomb"""
MOST_WHOLE_PIXELS = 25_000_000
"""of one that is decoded whole, 100 MB of memory: a JPEG is decoded smaller from the start"""
LONG_SIDE_PX, SMALL_SIDE_PX = 1600, 320
QUALITY, SMALL_QUALITY = 82, 75
FORMATS = ("JPEG", "PNG", "WEBP")
TOO_MANY = "a photograph has at most 60 million pixels, as PNG or WebP 25 million"
TOO_LARGE = "a photograph is at most 20 MB"


class PhotographError(ClavisError):
    """What came in is no photograph that can be kept."""


@dataclass(frozen=True)
class Photograph:
    """A picture, and the same one small, both as JPEG; size in pixels."""

    picture: bytes
    small: bytes
    width_px: int
    height_px: int


_one_at_a_time = threading.Lock()
"""a large picture takes much memory while it is decoded"""


def read(data: bytes) -> Photograph:
    """A photograph from a file (JPEG, PNG, WebP), one after the other. Raises PhotographError."""
    with _one_at_a_time:
        return _read(data)


def _read(data: bytes) -> Photograph:
    from PIL import ExifTags, Image, ImageOps

    if len(data) > LARGEST_BYTES:
        raise PhotographError(TOO_LARGE)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # what a damaged picture says of its own notes
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
                pixels = opened.width * opened.height
                if pixels > MOST_PIXELS or (opened.format != "JPEG" and pixels > MOST_WHOLE_PIXELS):
                    raise PhotographError(TOO_MANY)
                opened.draft("RGB", (LONG_SIDE_PX, LONG_SIDE_PX))
                turn = opened.getexif().get(ExifTags.Base.Orientation, 1)
                plain = opened if opened.mode in ("RGB", "L") else opened.convert("RGB")
                # small first: turning and converting a large one would hold it twice more
                plain.thumbnail((LONG_SIDE_PX, LONG_SIDE_PX), reducing_gap=2.0)
                plain.getexif()[ExifTags.Base.Orientation] = turn
                upright = ImageOps.exif_transpose(plain).convert("RGB")
    except PhotographError:
        raise
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise PhotographError(TOO_MANY) from None
    except (OSError, ValueError, SyntaxError):
        raise PhotographError("not a photograph that can be read: JPEG, PNG or WebP") from None
    small = upright.copy()
    small.thumbnail((SMALL_SIDE_PX, SMALL_SIDE_PX))
    return Photograph(_encoded(upright, QUALITY), _encoded(small, SMALL_QUALITY), upright.width, upright.height)


def _encoded(image: object, quality: int) -> bytes:
    """JPEG of the pixels alone."""
    from PIL import Image

    if not isinstance(image, Image.Image):
        raise TypeError("an image is wanted")
    plain = Image.new("RGB", image.size)
    plain.paste(image)
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=quality, optimize=True)
    return out.getvalue()
