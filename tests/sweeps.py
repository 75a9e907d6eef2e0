"""How far sweeps over generated plans go: a few each time, and as many times more as somebody asks for.

    LOADSTAR_SWEEP=5 ./loadstar test tests -m sweep
"""

import os


def seeds(few: int, first: int = 0) -> range:
    """So many seeds from the first on, times what is asked for."""
    return range(first, first + few * int(os.environ.get("LOADSTAR_SWEEP", "1")))
