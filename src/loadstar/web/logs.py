"""What is written to the application's log: a fault with its trace, a database that is away in one line a minute."""

import logging
import time

from django.db import InterfaceError, OperationalError

AWAY_AGAIN_S = 60.0


def connection_lost(error: BaseException | None) -> bool:
    """Whether the database cannot be reached: any other fault of it is ours, and keeps its trace."""
    # MariaDB client errors: cannot connect (2002, 2003, 2005), gone away (2006), lost (2013); server shutting down
    # 1053, connection killed 1927.
    return isinstance(error, InterfaceError) or (isinstance(error, OperationalError) and bool(error.args) and (
        error.args[0] in (1053, 1927, 2002, 2003, 2005, 2006, 2013)))


class NobodysHost(logging.Filter):
    """A request for a host that is not served here is somebody trying around: one line a minute, no trace."""

    def __init__(self) -> None:
        super().__init__()
        self._told_at, self._more = -AWAY_AGAIN_S, 0

    def filter(self, record: logging.LogRecord) -> bool:
        """Whether a record is written; the trace is taken off it."""
        if record.name != "django.security.DisallowedHost":
            return True
        now = time.monotonic()
        if now - self._told_at < AWAY_AGAIN_S:
            self._more += 1
            return False
        record.msg = "a request for a host that is not served here (LOADSTAR_HOSTS); %d more since the last line"
        record.args, record.exc_info, record.exc_text = (self._more,), None, None
        self._told_at, self._more = now, 0
        return True


class AwayInOneLine(logging.Filter):
    """A database that is away is one fault, not one for each request: no trace, and not again within a minute."""

    def __init__(self) -> None:
        super().__init__()
        self._told_at = -AWAY_AGAIN_S

    def filter(self, record: logging.LogRecord) -> bool:
        """Whether a record is written; the trace is taken off it."""
        error = record.exc_info[1] if record.exc_info else None
        if not connection_lost(error):
            return True
        now = time.monotonic()
        if now - self._told_at < AWAY_AGAIN_S:
            return False
        self._told_at = now
        record.msg, record.args = "the database is away: %s (told once a minute)", (error,)
        record.exc_info = record.exc_text = None
        return True
