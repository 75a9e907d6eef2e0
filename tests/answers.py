"""What an answer says."""

import html
import re


def words_of(answer) -> str:
    """Its text as a browser would have it: entities read, white space as one blank; blanks that hold together stay."""
    return re.sub(r"[ \n\t]+", " ", html.unescape(answer.content.decode()))
