"""The examples for a machine that is left running: the service, and TLS in front."""

import contextlib
import json
import os
import shutil
import ssl
import subprocess
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path

import pytest

from launcher import services, setup
from launcher.scratch import scratch_application

ROOT = Path(__file__).resolve().parents[2]
HOST = "drums.example"


@pytest.mark.skipif(
    not shutil.which("systemd-analyze"),
    reason="only systemd itself can say whether it takes the unit, and it is not on this machine",
)
def test_the_service_is_one_that_systemd_takes(tmp_path):
    unit = tmp_path / "orchesis.service"
    text = (ROOT / "deploy" / "orchesis.service").read_text()
    unit.write_text(text.replace("/opt/orchesis", str(ROOT)))
    done = subprocess.run(
        ["systemd-analyze", "verify", str(unit)], capture_output=True, text=True, check=False
    )
    told = [line for line in done.stderr.splitlines() if "orchesis" in line]
    assert done.returncode == 0, done.stderr
    assert told == []


@contextlib.contextmanager
def tls_in_front(folder: Path, port: int):
    """The example, on free ports, with a certificate of its own; gives back the port of TLS."""
    folder.mkdir()
    secure, plain = services.any_free(), services.any_free()
    certificate, key = folder / "certificate.pem", folder / "key.pem"
    subject = ["-subj", f"/CN={HOST}", "-addext", f"subjectAltName=DNS:{HOST}"]
    made = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", *subject]
    made += ["-keyout", str(key), "-out", str(certificate)]
    subprocess.run(made, check=True, capture_output=True)
    text = (ROOT / "deploy" / "nginx-tls.conf").read_text()
    for example, here in (
        ("/etc/ssl/certs/drums.example.pem", str(certificate)),
        ("/etc/ssl/private/drums.example.key", str(key)),
        ("listen [::]:443 ssl;", ""),
        ("listen [::]:80;", ""),
        ("listen 443 ssl;", f"listen 127.0.0.1:{secure} ssl;"),
        ("listen 80;", f"listen 127.0.0.1:{plain};"),
        ("127.0.0.1:8137", f"127.0.0.1:{port}"),
    ):
        assert example in text
        text = text.replace(example, here)
    config = folder / "nginx.conf"
    user = "user root;" if os.geteuid() == 0 else ""
    config.write_text(
        f"{user} pid {folder}/pid; error_log {folder}/errors; events {{}}\n"
        f"http {{ access_log off; client_body_temp_path {folder}/body;\n{text} }}"
    )
    nginx = [str(setup.find_program("nginx")), "-p", str(folder), "-c", str(config)]
    child = subprocess.Popen([*nginx, "-g", "daemon off;"])
    try:
        deadline = time.monotonic() + 10
        while not services.accepts("127.0.0.1", secure):
            assert time.monotonic() < deadline, (folder / "errors").read_text()
            time.sleep(0.05)
        yield secure, certificate
    finally:
        child.terminate()
        child.wait(10)


def test_over_tls_one_signs_in_and_edits_and_no_cookie_goes_by_anything_else(tmp_path, monkeypatch):
    monkeypatch.setenv("ORCHESIS_HTTPS", "1")
    monkeypatch.setenv("ORCHESIS_HOSTS", f"other.example,{HOST}")
    with scratch_application(demo=False) as running:
        port = int(running.address.rpartition(":")[2])
        with tls_in_front(tmp_path / "tls", port) as (secure, certificate):
            context = ssl.create_default_context(cafile=str(certificate))
            context.check_hostname = False  # It is reached by its number here.
            cookies = CookieJar()
            browser = urllib.request.build_opener(
                urllib.request.HTTPSHandler(context=context),
                urllib.request.HTTPCookieProcessor(cookies),
            )

            def ask(path, body=None, host=HOST, **headers):
                word = next((one.value for one in cookies if one.name == "csrftoken"), "")
                origin = {} if body is None else {"Origin": f"https://{HOST}", "X-CSRFToken": word}
                sent = {"Host": host, "Content-Type": "application/json", **origin, **headers}
                data = None if body is None else json.dumps(body).encode()
                request = urllib.request.Request(
                    f"https://127.0.0.1:{secure}{path}", data=data, headers=sent
                )
                try:
                    with browser.open(request, timeout=30) as answer:
                        return answer.status, answer.headers, answer.read()
                except urllib.error.HTTPError as error:
                    return error.code, error.headers, error.read()

            status, headers, _ = ask("/api/session")
            assert status == 200
            assert headers["Strict-Transport-Security"]
            made = {"username": "ada", "password": "a-long-pass-word"}
            status, _, told = ask("/api/session/sign-up", made)
            assert status == 200, told
            assert {"csrftoken", "sessionid"} < {one.name for one in cookies}
            assert all(one.secure for one in cookies)
            # A page of somebody else's cannot ask in one's name, and no other name is answered to.
            status, _, _ = ask("/api/session/sign-up", made, Origin="https://evil.example")
            assert status == 403
            assert ask("/api/session", host="evil.example")[0] == 400
            # Where it comes from is what the outer proxy says, whatever the sender claims.
            ask("/api/health/live", **{"X-Real-IP": "203.0.113.7"})
        log = (running.folder / "logs" / "web.log").read_text()
        assert "203.0.113.7" not in log
