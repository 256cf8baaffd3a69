"""A door beyond this machine, with a certificate by files and the shop's passphrase."""

import os
import ssl
import subprocess
import sys
from pathlib import Path

import httpx
import pytest

from perisect.services.sign_in import set_passphrase
from perisect.up.cluster import free_port
from perisect.up.supervisor import wait_until_up

HOST = "127.0.0.2"
"""Loopback, but not the address at which the door stands open."""
WORDS = "a ferry at seven in the morning"


def certificate(folder: Path) -> tuple[Path, Path]:
    cert, key = folder / "cert.pem", folder / "key.pem"
    made = f"openssl req -x509 -newkey ec -pkeyopt ec_paramgen_curve:P-256 -nodes -days 2 -subj /CN={HOST}".split()
    where = ["-addext", f"subjectAltName=IP:{HOST}", "-out", str(cert), "-keyout", str(key)]
    subprocess.run([*made, *where], check=True, capture_output=True)
    return cert, key


@pytest.mark.long
def test_one_signs_in_over_tls_and_nothing_is_told_without(shop: Path, tmp_path: Path) -> None:
    cert, key = certificate(tmp_path)
    set_passphrase(WORDS)
    port = free_port()
    command = ["api", "--host", HOST, "--port", str(port), "--tls-cert", str(cert), "--tls-key", str(key)]
    server = subprocess.Popen(
        [sys.executable, "-m", "perisect.cli", *command], env=os.environ | {"PERISECT_HOST": HOST}
    )
    url = f"https://{HOST}:{port}"
    try:
        wait_until_up(url)
        with httpx.Client(base_url=url, verify=ssl.create_default_context(cafile=cert)) as browser:
            assert browser.get("/api/jobs").status_code == 401
            assert browser.post("/api/sign-in", json={"passphrase": "another"}).status_code == 401
            signed_in = browser.post("/api/sign-in", json={"passphrase": WORDS})
            cookie = signed_in.headers["set-cookie"].lower()
            assert {"secure", "httponly", "samesite=strict"} <= set(cookie.split("; "))
            assert browser.get("/api/jobs").status_code == 200
        with pytest.raises(httpx.ConnectError, match="certificate"):
            httpx.get(f"{url}/api/jobs")
        with pytest.raises(httpx.HTTPError):
            httpx.get(f"http://{HOST}:{port}/api/jobs")
    finally:
        server.terminate()
        server.wait(20)


@pytest.mark.long
def test_a_certificate_without_its_key_is_one_sentence(tmp_path: Path) -> None:
    cert, _ = certificate(tmp_path)
    told = subprocess.run(
        [sys.executable, "-m", "perisect.cli", "api", "--tls-cert", str(cert)],
        capture_output=True,
        text=True,
        check=False,
    )
    assert told.returncode != 0
    assert "--tls-cert and --tls-key go together." in told.stderr
