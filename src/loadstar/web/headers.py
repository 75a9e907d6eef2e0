"""Headers of every answer: how long the server took, where that is measured; what may be kept of it."""

import time
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse


class ServerTiming:
    """Middleware: adds `Server-Timing: app;dur=...` in milliseconds, for `./loadstar bench`, in the demonstration only:
    how long a sign-in takes is nobody's business."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Time one request."""
        begun = time.perf_counter()
        response = self.get_response(request)
        if settings.DEMO:
            response["Server-Timing"] = f"app;dur={(time.perf_counter() - begun) * 1000:.1f}"
        return response


class KeptByNobody:
    """Middleware: a page made for somebody is kept neither by a proxy nor in a browser that others use after them."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer one request."""
        response = self.get_response(request)
        response.headers.setdefault("Cache-Control", "private, no-store")
        return response
