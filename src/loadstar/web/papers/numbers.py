"""Page numbers on pages that were laid out apart: how many there are is known only when all of them are bound.

A line of text in a font that every reader of PDF has (ISO 32000-1, 9.6.2.2) is added to each page: laying out a page
only for its number would take longer than the page itself.
"""

from pikepdf import Dictionary, Name, Pdf

SIZE_PT, RIGHT_PT, UP_PT, GREY = 8.0, 34.0, 17.0, "0.34 0.39 0.42"
WIDTH_EM = {" ": 0.278, "f": 0.278}  # of Helvetica, by its published metrics; every other character here is 0.556
OTHER_EM = 0.556


def number_pages(book: Pdf) -> None:
    """Write "page 3 of 40" at the foot of every page."""
    font = book.make_indirect(Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica))
    for number, page in enumerate(book.pages, 1):
        words = f"page {number} of {len(book.pages)}"
        x = float(page.mediabox[2]) - RIGHT_PT - SIZE_PT * sum(WIDTH_EM.get(letter, OTHER_EM) for letter in words)
        name = page.add_resource(font, Name.Font)
        page.contents_add(b"q\n", prepend=True)  # whatever the page leaves set is put back before
        page.contents_add(f"Q\nBT {name} {SIZE_PT} Tf {GREY} rg {x:.2f} {UP_PT} Td ({words}) Tj ET\n".encode("ascii"))
