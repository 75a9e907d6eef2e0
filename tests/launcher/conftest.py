"""Databases and data folders of a test's own."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from pathlib import Path

import pytest

from launcher import account, database, folder, keep, manage, paths, server
from launcher.paths import PYTHON, ROOT


@pytest.fixture
def reachable():
    """Only where the account that root goes on as can reach this checkout: elsewhere Loadstar refuses to start."""
    if os.geteuid() == 0 and account._out_of_reach(account._account(), (ROOT / "loadstar", PYTHON)):
        pytest.skip("root does not serve from a checkout that its account cannot reach")


@pytest.fixture
def memory():
    """A folder in memory, for whole servers that write a lot."""
    path = Path(tempfile.mkdtemp(prefix="loadstar-launcher-", dir="/dev/shm"))
    path.chmod(0o755)
    yield path
    shutil.rmtree(path, ignore_errors=True)


@pytest.fixture
def var(memory, monkeypatch):
    """A var/ of this test's own."""
    monkeypatch.delenv("LOADSTAR_DATABASE_URL", raising=False)
    for module in (paths, folder, manage, server):
        monkeypatch.setattr(module, "VAR", memory)
    monkeypatch.setattr(keep, "lay_root_down", lambda folder: None)  # the tests' own process stays what it is
    return memory


@pytest.fixture
def data(var):
    """A data folder with a database server that runs, quick and forgetful; as (folder, database, environment)."""
    own = folder.DataFolder("serve")
    own.hold()
    private = database.PrivateDatabase(own.database, own.secrets()["database"], throwaway=True)
    private.start()
    environment = {**manage.base_environment("serve", private.url, "test-only"), "LOADSTAR_DATA": str(own.path)}
    yield own, private, environment
    private.stop()


def answers(address):
    """What the health address says, as soon as it says anything."""
    for _ in range(3600):
        try:
            with urllib.request.urlopen(address + "health/", timeout=5) as answer:
                return answer.read().decode()
        except (urllib.error.URLError, ConnectionError):
            time.sleep(0.05)
    raise AssertionError("it never answered")


@pytest.fixture
def started(reachable, memory):
    """Starts Loadstar on a folder in memory, as often as it is called."""
    environment = {**os.environ, "LOADSTAR_VAR": str(memory), "LOADSTAR_WORKERS": "1"}
    for name in ("LOADSTAR_DATABASE_URL", "LOADSTAR_MODE", "LOADSTAR_SECRET_KEY"):
        environment.pop(name, None)
    (memory / "venv").symlink_to(ROOT / "var" / "venv")
    port, processes = database.free_port(), []

    def start(mode="demo", **more):
        processes.append(subprocess.Popen([sys.executable, "loadstar", mode, "--port", str(port)], cwd=ROOT,
                                          text=True, env={**environment, **more}, stdout=subprocess.PIPE,
                                          stderr=subprocess.STDOUT))
        return processes[-1]
    start.address = f"http://127.0.0.1:{port}/"
    start.answers = lambda: answers(start.address)
    start.run = lambda *words: subprocess.run([sys.executable, "loadstar", *words], cwd=ROOT, env=environment,
                                              text=True, capture_output=True, check=False)
    yield start
    for process in processes:
        if process.poll() is None:
            process.terminate()
            process.wait(30)
