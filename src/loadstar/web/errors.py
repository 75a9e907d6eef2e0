"""Pages for what goes wrong: not found, refused, a stopped database, a fault of ours. Never a trace."""

import errno
import sys

from django.db import DatabaseError, InterfaceError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from loadstar.core.limits import TooLarge

from .logs import connection_lost
from .plans.known import forget


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
    """500; or 503 when the database is away, and 507 when the disk is full: then what was sent can be sent again from
    the page."""
    error = sys.exc_info()[1]
    if isinstance(error, DatabaseError | InterfaceError | OSError) and _disk_full(error):
        return no_room(request)
    if isinstance(error, MemoryError):
        forget()
        return _again(request, 503, "No memory left", "This part of Loadstar has used up its memory and is being "
                      "renewed.")
    if isinstance(error, TooLarge):
        return _page("error.html", 503, {"title": "Too large for this page", "text": (
            "This plan is too large to compute this page of it in the time that there is. Nothing has been changed; "
            "the other pages still answer.")})
    if connection_lost(error):
        return _again(request, 503, "The database is away", "Loadstar cannot reach its database just now.")
    # Django has written it to the log, with its trace.
    return _page("error.html", 500, {"title": "That went wrong", "text": (
        "Loadstar made a mistake; nothing has been changed. What happened is in the application's log.")})


def no_room(request: HttpRequest, words: str = "there is no room left") -> HttpResponse:
    """507: the disk is full; `words` say how full."""
    return _again(request, 507, "The disk is full", f"On the machine that runs Loadstar {words}. Whoever looks after "
                  "it has to free some. Plans and papers can still be looked at.")


def _again(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    """The page that holds what was sent, but for secrets, until it can be sent again."""
    sent = request.method == "POST"
    fields = [(k, v) for k, values in request.POST.lists() for v in values] if sent else []
    return _page("again.html", status, {
        "title": title, "text": text, "sent": sent, "path": request.get_full_path(),
        "fields": [(k, v) for k, v in fields if "password" not in k and k != "code"],
        "had_file": bool(sent and request.FILES)})


def _disk_full(error: Exception) -> bool:
    # MariaDB: disk full 1021, table full 1114, error on write 1026; others name the system's number 28 in their text.
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    said = str(error).lower()
    return bool(error.args) and (error.args[0] in (1021, 1114, 1026) or any(
        words in said for words in ("errno: 28", "errcode: 28", "error 28", "no space left")))


def _page(template: str, status: int, context: dict[str, object]) -> HttpResponse:
    # Without the request: context processors would ask the database who is signed in.
    return HttpResponse(render_to_string(template, context), status=status)
