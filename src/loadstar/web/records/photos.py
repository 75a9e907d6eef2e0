"""Photographs: taken in, made smaller, encoded anew so that nothing of the camera's (place, time, serial number)
stays."""

import io
import struct
import warnings
import zlib

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from PIL import Image, ImageOps, UnidentifiedImageError

from loadstar.core.errors import PlanError, refuse
from loadstar.core.plan.model import Plan

from ..plans.models import PlanHead
from ..workshop.models import Person
from .models import Photo

MAX_BYTES, MAX_PIXELS, LONGEST_PX, QUALITY = 12 * 1024 * 1024, 60_000_000, 1600, 82
FORMATS = ("JPEG", "PNG", "WEBP")
LONGEST_TAKEN_PX, NARROWEST = 30_000, 20  # times as long as wide
# What reading a file that is damaged on purpose can raise.
UNREADABLE = (UnidentifiedImageError, OSError, SyntaxError, ValueError, EOFError, IndexError, KeyError, TypeError,
              OverflowError, struct.error, zlib.error, Image.DecompressionBombError, Image.DecompressionBombWarning)
MOST = 40  # of a plan


def sent(row: PlanHead, file: UploadedFile | None) -> bytes:
    """The bytes of a photograph that was sent; PlanError in words when there is none, or it is too large."""
    if file is None:
        raise refuse("", "photo", "Choose a photograph first.")
    if file.size is None or file.size > MAX_BYTES:
        raise refuse("", "photo",
                     f"The photograph has {(file.size or 0) / 1e6:.0f} MB; up to {MAX_BYTES // 1024**2} MB are taken. "
                                  "Choose a smaller size in the camera.")
    _room_for_one(row)
    return bytes(file.read())


def keep_photo(row: PlanHead, person: Person, element: str, caption: str, data: bytes) -> Photo:
    """Keep a photograph of an element; PlanError in words when it is none."""
    image, width, height = reencoded(data)
    with transaction.atomic():
        PlanHead.objects.select_for_update().get(pk=row.pk)  # of two at once one sees the other
        _room_for_one(row)
        return Photo.objects.create(plan=row, element=element, caption=caption[:120], image=image, width=width,
                                    height=height, by=person)


def _room_for_one(row: PlanHead) -> None:
    if row.photos.count() >= MOST:
        raise refuse("", "photo", f"This plan has {MOST} photographs already, those of connectors that were taken out "
                     "among them: take one away first.")


def shown_by(plan: Plan) -> set[str]:
    """What a photograph can be of."""
    return {e.id for e in (*plan.plugs, *plan.parts, *plan.removed, *plan.wires)}


def left_behind(row: PlanHead, plan: Plan) -> list[Photo]:
    """Photographs of what is no longer in the plan: kept, since taking it out can be undone, but not out of sight."""
    there = shown_by(plan)
    return [photo for photo in row.photos.defer("image").order_by("pk") if photo.element not in there]


def reencoded(data: bytes) -> tuple[bytes, int, int]:
    """The picture as a JPEG of at most 1600 px, turned upright, with no metadata; its width and height."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
                if opened.width * opened.height > MAX_PIXELS:
                    raise refuse("", "photo", f"The photograph has {opened.width * opened.height / 1e6:.0f} million "
                                 f"pixels; up to {MAX_PIXELS // 1_000_000} million are taken.")
                if max(opened.size) > LONGEST_TAKEN_PX or max(opened.size) > NARROWEST * min(opened.size):
                    raise refuse("", "photo", f"The photograph is {opened.width} by {opened.height} pixels: no camera "
                                 "makes one so narrow. Cut it first.")
                opened.draft("RGB", (LONGEST_PX, LONGEST_PX))  # a large JPEG is never in memory at its full size
                picture = ImageOps.exif_transpose(opened).convert("RGB")
                picture.thumbnail((LONGEST_PX, LONGEST_PX))
    except PlanError:
        raise
    except UNREADABLE as error:
        raise refuse("", "photo",
            "The file is no photograph that can be read (JPEG, PNG or WebP), whatever its name says.") from error
    out = io.BytesIO()
    clean = Image.new("RGB", picture.size)
    clean.paste(picture)  # pixels only
    clean.save(out, "JPEG", quality=QUALITY)
    return out.getvalue(), clean.width, clean.height
