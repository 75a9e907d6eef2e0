"""A station's page with an open form, if any."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render

from .frame import Frame
from .opened import OpenForm
from .station import Station


def show(frame: Frame, station: Station, opened: OpenForm | None = None, status: int = 200) -> HttpResponse:
    """Render it."""
    if opened is not None and not frame.may_edit:
        opened = None
    frame.opened = opened
    context: dict[str, Any] = {"frame": frame, "opened": opened, **station.page(frame)}
    return render(frame.request, station.template, context, status=status)
