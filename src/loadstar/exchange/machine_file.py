"""The machine's file: everything about a plan in one ZIP, with a manifest of every member's SHA-256, out and in.

Written the same way each time: the same members give the same bytes. Reading checks every name, size and sum before
anything is handed on; what is wrong comes back as a sentence.
"""

import hashlib
import io
import json
import re
import struct
import zipfile
import zlib
from collections.abc import Mapping
from typing import Any

FORMAT, VERSION = "loadstar-machine", 1
MANIFEST, PLAN, RECORDS = "manifest.json", "plan.json", "records.json"
MOST_BYTES, MOST_MEMBERS, MOST_MEMBER, MOST_WHOLE = 64 * 1024 * 1024, 400, 16 * 1024 * 1024, 128 * 1024 * 1024
NAME = re.compile(r"[a-z0-9][a-z0-9._-]{0,80}(/[A-Za-z0-9][A-Za-z0-9._-]{0,80}){0,2}")
WHEN = (2020, 1, 1, 0, 0, 0)  # of every member: the file is known by what is in it


class FileFault(Exception):
    """The file cannot be taken; the text is for people."""


def pack(members: Mapping[str, bytes], about: Mapping[str, Any]) -> bytes:
    """A ZIP of these members with its manifest; `about` goes into that (names, revision)."""
    found = io.BytesIO()
    listed = [{"name": name, "bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
              for name, data in sorted(members.items())]
    manifest = {"format": FORMAT, "version": VERSION, **about, "members": listed}
    with zipfile.ZipFile(found, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in ((MANIFEST, _json(manifest)), *sorted(members.items())):
            info = zipfile.ZipInfo(name, WHEN)
            info.compress_type, info.external_attr = zipfile.ZIP_DEFLATED, 0o644 << 16
            archive.writestr(info, data)
    return found.getvalue()


def _json(data: object) -> bytes:
    return (json.dumps(data, indent=1, sort_keys=True, ensure_ascii=False) + "\n").encode()


def unpack(data: bytes) -> dict[str, bytes]:
    """The members of a machine's file, each checked against the manifest. Raises FileFault, in words."""
    if len(data) > MOST_BYTES:
        raise FileFault(f"The file has {len(data) / 1e6:.0f} MB; up to {MOST_BYTES // 1024**2} MB are taken.")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _checked(archive)
    except (zipfile.BadZipFile, zipfile.LargeZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError,
            zlib.error, struct.error) as error:
        raise FileFault("The file is no ZIP that can be read.") from error


def _checked(archive: zipfile.ZipFile) -> dict[str, bytes]:
    entries = archive.infolist()
    names = [e.filename for e in entries]
    if len(entries) > MOST_MEMBERS:
        raise FileFault(f"The file has {len(entries)} members; {MOST_MEMBERS} are the most.")
    if strange := next((n for n in names if not NAME.fullmatch(n)), None):
        raise FileFault(f"The file has a member called {strange[:60]!r}: no machine's file has such a name.")
    if any(e.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED) for e in entries):
        raise FileFault("The file is packed by a method that no machine's file is.")
    if len(set(names)) != len(names):
        raise FileFault("The file has two members of one name.")
    if sum(e.file_size for e in entries) > MOST_WHOLE or any(e.file_size > MOST_MEMBER for e in entries):
        raise FileFault("Unpacked it would be larger than any machine's file: it is not unpacked.")
    if MANIFEST not in names:
        raise FileFault("The file has no manifest: it is no machine's file.")
    manifest = _manifest(_read(archive, MANIFEST))
    listed = {str(m.get("name")): m for m in manifest["members"] if isinstance(m, dict)}
    if missing := sorted(listed.keys() - set(names)):
        raise FileFault(f"{missing[0]} is named in the manifest and missing in the file.")
    if extra := sorted(set(names) - listed.keys() - {MANIFEST}):
        raise FileFault(f"{extra[0]} is in the file and not in its manifest.")
    if PLAN not in listed:
        raise FileFault("The file has no plan in it.")
    found = {}
    for name, member in listed.items():
        found[name] = _read(archive, name)
        if hashlib.sha256(found[name]).hexdigest() != member.get("sha256"):
            raise FileFault(f"{name} is not what the manifest says: it was changed, or damaged on the way.")
    return found


def _read(archive: zipfile.ZipFile, name: str) -> bytes:
    """One member, never more of it than it may have, whatever its head says."""
    with archive.open(name) as member:
        data = member.read(MOST_MEMBER + 1)
    if len(data) > MOST_MEMBER:
        raise FileFault(f"{name} is larger than any member of a machine's file.")
    return data


def _manifest(data: bytes) -> dict[str, Any]:
    try:
        found = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise FileFault("The manifest cannot be read.") from error
    if not isinstance(found, dict) or found.get("format") != FORMAT or not isinstance(found.get("members"), list):
        raise FileFault("The manifest is of no machine's file.")
    if found.get("version") != VERSION:
        other = str(found.get("version"))[:10]
        raise FileFault(f"The file is of version {other}; this Loadstar reads version {VERSION}.")
    return found
