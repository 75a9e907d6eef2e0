"""Databases and data folders of a test's own."""

import os
import shutil
from pathlib import Path

import pytest

from launcher import database, folder, keep, manage, paths, server


@pytest.fixture
def var(tmp_path, monkeypatch):
    """A var/ of this test's own."""
    monkeypatch.delenv("LOADSTAR_DATABASE_URL", raising=False)
    for module in (paths, folder, keep, manage, server):
        monkeypatch.setattr(module, "VAR", tmp_path)
    return tmp_path


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


@pytest.fixture
def memory(monkeypatch):
    """A var/ in memory, for whole servers that write a lot."""
    path = Path("/dev/shm") / f"loadstar-launcher-{os.getpid()}"
    path.mkdir()
    yield path
    shutil.rmtree(path, ignore_errors=True)
