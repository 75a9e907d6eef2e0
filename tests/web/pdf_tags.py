"""What somebody who has a paper read out needs of it (ISO 14289-1, PDF/UA-1), looked for in the file itself."""

from collections.abc import Iterator
from io import BytesIO

from pikepdf import Array, Dictionary, Name, Object, Page, Pdf, parse_content_stream

SHOWN = {"Tj", "TJ", "'", '"', "Do", "S", "s", "f", "F", "f*", "B", "B*", "b", "b*", "sh", "EI"}
EMBEDDED = ("/FontFile", "/FontFile2", "/FontFile3")
WITHIN = {"/TR": ("/Table", "/THead", "/TBody", "/TFoot"), "/TH": ("/TR",), "/TD": ("/TR",), "/LI": ("/L",),
          "/LBody": ("/LI",), "/Lbl": ("/LI",)}


def lacks(data: bytes) -> list[str]:
    """What a paper lacks, in words; [] when it has all that was looked for."""
    with Pdf.open(BytesIO(data)) as book:
        return [*_whole(book), *_pages(book), *_tree(book), *_fonts(book)]


def _whole(book: Pdf) -> Iterator[str]:
    root = book.Root
    if not root.get("/MarkInfo", Dictionary()).get("/Marked", False):
        yield "not marked as tagged"
    if not str(root.get("/Lang", "")):
        yield "no language"
    if not root.get("/ViewerPreferences", Dictionary()).get("/DisplayDocTitle", False):
        yield "its title is not shown"
    with book.open_metadata() as meta:
        if not meta.get("dc:title"):
            yield "no title"
        if not meta.get("dc:creator"):
            yield "no author"
        if not meta.get("xmp:CreateDate"):
            yield "no date"
        if "{http://www.aiim.org/pdfua/ns/id/}part" not in meta:
            yield "does not say what it follows"


def _parents(book: Pdf) -> dict[int, Object]:
    nums = list(book.Root.StructTreeRoot.ParentTree.Nums)
    keys = [int(key) for key in nums[::2]]
    assert keys == sorted(set(keys)), keys
    return dict(zip(keys, nums[1::2], strict=True))


def _pages(book: Pdf) -> Iterator[str]:
    """Everything that a page shows is of the tree, or said to be none of it."""
    parents = _parents(book)
    for number, page in enumerate(book.pages, 1):
        if page.obj.get("/Tabs") != Name.S:
            yield f"page {number}: stepped through in no order"
        of = parents.get(int(page.obj.get("/StructParents", -1)))
        if of is None:
            yield f"page {number}: no key in the tree of parents"
            continue
        for mcid in _marked(page):
            if mcid is None:
                yield f"page {number}: shows something that is in no tag"
            elif mcid >= len(of) or of[mcid].get("/Pg") is None or of[mcid].Pg.objgen != page.obj.objgen:
                yield f"page {number}: mark {mcid} leads to no tag of this page"
        for link in page.obj.get("/Annots", Array()):
            if int(link.get("/StructParent", -1)) not in parents:
                yield f"page {number}: a link in no tag"


def _marked(page: Page) -> Iterator[int | None]:
    """The mark of each thing that is shown; None where there is none, nothing for what is said to be no content."""
    within: list[object] = []
    for operands, operator in parse_content_stream(page):
        what = str(operator)
        if what == "BDC":
            within.append("artifact" if operands[0] == Name.Artifact else int(operands[1].get("/MCID", -1)))
        elif what == "BMC":
            within.append("artifact" if operands[0] == Name.Artifact else None)
        elif what == "EMC":
            within.pop()
        elif what in SHOWN:
            marks = [one for one in within if one is not None]
            if not marks:
                yield None
            elif marks[-1] != "artifact":
                yield int(marks[-1])  # type: ignore[call-overload]
    assert within == []


def _tree(book: Pdf) -> Iterator[str]:
    """Headings step down by one, pictures say what they show, tables and lists are whole."""
    level, first = 0, True
    for element, above in _elements(book.Root.StructTreeRoot.K[0]):
        kind = str(element.S)
        if len(kind) == 3 and kind.startswith("/H") and kind[2].isdigit():
            if first and kind != "/H1":
                yield f"its first heading is {kind}"
            if int(kind[2]) > level + 1:
                yield f"{kind} under a heading of level {level}"
            level, first = int(kind[2]), False
        if kind == "/Figure" and not str(element.get("/Alt", "")):
            yield "a picture without words"
        if kind in WITHIN and above not in WITHIN[kind]:
            yield f"{kind} within {above}"
        if element.P is None:
            yield f"{kind} hangs on nothing"


def _elements(top: Object) -> Iterator[tuple[Object, str]]:
    """Every tag in the order of reading, with what it is in."""
    ahead = [(kid, str(top.S)) for kid in reversed(list(top.K))]
    while ahead:
        element, above = ahead.pop()
        if not isinstance(element, Dictionary) or "/S" not in element:
            continue
        yield element, above
        kids = element.get("/K", Array())
        inside = [kid for kid in kids if isinstance(kid, Dictionary)] if isinstance(kids, Array) else [kids]
        around = above if str(element.S) == "/NonStruct" else str(element.S)
        ahead += [(kid, around) for kid in reversed(inside)]


def _fonts(book: Pdf) -> Iterator[str]:
    for one in book.objects:
        if isinstance(one, Dictionary) and one.get("/Type") == Name.FontDescriptor and not any(
                key in one for key in EMBEDDED):
            yield f"the font {one.FontName} is not in it"
        if isinstance(one, Dictionary) and one.get("/Type") == Name.Font and one.get("/Subtype") == Name.Type1:
            yield "a font that a reader has to have"
