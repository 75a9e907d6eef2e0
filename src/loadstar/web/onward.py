"""A form that a page sends by itself is answered with the page that it leads to, without another question.

A browser that sends a form as a whole page is sent on as usual: else a page that is loaded again would send it twice.
"""

import copy
from collections.abc import Callable
from urllib.parse import urlsplit

from django.http import HttpRequest, HttpResponse, QueryDict

MOST_STEPS = 3  # as one address leads to another
SENT_ON = (301, 302)
AT = "X-Loadstar-At"  # where the page is that the answer holds


class Onward:
    """Middleware, the innermost of all: who asks, and what was said to them, goes along."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer one request."""
        response = self.get_response(request)
        if request.method != "POST" or request.headers.get("X-Alpine-Request") != "true":
            return response
        for _ in range(MOST_STEPS):
            where = response.get("Location", "")
            if response.status_code not in SENT_ON or not _is_here(where):
                break
            response = self.get_response(_asking_for(where, request))
            if response.status_code not in SENT_ON:
                response[AT] = where
        return response


def _is_here(address: str) -> bool:
    """Whether it leads to a page of this application."""
    parts = urlsplit(address)
    return address.startswith("/") and not parts.scheme and not parts.netloc


def _asking_for(address: str, sent: HttpRequest) -> HttpRequest:
    """The question that a browser would put next."""
    parts = urlsplit(address)
    asked = copy.copy(sent)
    asked.method, asked.path, asked.path_info = "GET", parts.path, parts.path
    asked.META = {name: value for name, value in sent.META.items() if name not in ("CONTENT_TYPE", "CONTENT_LENGTH")}
    asked.META |= {"REQUEST_METHOD": "GET", "PATH_INFO": parts.path, "QUERY_STRING": parts.query}
    asked.GET, asked._post, asked.resolver_match = QueryDict(parts.query), QueryDict(), None
    return asked
