"""Two who wait for each other: the database ends one of them, and Loadstar tries that one again."""

import random
import time
from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar

from django.db import OperationalError, connection

P, R = ParamSpec("P"), TypeVar("R")
TURNS, PAUSE_S = 8, 0.05
DEADLOCK, WAITED_LONG = 1213, 1205  # MariaDB's numbers


def taken_in_turn(act: Callable[P, R]) -> Callable[P, R]:
    """An act in one transaction of its own, begun again when the database ended it for another's sake. Inside a
    transaction that is begun already it is that one which has to be begun again."""
    @wraps(act)
    def wrapped(*args: P.args, **options: P.kwargs) -> R:
        for turn in range(TURNS):
            try:
                return act(*args, **options)
            except OperationalError as error:
                if error.args[0] not in (DEADLOCK, WAITED_LONG) or connection.in_atomic_block or turn == TURNS - 1:
                    raise
                time.sleep(random.uniform(0.2, 1.0) * PAUSE_S * (turn + 1))
        raise AssertionError("unreachable")
    return wrapped
