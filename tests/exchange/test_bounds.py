"""How much is read of what comes from outside: as much as is said, and not a line more."""

import math

import pytest

from loadstar.core.errors import PlanError
from loadstar.exchange import leads, machine_file, shelf, survey
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
    assert len(twice.faults) == 9 and twice.faults[-1] == "And 2 more lines have errors."


@pytest.mark.parametrize("size", [64 * 1024**2 + 1])
def test_a_machine_s_file_that_is_too_large_is_not_opened(size):
    with pytest.raises(FileFault, match=r"The file has 67 MB; up to 64 MB are taken\."):
        machine_file.unpack(b"PK" + bytes(size - 2))
    with pytest.raises(FileFault, match="no ZIP"):
        machine_file.unpack(b"PK" + bytes(64 * 1024**2 - 2))


def test_a_lead_is_read_with_each_of_its_figures_and_no_other():
    whole, bare = leads.read("throttle;5 V;one;0.02;0.35;17;5;horn;apart\nhorn;48 V").leads
    assert (whole.name, whole.net, whole.regulator, whole.amps) == ("throttle", "5 V", "one", 0.02)
    assert (whole.area_mm2, whole.tolerates_v, whole.volts, whole.twist, whole.apart) == (0.35, 0.017, 5, "horn", True)
    assert (bare.amps, bare.area_mm2, bare.tolerates_v, bare.volts, bare.apart) == (0.0, 0.5, math.inf, None, False)
    assert leads.read(leads.write((whole, bare))).leads == (whole, bare)


@pytest.mark.parametrize(("line", "words"), [
    ("horn", "a lead has a name, and the net"), (";5 V", "a lead has a name, and the net"),
    ("a;b;c;201", "201 A is outside 0 to 200"), ("a;b;c;1;0.6", "0.6 mm² is no listed size"),
    ("a;b;c;1;0.5;5001", "5001 mV is outside"), ("a;b;c;1;0.5;1;101", "101 V is outside"),
    ("a;b;c;1;0.5;1;5;;far", 'the last column is "apart" or empty, not far'), (f"{'a' * 61};b", "up to 60 characters"),
    ("a;b;c;1;0.5;1;5;;apart;more", "it has 10 columns; these are 9")])
def test_a_lead_that_will_not_do_says_so(line, words):
    found = leads.read(line)
    assert not found.leads and words in found.faults[0]


@pytest.mark.parametrize("reels", ["-3", "0", "5 -2"])
def test_a_reel_holds_more_than_nothing(reels):
    found = shelf.from_csv(f"what,reels\nwire,{reels}\n")
    assert not found.stock and found.faults


def test_a_survey_that_is_too_large_is_not_read():
    most = survey.MAX_BYTES
    with pytest.raises(PlanError, match=rf"The file has {(most + 1) / 1e6:.1f} MB; at most {most // 1024**2} MB"):
        survey.from_csv(b"x" * (most + 1))
