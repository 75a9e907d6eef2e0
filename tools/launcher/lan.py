"""Being reached from telephones of the same network: only where it was asked for, and only over TLS."""

import fcntl
import ipaddress
import os
import socket
import struct
import subprocess
from dataclasses import dataclass
from pathlib import Path

from .paths import PYTHON
from .say import Stop, step, tail_of

SIOCGIFADDR = 0x8915  # of Linux: an interface's IPv4 address
LOCAL = ("127.0.0.1", "localhost")


@dataclass(frozen=True)
class Lan:
    """The address that telephones come to, and the certificate's folder."""

    address: str
    port: int
    folder: Path
    until: str

    @property
    def url(self) -> str:
        """What is typed, or read off the square code."""
        return f"https://{self.address}:{self.port}"

    @property
    def environment(self) -> dict[str, str]:
        """What the application has to know of it."""
        hosts = [h for h in (os.environ.get("LOADSTAR_HOSTS", ""), self.address) if h]
        return {"LOADSTAR_LAN": self.url, "LOADSTAR_HOSTS": ",".join(hosts),
                "LOADSTAR_ROOT_CERTIFICATE": str(self.folder / "root.crt")}

    @property
    def words(self) -> list[str]:
        """More of the server's command line."""
        more = [] if self.address in LOCAL else ["--bind", f"{self.address}:{self.port}"]
        return [*more, "--certfile", str(self.folder / "server.crt"),
                "--keyfile", str(self.folder / "server.key")]

    def tell(self, mode: str) -> None:
        """The address and its square code, on the terminal; and who can come in."""
        print(f"On a telephone in the same network: {self.url}  (by a certificate of its own, good until {self.until})",
              flush=True)
        square = "import segno, sys; segno.make(sys.argv[1]).terminal(compact=True)"
        subprocess.run([str(PYTHON), "-c", square, self.url], check=False)
        if mode == "demo":
            print("Anybody in this network can enter the demonstration: it asks for no password.", flush=True)


def addresses() -> list[str]:
    """The IPv4 addresses of this machine's interfaces, but for its own loop."""
    found = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asks:
        for _, name in socket.if_nameindex():
            try:
                row = fcntl.ioctl(asks.fileno(), SIOCGIFADDR, struct.pack("256s", name.encode()[:15]))
            except OSError:  # an interface without such an address
                continue
            address = socket.inet_ntoa(row[20:24])
            if not ipaddress.ip_address(address).is_loopback:
                found.append(address)
    return found


def open_to(wanted: str, port: int, folder: Path) -> Lan:
    """Choose the address ("": the first of this machine) and bring its certificate up to date."""
    every = addresses()
    if not wanted and not every:
        raise Stop("This machine is in no network: join one, or name the address that telephones come to: "
                   "--lan 192.168.1.20")
    address = wanted or every[0]
    if wanted and wanted not in (*every, *LOCAL[:1]):
        here = ", ".join(every) or "none"
        raise Stop(f"{wanted} is no address of this machine: it has {here}.")
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address, port))
        except OSError as error:
            raise Stop(f"Port {port} on {address} is in use or not allowed: choose another with --port.") from error
    step(f"opening it to the network at {address}")
    done = subprocess.run([str(PYTHON), str(Path(__file__).with_name("certificate.py")), str(folder), address,
                           *(a for a in LOCAL if a != address)], capture_output=True, text=True, check=False)
    if done.returncode:
        raise Stop(f"The certificate could not be made; it ended with:\n{tail_of(done.stdout + done.stderr)}")
    return Lan(address, port, folder, done.stdout.strip())
