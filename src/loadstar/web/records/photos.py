"""Photographs: taken in, made smaller, encoded anew so that nothing of the camera's (place, time, serial number)
stays."""

import io
import warnings

from django.core.files.uploadedfile import UploadedFile
from PIL import Image, ImageOps, UnidentifiedImageError

from loadstar.core.errors import refuse
from loadstar.core.plan.model import Plan

from ..plans.models import PlanHead
from ..workshop.models import Person
from .models import Photo

MAX_BYTES, MAX_PIXELS, LONGEST_PX, QUALITY = 12 * 1024 * 1024, 60_000_000, 1600, 82
FORMATS = ("JPEG", "PNG", "WEBP")
MOST = 40  # of a plan


def keep_photo(row: PlanHead, person: Person, element: str, caption: str, file: UploadedFile | None) -> Photo:
    """Keep a photograph of an element; PlanError in words when it is none or too large."""
    if file is None:
        raise refuse("", "photo", "Choose a photograph first.")
    if file.size is None or file.size > MAX_BYTES:
        raise refuse("", "photo",
                     f"The photograph has {(file.size or 0) / 1e6:.0f} MB; up to {MAX_BYTES // 1024**2} MB are taken. "
                                  "Choose a smaller size in the camera.")
    if row.photos.count() >= MOST:
        raise refuse("", "photo", f"This plan has {MOST} photographs already, those of connectors that were taken out "
                     "among them: take one away first.")
    data, width, height = reencoded(file.read())
    return Photo.objects.create(plan=row, element=element, caption=caption[:120], image=data, width=width,
                                height=height, by=person)


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
                    raise refuse("", "photo",
                                 f"The photograph has {opened.width * opened.height / 1e6:.0f} million pixels; up to "
                                              f"{MAX_PIXELS // 1_000_000} million are taken.")
                picture = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, Image.DecompressionBombError,
            Image.DecompressionBombWarning) as error:
        raise refuse("", "photo",
            "The file is no photograph that can be read (JPEG, PNG or WebP), whatever its name says.") from error
    picture.thumbnail((LONGEST_PX, LONGEST_PX))
    out = io.BytesIO()
    clean = Image.new("RGB", picture.size)
    clean.paste(picture)  # pixels only
    clean.save(out, "JPEG", quality=QUALITY)
    return out.getvalue(), clean.width, clean.height
