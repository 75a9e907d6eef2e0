"""Papers bound into one: their pages one after the other, their tags in one tree (ISO 14289-1), a foot on every page.

How many pages there are is known only when all are bound, so the feet are laid out after that and put over the pages,
as what no reader of tags has to say again.
"""

import io
from collections.abc import Iterator, Sequence

from django.template.loader import render_to_string
from pikepdf import Array, Name, Object, OutlineItem, Page, Pdf

from .press import Foot, pressed

POINTS_PER_MM = 72 / 25.4


def bind(papers: Sequence[bytes], foot: Foot, outline: Sequence[tuple[str, int]] = ()) -> bytes:
    """Papers as one, each with its tags. Title, language and author are those of the first. `outline` are titles with
    the page that each begins at, from 0."""
    with Pdf.open(io.BytesIO(papers[0])) as book:
        for data in papers[1:]:
            with Pdf.open(io.BytesIO(data)) as other:
                _append(book, other)
        for page in book.pages:
            page.obj.Tabs = Name.S  # what can be stepped through goes by the tags
        _feet(book, foot)
        if outline:
            with book.open_outline() as tree:
                tree.root[:] = [OutlineItem(title, page) for title, page in outline]
        out = io.BytesIO()
        book.save(out)
    return out.getvalue()


def pages_of(data: bytes) -> int:
    """How many pages a paper has."""
    with Pdf.open(io.BytesIO(data)) as book:
        return len(book.pages)


def _append(book: Pdf, other: Pdf) -> None:
    """The pages of another paper with their tags: each page's marked content keeps its numbers, under a key of its own
    in the tree of parents."""
    parents = book.Root.StructTreeRoot.ParentTree.Nums
    first = max((int(key) for key in list(parents)[::2]), default=-1) + 1
    for page in other.pages:
        for holder, key in _keyed(page):
            holder[key] = int(holder[key]) + first
    book.pages.extend(other.pages)
    tree = book.copy_foreign(other.Root.StructTreeRoot)
    document = book.Root.StructTreeRoot.K[0]
    for element in tree.K[0].K:
        element.P = document
        document.K.append(element)
    for n, value in enumerate(list(tree.ParentTree.Nums)):
        parents.append(value if n % 2 else int(value) + first)


def _keyed(page: Page) -> Iterator[tuple[Object, str]]:
    """What of a page has a key in the tree of parents: itself, and its links."""
    if "/StructParents" in page.obj:
        yield page.obj, "/StructParents"
    for link in page.obj.get("/Annots", Array()):
        if "/StructParent" in link:
            yield link, "/StructParent"


def _feet(book: Pdf, foot: Foot) -> None:
    """A foot on every page, laid out for each size of page there is."""
    sizes = [(float(page.mediabox[2]), float(page.mediabox[3])) for page in book.pages]
    for wide, high in set(sizes):
        html = render_to_string("papers/feet.html", {
            "foot": foot, "pages": range(len(sizes)), "wide_mm": f"{wide / POINTS_PER_MM:.3f}",
            "high_mm": f"{high / POINTS_PER_MM:.3f}"})
        with Pdf.open(io.BytesIO(pressed(html, tagged=False))) as feet:
            for page, size, its in zip(book.pages, sizes, feet.pages, strict=True):
                if size == (wide, high):
                    _over(book, page, its)


def _over(book: Pdf, page: Page, foot: Page) -> None:
    name = page.add_resource(book.copy_foreign(foot.as_form_xobject()), Name.XObject)
    page.contents_add(b"q\n", prepend=True)  # whatever the page leaves set is put back before
    page.contents_add(f"Q\n/Artifact <</Type /Pagination /Subtype /Footer>> BDC q {name} Do Q EMC\n".encode("ascii"))
