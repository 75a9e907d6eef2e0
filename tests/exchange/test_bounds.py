"""How much is read of what comes from outside: as much as is said, and not a line more."""

import pytest

from loadstar.exchange import leads, machine_file, shelf
from loadstar.exchange.machine_file import FileFault


def test_lines_of_leads():
    def lines(count):
        return leads.read("\n".join(f"lead {n};net {n}" for n in range(count)))
    assert len(lines(200).leads) == 200 and lines(200).faults == ()
    assert lines(201) == leads.Read((), ("These are 201 lines; 200 are the most.",))


def test_lines_of_a_shelf():
    def table(count):
        return shelf.from_csv("what,here\n" + "\n".join(f"thing {n},1" for n in range(count)))
    assert len(table(5000).stock) == 5000 and table(5000).faults == ()
    assert table(5001).faults == ("The table has 5,001 lines; Loadstar takes up to 5,000.",)
    twice = shelf.from_csv("what,here\n" + "a,1\n" * 11)
    assert len(twice.faults) == 9 and twice.faults[-1] == "And 2 more lines will not do."


@pytest.mark.parametrize("size", [64 * 1024**2 + 1])
def test_a_machine_s_file_that_is_too_large_is_not_opened(size):
    with pytest.raises(FileFault, match=r"The file has 67 MB; up to 64 MB are taken\."):
        machine_file.unpack(b"PK" + bytes(size - 2))
    with pytest.raises(FileFault, match="no ZIP"):
        machine_file.unpack(b"PK" + bytes(64 * 1024**2 - 2))
