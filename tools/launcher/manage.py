"""Runs the application's management commands."""

import os
import subprocess

from .paths import PYTHON, ROOT, VAR
from .say import Stop, full_disk, says_full, tail_of


def base_environment(mode: str, database_url: str, secret: str) -> dict[str, str]:
    """The environment the application's processes run in."""
    return {
        **os.environ, "PYTHONPATH": str(ROOT / "src"), "DJANGO_SETTINGS_MODULE": "loadstar.web.settings",
        "LOADSTAR_MODE": mode, "LOADSTAR_DATABASE_URL": database_url, "LOADSTAR_SECRET_KEY": secret,
        "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", "MALLOC_ARENA_MAX": "2",
    }


SENTENCE = 4  # the exit code of a command that has said all in one sentence


class Refused(Stop):
    """A command will not do what it was asked; its text is why, without a subject."""


def manage(environment: dict[str, str], *words: str, descriptors: tuple[int, ...] = ()) -> str:
    """Run one, with these open files; its output, or a sentence when it fails (Refused: one of its own)."""
    done = subprocess.run([str(PYTHON), "-m", "django", *words], env=environment, cwd=ROOT, pass_fds=descriptors,
                          capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)
    if done.returncode == SENTENCE:
        raise Refused(done.stderr.strip().removeprefix("CommandError: "))
    if done.returncode:
        said = done.stdout + done.stderr
        if says_full(said):
            raise full_disk(VAR)
        raise Stop(f"{words[0]} failed; it ended with:\n{tail_of(said)}")
    return done.stdout
