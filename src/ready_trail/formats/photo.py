"""Photos as they are kept: turned upright, shrunk, without where and by what they were taken."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from ready_trail.formats.errors import FileRefusedError

PHOTO_MOST_BYTES = 25_000_000
_PIXELS_MOST = 80_000_000
_SIDE_PX, _QUALITY = 1600, 82
_TAKEN = ("JPEG", "PNG", "WEBP")
_HEIC = (b"ftypheic", b"ftypheix", b"ftypmif1", b"ftyphevc")


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A photo as JPEG, with its sides. [px]"""

    data: bytes
    width: int
    height: int


def is_kept(data: bytes) -> bool:
    """Whether bytes are a photo as it is kept: a whole JPEG of the size that fits a page."""
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG",)) as opened:
            small = max(opened.size) <= _SIDE_PX
            opened.verify()
            return small
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        return False


def prepared(data: bytes) -> Photo:
    """Return a photo to keep. Raises FileRefusedError in plain words."""
    if not data:
        raise FileRefusedError("", "choose a photo first")
    if len(data) > PHOTO_MOST_BYTES:
        raise FileRefusedError("", f"it has more than {PHOTO_MOST_BYTES // 1_000_000} MB")
    if data[4:12] in _HEIC:
        raise FileRefusedError(
            "", "this phone saves pictures as HEIC: let its camera save JPEG, and take it again"
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=_TAKEN) as opened:
                if opened.width * opened.height > _PIXELS_MOST:
                    raise FileRefusedError("", "it has more pixels than any photo needs")
                opened.draft("RGB", (_SIDE_PX, _SIDE_PX))
                upright = ImageOps.exif_transpose(opened)
                upright.thumbnail((_SIDE_PX, _SIDE_PX))
                plain = Image.new("RGB", upright.size, "white")
                mask = upright.getchannel("A") if "A" in upright.getbands() else None
                plain.paste(upright.convert("RGB"), mask=mask)
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise FileRefusedError(
            "", "this is no photo that can be read: JPEG, PNG or WebP"
        ) from error
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise FileRefusedError("", "it has more pixels than any photo needs") from error
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=_QUALITY, optimize=True)  # a new picture: nothing rides along
    return Photo(data=out.getvalue(), width=plain.width, height=plain.height)
