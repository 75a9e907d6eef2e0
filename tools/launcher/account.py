"""Nothing that serves, and nothing that looks into a file from elsewhere, runs as root: when root starts Loadstar, it
goes on as an account without rights, or not at all."""

import os
import pwd
import shutil
import subprocess
from pathlib import Path

from .paths import PYTHON, ROOT
from .say import Stop, step, tail_of

ACCOUNT = "loadstar"


def lay_root_down(folder: Path) -> None:
    """From root to the owner of the checkout, or to the account `loadstar`, which then owns `folder`; Stop when that
    account cannot reach the program."""
    if os.geteuid() != 0:
        return
    account = _account()
    if blocked := _out_of_reach(account, (ROOT / "loadstar", PYTHON, folder.parent)):
        raise Stop(f"Loadstar does not run as root, and the account {account.pw_name}, as which it would go on, cannot "
                   f"reach {blocked}: put Loadstar where it can (/opt/loadstar), or start it as an ordinary user.")
    _give(folder, account)
    step(f"going on as {account.pw_name}, without root's rights")
    os.initgroups(account.pw_name, account.pw_gid)
    os.setgid(account.pw_gid)
    os.setuid(account.pw_uid)
    os.environ["HOME"] = str(folder)


def usable_by_others(program: str) -> bool:
    """Whether the account that root goes on as could run a program. Nobody but root ever asks."""
    return _out_of_reach(_account(), (Path(program),)) is None


def _account() -> pwd.struct_passwd:
    owner = ROOT.stat().st_uid
    if owner != 0:
        try:
            return pwd.getpwuid(owner)
        except KeyError:
            pass  # a folder from elsewhere: its owner has no account here
    try:
        return pwd.getpwnam(ACCOUNT)
    except KeyError:
        step(f"making the account {ACCOUNT}, which may do nothing but serve")
    done = subprocess.run([shutil.which("useradd") or "/usr/sbin/useradd", "--system", "--no-create-home",
                           "--home-dir", "/nonexistent", "--shell", "/usr/sbin/nologin", ACCOUNT],
                          capture_output=True, text=True, check=False)
    if done.returncode:
        raise Stop(f"The account {ACCOUNT} could not be made; useradd ended with:\n{tail_of(done.stderr)}")
    return pwd.getpwnam(ACCOUNT)


def _out_of_reach(account: pwd.struct_passwd, paths: tuple[Path, ...]) -> Path | None:
    """The first folder on the way to one of the paths that the account may not pass."""
    groups = set(os.getgrouplist(account.pw_name, account.pw_gid))
    for path in paths:
        for folder in reversed(path.resolve().parents):
            have = folder.stat()
            bit = 0o100 if have.st_uid == account.pw_uid else 0o010 if have.st_gid in groups else 0o001
            if not have.st_mode & bit:
                return folder
    return None


def _give(folder: Path, account: pwd.struct_passwd) -> None:
    """The data folder and all in it to the account; quick when they are its already."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    for path in (folder, *folder.rglob("*")):
        if path.lstat().st_uid != account.pw_uid:
            os.lchown(path, account.pw_uid, account.pw_gid)
