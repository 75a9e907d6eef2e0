"""The Debian packages Loadstar needs: which are missing, and their installation."""

import os
import shutil
import subprocess

from .say import Stop, full_disk, step, tail_of

RUN = (
    "mariadb-server mariadb-client libmariadb-dev pkg-config gcc python3-dev python3-venv "
    "libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 fontconfig fonts-dejavu-core"
).split()
CORE = ["python3-venv", "gcc", "python3-dev", "pkg-config", "libmariadb-dev"]
TEST = "chromium poppler-utils ngspice nginx-light openssl".split()


def missing(names: list[str]) -> list[str]:
    """Those of `names` that dpkg does not report as installed."""
    if not shutil.which("dpkg-query"):
        raise Stop("This is not a Debian system (no dpkg-query): Loadstar sets itself up on Debian 12 only.")
    asked = subprocess.run(
        ["dpkg-query", "-W", "-f", "${Package} ${db:Status-Status}\\n", *names],
        capture_output=True, text=True, check=False,
    )
    there = {line.split()[0] for line in asked.stdout.splitlines() if line.endswith(" installed")}
    return [name for name in names if name not in there]


def ensure(names: list[str]) -> None:
    """Install what is missing of `names`; a sentence when that needs root or fails."""
    wanted = missing(names)
    if not wanted:
        return
    if os.geteuid() != 0:
        raise Stop(
            f"These Debian packages are missing and only root can install them: {' '.join(wanted)}. "
            "Run as root: apt-get install " + " ".join(wanted)
        )
    step(f"installing Debian packages: {' '.join(wanted)}")
    _apt("update")
    # The database is started by us, never as a system service: keep the package from starting one.
    policy, made = "/usr/sbin/policy-rc.d", False
    if not os.path.exists(policy):
        with open(policy, "w", encoding="ascii") as file:
            file.write("#!/bin/sh\nexit 101\n")
        os.chmod(policy, 0o755)
        made = True
    try:
        _apt("install", "-y", "--no-install-recommends", *wanted)
    finally:
        if made:
            os.unlink(policy)


def _apt(*words: str) -> None:
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    done = subprocess.run(
        ["apt-get", "-q", *words], env=environment, stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False,
    )
    if done.returncode:
        if "No space left" in done.stdout or "enough free space" in done.stdout:
            raise full_disk("/var/cache/apt")
        raise Stop(f"apt-get {words[0]} failed; it ended with:\n{tail_of(done.stdout)}")
