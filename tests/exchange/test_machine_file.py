"""A machine's file packed and read back; what is wrong with one, in words."""

import io
import json
import zipfile

import pytest

from loadstar.core.errors import PlanError
from loadstar.exchange import survey
from loadstar.exchange.machine_file import FileFault, pack, unpack

MEMBERS = {"plan.json": b'{"a": 1}\n', "records.json": b"[]", "photos/3.jpg": bytes(range(256))}


def repacked(change) -> bytes:
    """The file with its members changed by name, the manifest among them, packed by hand."""
    with zipfile.ZipFile(io.BytesIO(pack(MEMBERS, {"plan": "tide"}))) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    members = change(members) or members
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return out.getvalue()


def manifest(**values):
    """A manifest that says something else."""
    def change(members):
        said = json.loads(members["manifest.json"]) | values
        members["manifest.json"] = json.dumps(said).encode()
    return change


def test_what_is_packed_comes_back_and_packs_to_the_same_bytes():
    data = pack(MEMBERS, {"plan": "tide"})
    assert unpack(data) == MEMBERS and pack(dict(reversed(MEMBERS.items())), {"plan": "tide"}) == data
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        text = archive.read("manifest.json").decode()
    said = json.loads(text)
    assert (said["format"], said["version"], said["plan"]) == ("loadstar-machine", 1, "tide") and text.endswith("}\n")
    assert [(m["name"], m["bytes"]) for m in said["members"]] == [
        ("photos/3.jpg", 256), ("plan.json", 9), ("records.json", 2)]


@pytest.mark.parametrize(("change", "words"), [
    (lambda m: m.update({"plan.json": b'{"a": 2}\n'}), "plan.json is not what the manifest says"),
    (lambda m: m.update({"plan.json": b'{"a": 0}\n'}), "plan.json is not what the manifest says"),
    (lambda m: m.update({"photos/3.jpg": b""}), "photos/3.jpg is not what the manifest says"),
    (lambda m: m.update({"more.txt": b""}), "more.txt is in the file and not in its manifest"),
    (lambda m: m.pop("records.json") and None, "records.json is named in the manifest and missing"),
    (lambda m: m.pop("manifest.json") and None, "no manifest"), (manifest(version=2), "version 2; this Loadstar reads"),
    (manifest(format="other"), "of no machine's file"), (manifest(members={}), "of no machine's file"),
    (lambda m: m.update({"manifest.json": b"{"}), "cannot be read"),
    (lambda m: m.update({"../plan.json": b""}), "no machine's file has such a name")])
def test_what_is_wrong_with_a_file_is_said(change, words):
    with pytest.raises(FileFault, match=words):
        unpack(repacked(change))
    with pytest.raises(FileFault, match="no plan in it"):
        unpack(pack({"records.json": b"[]"}, {}))


@pytest.mark.parametrize("version", [0, survey.VERSION + 1, True, "1", None, 10**20])
def test_a_survey_of_another_version_says_which(version):
    data = json.dumps({"format": survey.FORMAT, "version": version, "places": []}).encode()
    with pytest.raises(PlanError) as refused:
        survey.from_json(data)
    assert f"version {str(version)[:12]}; this Loadstar reads versions up to {survey.VERSION}." in str(refused.value)


@pytest.mark.parametrize(("sizes", "fits"), [
    ((16, 16, 16, 16, 16, 16, 16, 15.99), True), ((16, 16, 16, 16, 16, 16, 16, 16, 0.1), False), ((16.01,), False)])
def test_what_it_would_be_unpacked_is_looked_at_first(sizes, fits):
    """Up to 16 MB a member and 128 MB in all, by what the file says of itself."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for n, size in enumerate(sizes):
            archive.writestr(f"photos/{n}.jpg", bytes(int(size * 1024**2)))
    with pytest.raises(FileFault) as said:
        unpack(out.getvalue())
    assert ("no manifest" if fits else "it is not unpacked") in str(said.value)
