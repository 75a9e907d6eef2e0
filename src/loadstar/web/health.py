"""Whether Loadstar can serve: for `./loadstar status`, a reverse proxy, a service manager."""

from django.db import DatabaseError, InterfaceError, connection
from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache

from .room import left


@never_cache
def health(request: HttpRequest) -> HttpResponse:
    """200 when pages can be served; 503 with a word why not. Says nothing else, and asks nobody who they are."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1 FROM workshop_workshop LIMIT 1")
    except (DatabaseError, InterfaceError):
        return HttpResponse("the database does not answer\n", content_type="text/plain", status=503)
    now = left()
    words = f"well, but {now.words}\n" if now is not None and now.scarce else "well\n"
    return HttpResponse(words, content_type="text/plain")
