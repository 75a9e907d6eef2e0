"""How gunicorn runs the application: loaded once, then parted into workers, each of them bounded, and renewed before it
is full."""

import os
import resource
from pathlib import Path
from typing import Any

bind = "127.0.0.1:8700"
threads = 8
preload_app = True
timeout = 60
errorlog = "-"
control_socket_disable = True
max_requests, max_requests_jitter = 4000, 1000
if os.access("/dev/shm", os.W_OK):
    worker_tmp_dir = "/dev/shm"  # a worker says there that it lives: on a full disk too
WORKER_MOST_BYTES = 1536 * 1024**2  # a computation that wants more fails alone
RENEWED_AT_BYTES = WORKER_MOST_BYTES * 7 // 10


def post_fork(server: object, worker: object) -> None:
    """Bound what a worker may hold, so that one plan cannot take the machine from all others."""
    resource.setrlimit(resource.RLIMIT_DATA, (WORKER_MOST_BYTES, WORKER_MOST_BYTES))


def post_request(worker: Any, request: object, environ: object, response: object) -> None:
    """A worker that comes near its bound answers what it has begun and makes room for a new one."""
    if worker.alive and held_bytes() > RENEWED_AT_BYTES:
        worker.log.info("a worker is renewed: it holds %d MB", held_bytes() // 1024**2)
        worker.alive = False


def held_bytes() -> int:
    """What counts towards this process's bound."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmData:"):
            return int(line.split()[1]) * 1024
    return 0
