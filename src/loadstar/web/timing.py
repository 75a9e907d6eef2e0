"""Says in a header how long the server took, for `./loadstar bench` and the browser's own tools."""

import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse


class ServerTiming:
    """Middleware: adds `Server-Timing: app;dur=...` in milliseconds."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Time one request."""
        begun = time.perf_counter()
        response = self.get_response(request)
        response["Server-Timing"] = f"app;dur={(time.perf_counter() - begun) * 1000:.1f}"
        return response
