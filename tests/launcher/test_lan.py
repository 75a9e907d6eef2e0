"""Being reached from telephones: the certificate that is made, as TLS itself judges it, and what is refused."""

import socket
import ssl
import subprocess
import sys
import threading
from datetime import UTC, datetime, timedelta

import pytest
from cryptography import x509

from launcher import certificate, lan
from launcher.say import Stop

NAMES = ["127.0.0.1", "localhost"]


def shaken(folder, name="127.0.0.1") -> str:
    """A handshake with the folder's certificate, trusted by its root alone: the version that both speak."""
    server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    server.load_cert_chain(folder / "server.crt", folder / "server.key")
    ours, theirs = socket.socketpair()
    thread = threading.Thread(target=lambda: server.wrap_socket(theirs, server_side=True).close(), daemon=True)
    thread.start()
    client = ssl.create_default_context(cafile=str(folder / "root.crt"))
    with client.wrap_socket(ours, server_hostname=name) as spoken:
        return spoken.version()


def of(folder, name) -> x509.Certificate:
    return x509.load_pem_x509_certificate((folder / name).read_bytes())


def test_tls_takes_it_for_each_of_its_names_and_for_no_other(tmp_path):
    certificate.main(tmp_path, NAMES)
    assert shaken(tmp_path).startswith("TLSv1.") and shaken(tmp_path, "localhost")
    with pytest.raises(ssl.SSLCertVerificationError):
        shaken(tmp_path, "192.168.7.20")
    left = of(tmp_path, "server.crt").not_valid_after_utc - datetime.now(UTC)
    assert left < timedelta(days=398)  # what browsers take


def test_keys_are_for_this_account_alone(tmp_path):
    certificate.main(tmp_path / "tls", NAMES)
    assert (tmp_path / "tls").stat().st_mode & 0o777 == 0o700
    assert {p.stat().st_mode & 0o777 for p in (tmp_path / "tls").iterdir()} == {0o600}


def test_it_is_kept_and_made_anew_for_other_addresses_under_the_same_root(tmp_path):
    certificate.main(tmp_path, NAMES)
    root, first = of(tmp_path, "root.crt"), of(tmp_path, "server.crt")
    certificate.main(tmp_path, NAMES)
    assert of(tmp_path, "server.crt") == first
    certificate.main(tmp_path, [*NAMES, "10.1.2.3"])
    assert of(tmp_path, "server.crt") != first and of(tmp_path, "root.crt") == root
    assert shaken(tmp_path, "10.1.2.3")


@pytest.mark.parametrize(("later", "server", "root"), [
    (timedelta(days=300), False, False), (timedelta(days=380), True, False), (timedelta(days=3650), True, True)])
def test_it_is_renewed_before_its_day(tmp_path, time_machine, later, server, root):
    certificate.main(tmp_path, NAMES)
    before = of(tmp_path, "server.crt"), of(tmp_path, "root.crt")
    time_machine.move_to(datetime.now(UTC) + later)
    certificate.main(tmp_path, NAMES)
    assert (of(tmp_path, "server.crt") != before[0], of(tmp_path, "root.crt") != before[1]) == (server, root)


@pytest.mark.parametrize("broken", ["root.crt", "root.key", "server.crt"])
def test_what_is_broken_is_made_anew(tmp_path, broken):
    certificate.main(tmp_path, NAMES)
    if broken == "root.key":
        (tmp_path / broken).unlink()
    else:
        (tmp_path / broken).write_text("nothing of the kind")
    certificate.main(tmp_path, NAMES)
    assert shaken(tmp_path)


def test_an_address_that_is_not_this_machines_is_refused(tmp_path):
    with pytest.raises(Stop, match=r"198\.51\.100\.7 is no address of this machine"):
        lan.open_to("198.51.100.7", 8799, tmp_path)


def test_a_machine_in_no_network_says_so(tmp_path, monkeypatch):
    monkeypatch.setattr(lan, "addresses", list)
    with pytest.raises(Stop, match="This machine is in no network"):
        lan.open_to("", 8799, tmp_path)


def test_a_port_that_is_taken_is_told(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        with pytest.raises(Stop, match="is in use or not allowed"):
            lan.open_to("127.0.0.1", taken.getsockname()[1], tmp_path)


def test_its_own_loop_is_no_address_that_telephones_come_to():
    assert not any(a.startswith("127.") for a in lan.addresses())


def test_the_application_is_told_its_address_and_where_the_root_lies(tmp_path, monkeypatch, capfd):
    monkeypatch.setenv("LOADSTAR_HOSTS", "bench.example")
    one = lan.Lan("10.1.2.3", 8700, tmp_path, "1 Jan 2028")
    assert one.environment == {"LOADSTAR_LAN": "https://10.1.2.3:8700", "LOADSTAR_HOSTS": "bench.example,10.1.2.3",
                               "LOADSTAR_ROOT_CERTIFICATE": str(tmp_path / "root.crt")}
    assert one.words[:2] == ["--bind", "10.1.2.3:8700"] and "--certfile" in one.words
    one.tell("serve")
    told = capfd.readouterr().out
    assert "https://10.1.2.3:8700" in told and "no password" not in told
    one.tell("demo")
    assert "asks for no password" in capfd.readouterr().out


def test_the_command_takes_no_word_or_an_address():
    done = subprocess.run([sys.executable, "loadstar", "serve", "--lan", "198.51.100.7", "--help"], check=False,
                          capture_output=True, text=True, cwd=lan.Path(__file__).parents[2])
    assert done.returncode == 0 and "--lan" in done.stdout
