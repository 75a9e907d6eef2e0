"""What people type into a plan, as it can be drawn, printed and sent over a line.

Control characters, marks that turn the direction of writing and what is no character cannot be seen, break drawings and
labels, and make one name look like another. They come with what is pasted, so they become a space instead of being
refused.
"""

import re

# With what is no character at all (the last two of each plane of Unicode): XML, and so a drawing, cannot hold them.
_NONE = "\ufdd0-\ufdef" + "".join(chr(plane << 16 | last) for plane in range(17) for last in (0xFFFE, 0xFFFF))
_UNSEEN = f"\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\u2028-\u202e\u2066-\u2069\ufeff{_NONE}"
_IN_LINE, _IN_LINES = re.compile(f"[\t\n\r{_UNSEEN}]+"), re.compile(f"[{_UNSEEN}]+")


def one_line(text: object) -> object:
    """A text of one line: what cannot be seen becomes a space. Anything but a text is left to the field's own check."""
    return _cleared(_IN_LINE, text)


def some_lines(text: object) -> object:
    """The same for a text that may have several lines."""
    return _cleared(_IN_LINES, text)


def _cleared(unseen: re.Pattern[str], text: object) -> object:
    return unseen.sub(" ", text).strip() if isinstance(text, str) and unseen.search(text) else text
