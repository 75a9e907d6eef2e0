"""How gunicorn runs the application: loaded once, then parted into workers, each of them bounded."""

import resource

bind = "127.0.0.1:8700"
threads = 8
preload_app = True
timeout = 60
errorlog = "-"
control_socket_disable = True
WORKER_MOST_BYTES = 1536 * 1024**2  # a computation that wants more fails alone


def post_fork(server: object, worker: object) -> None:
    """Bound what a worker may hold, so that one plan cannot take the machine from all others."""
    resource.setrlimit(resource.RLIMIT_DATA, (WORKER_MOST_BYTES, WORKER_MOST_BYTES))
