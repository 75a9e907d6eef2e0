"""The proxy of docs/deploy, tried as it is written there: over TLS, with a certificate of our own."""

import http.cookiejar
import re
import shutil
import ssl
import subprocess
import time
import urllib.error
import urllib.parse
import urllib.request

import pytest

from launcher.database import free_port
from launcher.paths import ROOT

NAME = "loadstar.example"
pytestmark = pytest.mark.skipif(not shutil.which("nginx", path="/usr/sbin:/usr/bin") or not shutil.which("openssl"),
                                reason="nginx or openssl is not installed")


@pytest.fixture
def tls(started, tmp_path):
    """Loadstar behind the proxy; gives its TLS port."""
    first = started("serve", LOADSTAR_HOSTS=NAME)
    started.code = None
    for line in first.stdout:
        if match := re.search(r"enter this code: (\S+)", line):
            started.code = match[1]
        if "Loadstar is at" in line:
            break
    subprocess.run(["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes",
                    "-days", "2", "-subj", f"/CN={NAME}", "-addext", f"subjectAltName=DNS:{NAME}", "-keyout",
                    tmp_path / "key.pem", "-out", tmp_path / "fullchain.pem"], check=True, capture_output=True)
    port = free_port()
    example = (ROOT / "docs" / "deploy" / "nginx.conf").read_text()
    behind = started.address.rstrip("/")
    server = (example.replace("listen 443 ssl", f"listen 127.0.0.1:{port} ssl")
              .replace("/etc/ssl/loadstar", str(tmp_path)).replace("http://127.0.0.1:8700", behind))
    assert str(port) in server and behind in server
    temporary = "".join(f"{kind}_temp_path {tmp_path}/{kind};" for kind in (
        "client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
    (tmp_path / "nginx.conf").write_text(
        f"daemon off; pid {tmp_path}/pid; error_log {tmp_path}/error.log; events {{}}\n"
        f"http {{ access_log off; {temporary}\n{server}\n}}")
    proxy = subprocess.Popen([shutil.which("nginx", path="/usr/sbin:/usr/bin"), "-p", tmp_path, "-c",
                              tmp_path / "nginx.conf"], stderr=subprocess.DEVNULL)
    yield port
    proxy.terminate()
    proxy.wait(10)


class Browser:
    """Keeps cookies; knows our certificate; sends what a form sends."""

    def __init__(self, base, certificate=None):
        context = ssl.create_default_context(cafile=certificate)
        context.check_hostname = False  # reached by number; the certificate's name is checked below
        jar = http.cookiejar.CookieJar(http.cookiejar.DefaultCookiePolicy(secure_protocols=("https",)))
        self.base, self.jar = base, jar
        self.opener = urllib.request.build_opener(urllib.request.HTTPSHandler(context=context),
                                                  urllib.request.HTTPCookieProcessor(jar))

    def open(self, path, **form):
        headers = {"Host": NAME, "Referer": f"https://{NAME}{path}"}
        data = urllib.parse.urlencode(form).encode() if form else None
        request = urllib.request.Request(self.base + path, data, headers)
        return self.opener.open(request, timeout=20)


def test_setting_up_over_tls_by_the_example_of_the_docs(started, tls, tmp_path):
    browser = Browser(f"https://127.0.0.1:{tls}", tmp_path / "fullchain.pem")
    for _ in range(100):
        try:
            page = browser.open("/setup/")
            break
        except urllib.error.URLError:
            time.sleep(0.05)
    assert page.status == 200
    assert page.headers["Strict-Transport-Security"].startswith("max-age=31536000")
    assert page.headers["Set-Cookie"].startswith("__Host-form=") and "Secure" in page.headers["Set-Cookie"]
    token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', page.read().decode())[1]
    led = browser.open("/setup/", csrfmiddlewaretoken=token, code=started.code, workshop="Slipway", username="Maren",
                       password1="eelgrass-and-samphire", password2="eelgrass-and-samphire")
    assert (led.status, led.url) == (200, f"{browser.base}/w/slipway/")
    told = started.run("status", "serve")
    assert told.returncode == 0 and ", well, answers in" in told.stdout  # asked by number, beside the names it serves
    # Without the proxy's word that it came over TLS, a form is refused.
    plain = urllib.request.Request(started.address + "sign-in/", b"username=a", {
        "Host": NAME, "Referer": f"https://{NAME}/sign-in/"})
    with pytest.raises(urllib.error.HTTPError) as refused:
        urllib.request.urlopen(plain, timeout=20)
    assert refused.value.code == 403
