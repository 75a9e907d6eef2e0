"""A private MariaDB on loopback: its own data folder, port and credentials; never a system service."""

import os
import shutil
import socket
import subprocess
import time
from pathlib import Path

from . import children
from .access import Access
from .paths import socket_path
from .say import Stop, from_os_error, full_disk, says_full, step, tail_of

COLLATION = "utf8mb4_uca1400_nopad_as_cs"
MOST_PACKET = 128 * 1024**2  # a machine's file is kept in one row until it is taken in
FAST_AND_FORGETFUL = (
    "--skip-log-bin --innodb-flush-log-at-trx-commit=0 --sync-binlog=0 --innodb-doublewrite=0 --performance-schema=0"
).split()


def free_port() -> int:
    """A loopback port that nobody listens on just now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class PrivateDatabase:
    """One MariaDB server process that belongs to this launcher.

    `folder` holds data, socket, pid file and log. With `throwaway` it is tuned for tests that nobody will miss.
    """

    def __init__(self, folder: Path, password: str, *, throwaway: bool = False) -> None:
        self.folder, self.password, self.throwaway = folder, password, throwaway
        self.port = 0
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        """The address for `LOADSTAR_DATABASE_URL`."""
        return self.access.url

    @property
    def access(self) -> Access:
        """The same for client programs."""
        return Access("127.0.0.1", self.port, "loadstar", self.password, "loadstar")

    def start(self) -> None:
        """Make the data folder if there is none, start the server, wait until it answers."""
        try:
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            self.socket = socket_path(self.folder)
            self._clear_stale_pid()
            self._make_data()
            self._launch()
        except OSError as error:
            raise from_os_error(error, self.folder) from error

    def restart(self) -> None:
        """Start the server again, on the port it had, after it ended by itself."""
        try:
            self._clear_stale_pid()
            self._launch()
        except OSError as error:
            raise from_os_error(error, self.folder) from error

    def stop(self) -> None:
        """End the server: ask, wait, and only then force."""
        children.end(self.process, 20)

    def end_left_over(self) -> bool:
        """End a server that an earlier launcher left on this folder; whether there was one. Only for who holds the
        folder.
        """
        pid_file = self.folder / "pid"
        text = pid_file.read_text().strip() if pid_file.exists() else ""
        if text.isdigit() and self._is_ours(int(text)):
            step(f"an earlier start left its database server running (process {text}); ending it")
            children.end_by_id(int(text), self._is_ours)
            return True
        return False

    def _clear_stale_pid(self) -> None:
        pid_file = self.folder / "pid"
        if not pid_file.exists():
            return
        text = pid_file.read_text().strip()
        if text.isdigit() and self._is_ours(int(text)):
            raise Stop(f"A database server (process {text}) already runs on {self.folder}: "
                       "stop the other Loadstar first.")
        step("an earlier start left a stale pid file; removed")
        pid_file.unlink()
        self.socket.unlink(missing_ok=True)

    def _is_ours(self, pid: int) -> bool:
        command = children.command_line(pid)
        return "mariadbd" in command and str(self.folder) in command

    def _make_data(self) -> None:
        data, fresh = self.folder / "data", self.folder / "data.new"
        (self.folder / "tmp").mkdir(exist_ok=True)
        if data.exists():
            if not (data / "mysql").is_dir() or not (data / "ibdata1").exists():
                raise Stop(f"{data} is only half a database folder: restore it from a backup, "
                           "or move it away to begin with an empty one.")
            return
        if fresh.exists():
            step("an earlier start left a half-made data folder; making it again")
            shutil.rmtree(fresh)
        step("making the database folder")
        command = ["mariadb-install-db", "--no-defaults", f"--datadir={fresh}", "--skip-test-db",
                   "--auth-root-authentication-method=socket", *self._user()]
        done = subprocess.run(command, capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)
        if done.returncode:
            said = done.stdout + done.stderr
            if says_full(said):
                raise full_disk(self.folder)
            raise Stop(f"The database folder could not be made; the installer ended with:\n{tail_of(said)}")
        fresh.rename(data)

    @staticmethod
    def _user() -> list[str]:
        return ["--user=root"] if os.geteuid() == 0 else []

    def _launch(self) -> None:
        self.port = self.port or free_port()
        log = self.folder / "err.log"
        log.unlink(missing_ok=True)
        command = [
            shutil.which("mariadbd") or "/usr/sbin/mariadbd", "--no-defaults", *self._user(),
            f"--datadir={self.folder / 'data'}", f"--tmpdir={self.folder / 'tmp'}", "--bind-address=127.0.0.1",
            f"--port={self.port}", f"--socket={self.socket}", f"--pid-file={self.folder / 'pid'}",
            f"--log-error={log}", f"--init-file={self._first_words()}",
            "--character-set-server=utf8mb4", f"--collation-server={COLLATION}",
            "--skip-name-resolve", f"--max-allowed-packet={MOST_PACKET}",
            *(FAST_AND_FORGETFUL if self.throwaway else []),
        ]
        self.process = children.start(command, stdout=subprocess.DEVNULL)
        deadline = time.monotonic() + 30
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                said = log.read_text(errors="replace") if log.exists() else ""
                if says_full(said):
                    raise full_disk(self.folder)
                raise Stop(f"The database server ended while starting; its log {log} ends with:\n{tail_of(said)}")
            if self._answers():
                return
            time.sleep(0.05)
        self.stop()
        raise Stop(f"The database server did not answer within 30 s; see {log}.")

    def _answers(self) -> bool:
        done = subprocess.run(self.access.command("mariadb", "--connect-timeout=3", "-e", "SELECT 1"),
                              env=self.access.environment, capture_output=True, check=False, stdin=subprocess.DEVNULL)
        return done.returncode == 0

    def _first_words(self) -> Path:
        """What the server does before it answers anybody: the database and its one account. So nobody has to sign in
        as the database's administrator, whichever account of the machine made the folder."""
        path = self.folder / "init.sql"
        lines = [
            f"CREATE DATABASE IF NOT EXISTS loadstar CHARACTER SET utf8mb4 COLLATE {COLLATION};",
            "CREATE USER IF NOT EXISTS loadstar@'127.0.0.1';",
            f"ALTER USER loadstar@'127.0.0.1' IDENTIFIED BY '{self.password}';",
            "GRANT ALL ON loadstar.* TO loadstar@'127.0.0.1';",
            *([r"GRANT ALL ON `test\_loadstar%`.* TO loadstar@'127.0.0.1';"] if self.throwaway else [])]
        text = "\n".join(lines) + "\n"
        if not path.exists() or path.read_text() != text:  # on a full disk what is there will do
            with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
                file.write(text)
        return path
