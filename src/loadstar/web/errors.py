"""Pages for what goes wrong: not found, refused, a stopped database, a fault of ours. Never a trace."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404, also for what belongs to another workshop."""
    return _page("error.html", 404, {"title": "Not here", "text": (
        "There is nothing at this address, or it belongs to a workshop that you are not a member of.")})


def refused(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403: a member without the right to do this."""
    return _page("error.html", 403, {"title": "Not allowed", "text": (
        "Your role in this workshop does not let you do that. An owner can change it under Members.")})


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400: too large or malformed."""
    return _page("error.html", 400, {"title": "Not understood", "text": (
        "What was sent is too large or not in the form that this page sends. Nothing has been changed.")})


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form from another site, or one kept open over a new sign-in."""
    return _page("error.html", 403, {"title": "Open the page again", "text": (
        "This form was opened before you last signed in, or did not come from Loadstar. Nothing has been changed. "
        "Go back, reload the page and send it again.")})


def failed(request: HttpRequest) -> HttpResponse:
    """500, or 503 when the database is away: then the form that was sent can be sent again from the page."""
    error = sys.exc_info()[1]
    if isinstance(error, OperationalError | InterfaceError) and _connection_lost(error):
        fields = [(k, v) for k, values in request.POST.lists() for v in values] if request.method == "POST" else []
        return _page("database_away.html", 503, {
            "fields": [(k, v) for k, v in fields if k not in ("password", "password1", "password2")],
            "had_file": bool(request.method == "POST" and request.FILES), "path": request.get_full_path(),
            "sent": request.method == "POST"})
    # Django has written it to the log, with its trace.
    return _page("error.html", 500, {"title": "That went wrong", "text": (
        "Loadstar made a mistake; nothing has been changed. What happened is in the application's log.")})


def _connection_lost(error: Exception) -> bool:
    # MariaDB client errors: cannot connect (2002, 2003, 2005), gone away (2006), lost (2013); server shutting down
    # 1053.
    return bool(error.args) and (error.args[0] in (1053, 1927, 2002, 2003, 2005, 2006, 2013) or isinstance(
        error, InterfaceError))


def _page(template: str, status: int, context: dict[str, object]) -> HttpResponse:
    # Without the request: context processors would ask the database who is signed in.
    return HttpResponse(render_to_string(template, context), status=status)
