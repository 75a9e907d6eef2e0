"""What an answer says."""

import html
import re
import subprocess


def words_of(answer) -> str:
    """Its text as a browser would have it: entities read, white space as one blank; blanks that hold together stay."""
    return re.sub(r"[ \n\t]+", " ", html.unescape(answer.content.decode()))


def said(answer) -> str:
    """Its text with entities read, as it is laid out."""
    return html.unescape(answer.content.decode())


def paper_words(answer) -> str:
    """The words of a paper, line by line."""
    return subprocess.run(["pdftotext", "-layout", "-", "-"], input=answer.content, capture_output=True,
                          check=True).stdout.decode()


def plain_words(answer) -> str:
    """Its text without any markup, white space as one blank."""
    return re.sub(r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", answer.content.decode())))
