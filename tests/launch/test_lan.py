"""`./start --lan`: an authority that stays, a certificate for the addresses, said what trust means."""

import socket
import ssl
import threading

import pytest
from cryptography import x509
from launch.say import StopError

from inchmark.config.certificate import make_certificate
from launch import lan, start


def certificate(folder):
    return x509.load_pem_x509_certificate((folder / "certificate.pem").read_bytes())


def test_a_browser_that_trusts_the_authority_is_answered_by_address(tmp_path):
    folder = make_certificate(tmp_path / "tls", ["127.0.0.1", "localhost"])
    server = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    server.load_cert_chain(folder / "certificate.pem", folder / "key.pem")
    trusting = ssl.create_default_context(cafile=folder / "authority.pem")
    with socket.create_server(("127.0.0.1", 0)) as listener:

        def answer():
            with listener.accept()[0] as line, server.wrap_socket(line, server_side=True) as safe:
                safe.sendall(b"hello")

        threading.Thread(target=answer, daemon=True).start()
        with (
            socket.create_connection(listener.getsockname(), timeout=5) as line,
            trusting.wrap_socket(line, server_hostname="127.0.0.1") as safe,
        ):
            assert safe.recv(5) == b"hello"


def test_the_authority_stays_and_the_certificate_follows_the_addresses(tmp_path):
    first = make_certificate(tmp_path, ["192.0.2.1"])
    authority, one = (first / "authority.pem").read_bytes(), certificate(first)
    assert certificate(make_certificate(tmp_path, ["192.0.2.1"])) == one
    other = certificate(make_certificate(tmp_path, ["192.0.2.2", "bench.example"]))
    assert other != one
    assert (first / "authority.pem").read_bytes() == authority
    names = other.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert names.get_values_for_type(x509.DNSName) == ["bench.example"]


def test_keys_are_their_owners_alone(tmp_path):
    make_certificate(tmp_path / "tls", ["localhost"])
    for name in ("key.pem", "authority-key.pem"):
        assert (tmp_path / "tls" / name).stat().st_mode & 0o777 == 0o600
    assert (tmp_path / "tls").stat().st_mode & 0o777 == 0o700


def test_processes_are_told_of_tls_and_of_no_proxy(tmp_path):
    with socket.create_server(("127.0.0.1", 0)) as listener:
        environment = start.app_environment("postgresql://x@127.0.0.1:1/y", tmp_path)
        told = lan.over_tls(tmp_path, "192.0.2.7", "https://192.0.2.7:8000")
        command = start._web(1, listener, environment | told).command
    assert command[-4:-2] == ["--certificate", str(tmp_path / "tls" / "certificate.pem")]
    assert "--behind-proxy" not in command
    assert "192.0.2.7" in told["INCHMARK_HOSTS"].split(",")


def test_a_machine_in_no_network_says_so(monkeypatch):
    def nowhere(*asked):
        raise OSError("no route")

    monkeypatch.setattr(socket.socket, "connect", nowhere)
    with pytest.raises(StopError, match="in no network"):
        lan.own_address()
