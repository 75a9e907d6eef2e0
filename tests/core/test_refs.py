"""Addresses within a plan: what each piece is, what is none, and that they stay texts."""

import pytest
from pydantic import TypeAdapter, ValidationError

from loadstar.core.refs import ElementRef, FigureKey, TerminalRef, part_of


def test_a_terminal_is_a_part_and_a_name():
    fuse = TerminalRef("F2.b")
    assert (fuse.part, fuse.name) == ("F2", "b")
    assert TerminalRef.of("F2", "b") == fuse == "F2.b"
    assert fuse.on("K1") == "K1.b" and type(fuse.on("K1")) is TerminalRef
    assert {fuse: 1}["F2.b"] == 1


@pytest.mark.parametrize(("address", "part", "role"), [
    ("K1.coil", "K1", "coil"), ("W5", "W5", ""), ("chassis", "chassis", "")])
def test_an_element_is_a_part_and_what_of_it(address, part, role):
    element = ElementRef(address)
    assert (element.part, element.role) == (part, role)
    assert ElementRef.of(part, role) == element
    assert type(ElementRef.of(part, role)) is ElementRef
    assert part_of(address) == part


@pytest.mark.parametrize(("key", "family", "arguments"), [
    ("margin_a", "margin_a", ()), ("wire_c/W5/idle", "wire_c", ("W5", "idle")), ("touch/F1.b", "touch", ("F1.b",))])
def test_a_figure_is_a_family_and_what_it_is_asked_of(key, family, arguments):
    assert (FigureKey(key).family, FigureKey(key).arguments) == (family, arguments)
    assert FigureKey.of(family, *arguments) == key
    assert type(FigureKey.of(family, *arguments)) is FigureKey


@pytest.mark.parametrize(("kind", "good", "bad"), [
    (TerminalRef, ("F2.b", "BT123456.p1"), ("F2", "F2.", "f2.b", "F.b", "ABC1.a", "F1234567.a", "F2.B", "F2.b.c",
                                          "F2.b\n", "F2.abcdefghi")),
    (ElementRef, ("W5", "K1.coil", "chassis"), ("", "5W", "w5", "K1.", "K1.coil.x", "Chassis", "abcdefghijklm")),
    (FigureKey, ("margin_a", "wire_c/W5/idle/x"), ("", "/W5", "wire_c/", "wire_c/W5/idle/x/y", "Wire", "a b",
                                                 "wire_c/W 5")),
])
def test_what_stands_in_a_document_is_such_an_address_or_refused(kind, good, bad):
    read = TypeAdapter(kind).validate_python
    for address in good:
        assert read(address) == address and type(read(address)) is kind
    for address in bad:
        with pytest.raises(ValidationError):
            read(address)
