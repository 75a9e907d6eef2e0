"""The front end's built files: CSS from Tailwind, scripts and fonts from their npm packages.

They are committed under `src/loadstar/web/static/`, so that running needs no Node. Building uses the Node that
the locked Python package brings, so that every machine builds the same bytes.
"""

import filecmp
import os
import shutil
import subprocess
import tempfile
from pathlib import Path

from .paths import ROOT, VAR, VENV
from .say import Stop, step, tail_of

STATIC = ROOT / "src" / "loadstar" / "web" / "static"
FONTS = "@fontsource-variable/atkinson-hyperlegible"
COPIED = {
    "vendor/alpine-csp.min.js": "@alpinejs/csp/dist/cdn.min.js",
    "vendor/alpine-ajax.min.js": "@imacrayon/alpine-ajax/dist/cdn.min.js",
    "fonts/atkinson-next.woff2": f"{FONTS}-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2",
    "fonts/atkinson-mono.woff2": f"{FONTS}-mono/files/atkinson-hyperlegible-mono-latin-wght-normal.woff2",
    "fonts/LICENSE-atkinson.txt": f"{FONTS}-next/LICENSE",
}


def build_front_end(into: Path = STATIC) -> None:
    """Build every generated static file into `into`."""
    modules = _node_modules()
    for target, source in COPIED.items():
        (into / target).parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(modules / source, into / target)
    step("building the style sheet")
    _node(str(modules / "@tailwindcss" / "cli" / "dist" / "index.mjs"), "-i", "assets/app.css",
          "-o", str(into / "app.css"), "--minify")


def compare_front_end() -> None:
    """Build into a scratch folder; a sentence for the first committed file that differs."""
    with tempfile.TemporaryDirectory() as scratch:
        build_front_end(Path(scratch))
        for name in ["app.css", *COPIED]:
            committed = STATIC / name
            if not committed.exists() or not filecmp.cmp(committed, Path(scratch) / name, shallow=False):
                raise Stop(f"{committed.relative_to(ROOT)} is not what `./loadstar build` makes: "
                           "run it and commit the result.")


def _node_modules() -> Path:
    """`var/node/node_modules` as the npm lock file says, installed when it is not."""
    folder = VAR / "node"
    lock = ROOT / "assets" / "package-lock.json"
    mark = folder / "installed.json"
    if not mark.exists() or mark.read_bytes() != lock.read_bytes():
        step("installing the front end's npm packages")
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        for name in ("package.json", "package-lock.json"):
            shutil.copyfile(ROOT / "assets" / name, folder / name)
        # Not `npm ci`: it refuses a lock file without the optional builds for other platforms, which a registry
        # may not carry. `install` still takes versions and checksums from the lock file.
        _run([str(VENV / "bin" / "npm"), "install", "--no-audit", "--no-fund", "--prefix", str(folder)])
        shutil.copyfile(lock, mark)
    # Tailwind resolves `@import "tailwindcss"` from the style sheet's own folder upwards.
    link = ROOT / "assets" / "node_modules"
    if link.resolve() != (folder / "node_modules").resolve():
        link.unlink(missing_ok=True)
        link.symlink_to(folder / "node_modules")
    return folder / "node_modules"


def _node(*words: str) -> None:
    _run([str(VENV / "bin" / "node"), *words])


def _run(command: list[str]) -> None:
    environment = {**os.environ, "PATH": f"{VENV / 'bin'}:{os.environ.get('PATH', '')}"}
    done = subprocess.run(command, cwd=ROOT, env=environment, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE,
                          stderr=subprocess.STDOUT, text=True, check=False)
    if done.returncode:
        raise Stop(f"{Path(command[0]).name} failed; it ended with:\n{tail_of(done.stdout)}")
