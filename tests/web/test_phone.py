"""The phone: certificates of the own network, codes that are read back, the page, and what keeps Eyot on a device."""

from __future__ import annotations

import ipaddress
import json
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

import cv2
import numpy as np
from cryptography import x509
from cryptography.x509.oid import ExtendedKeyUsageOID
from django.conf import settings
from django.contrib.staticfiles import finders
from django.test import Client, SimpleTestCase, override_settings

from eyot.phone import views
from eyot.phone.certificates import PRIVATE, certify
from eyot.shared.codes import code_of, svg_of
from eyot_launch import network
from eyot_launch.console import CannotGoOn
from tests.web.season_data import SeasonCase

NOW = datetime(2026, 6, 12, 12, 0, tzinfo=UTC)
HOSTS = ["192.168.7.20", "willow.local"]


class Certificates(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "certificates"

    def certificate(self, name: str) -> x509.Certificate:
        return x509.load_pem_x509_certificate((self.folder / name).read_bytes())

    def serials(self) -> tuple[int, int]:
        return self.certificate("authority.crt").serial_number, self.certificate("server.crt").serial_number

    def test_the_server_is_vouched_for_by_the_authority_under_its_own_hosts_only(self) -> None:
        certified = certify(self.folder, HOSTS, NOW)
        server, authority = self.certificate("server.crt"), self.certificate("authority.crt")
        server.verify_directly_issued_by(authority)
        named = server.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
        self.assertEqual(
            set(named), {x509.IPAddress(ipaddress.ip_address("192.168.7.20")), x509.DNSName("willow.local")}
        )
        use = server.extensions.get_extension_for_class(x509.ExtendedKeyUsage).value
        self.assertEqual(list(use), [ExtendedKeyUsageOID.SERVER_AUTH])
        self.assertLess(server.not_valid_after_utc - server.not_valid_before_utc, timedelta(days=398))
        self.assertLess(server.not_valid_before_utc, NOW - timedelta(days=1))  # a clock may be wrong by a day
        self.assertEqual(len(certified.fingerprint), 32 * 3 - 1)

    def test_the_authority_can_vouch_for_nothing_outside_the_own_network(self) -> None:
        certify(self.folder, HOSTS, NOW)
        rule = self.certificate("authority.crt").extensions.get_extension_for_class(x509.NameConstraints)
        self.assertTrue(rule.critical)
        networks = [one.value for one in rule.value.permitted_subtrees or () if isinstance(one, x509.IPAddress)]
        self.assertEqual({str(net) for net in networks}, {*PRIVATE, "192.168.7.20/32"})
        names = {one.value for one in rule.value.permitted_subtrees or () if isinstance(one, x509.DNSName)}
        self.assertEqual(names, {"local", "localhost", "lan", "home.arpa", "internal", "willow.local"})

    def test_keys_are_for_their_owner_only(self) -> None:
        certify(self.folder, HOSTS, NOW)
        self.assertEqual({path.stat().st_mode & 0o777 for path in self.folder.glob("*.key")}, {0o600})
        self.assertEqual(self.folder.stat().st_mode & 0o777, 0o700)

    def test_what_still_lasts_stays_and_what_runs_out_is_renewed_at_start(self) -> None:
        self.assertEqual(certify(self.folder, HOSTS, NOW).told, "")
        first = self.serials()
        self.assertEqual(certify(self.folder, HOSTS, NOW + timedelta(days=100)).told, "")
        self.assertEqual(self.serials(), first)
        told = certify(self.folder, HOSTS, NOW + timedelta(days=171)).told
        self.assertIn("those that trust this machine go on", told)
        again = self.serials()
        self.assertEqual(again[0], first[0])
        self.assertNotEqual(again[1], first[1])
        told = certify(self.folder, HOSTS, NOW + timedelta(days=3640)).told
        self.assertIn("trust this machine again", told)
        self.assertNotEqual(self.serials()[0], first[0])

    def test_other_hosts_and_damaged_files_are_made_anew(self) -> None:
        certify(self.folder, HOSTS, NOW)
        first = self.serials()
        certify(self.folder, ["10.0.0.9"], NOW)
        self.assertEqual(self.serials()[0], first[0])
        (self.folder / "server.crt").write_text("no certificate")
        certify(self.folder, HOSTS, NOW)
        (self.folder / "server.key").write_bytes((self.folder / "authority.key").read_bytes())
        certify(self.folder, HOSTS, NOW)
        self.certificate("server.crt").verify_directly_issued_by(self.certificate("authority.crt"))
        self.assertEqual(self.serials()[0], first[0])
        certify(self.folder, ["203.0.113.7"], NOW)  # no private address: the authority must be allowed to name it
        self.assertNotEqual(self.serials()[0], first[0])
        self.certificate("server.crt").verify_directly_issued_by(self.certificate("authority.crt"))


class OwnNetwork(TestCase):
    def test_a_machine_without_a_network_says_so(self) -> None:
        with (
            patch.object(network, "own_addresses", return_value=[]),
            self.assertRaisesRegex(CannotGoOn, "--lan ADDRESS"),
        ):
            network.hosts_for([])

    def test_without_wanted_addresses_its_own_and_its_name_count(self) -> None:
        with (
            patch.object(network, "own_addresses", return_value=["192.168.7.20"]),
            patch.object(network.socket, "gethostname", return_value="Willow.example"),
        ):
            self.assertEqual(network.hosts_for([]), (["192.168.7.20"], HOSTS))
        self.assertEqual(network.hosts_for(["10.0.0.9"]), (["10.0.0.9"], ["10.0.0.9"]))

    def test_loopback_is_no_address_of_a_network(self) -> None:
        self.assertFalse([one for one in network.own_addresses() if one.startswith("127.")])


class Codes(SimpleTestCase):
    def test_a_code_is_read_back(self) -> None:
        text = "https://192.168.7.20:8422/"
        dark = np.array(code_of(text).get_matrix(), dtype=bool)
        picture = np.where(np.kron(dark, np.ones((8, 8), dtype=bool)), 0, 255).astype(np.uint8)
        self.assertEqual(cv2.QRCodeDetector().detectAndDecode(picture)[0], text)
        self.assertEqual(svg_of(text).count("h1v1h-1z"), dark.sum())


class OnTheDevice(SimpleTestCase):
    def test_the_worker_keeps_every_file_of_its_version_and_is_asked_for_anew(self) -> None:
        answer = self.client.get("/worker.js")
        self.assertEqual(answer["Content-Type"], "text/javascript")
        self.assertIn("no-cache", answer["Cache-Control"])
        head, _, rest = answer.content.decode().partition("\n")
        self.assertIn("addEventListener", rest)
        shell = json.loads(head.partition("SHELL = ")[2].rstrip(";"))
        for name in ("js/cutting.js", "js/outbox.js", "css/eyot.css", "fonts/standard.woff2", "seed.svg"):
            self.assertIn(f"/static/{name}", shell)
        for address in shell:
            self.assertTrue(finders.find(address.removeprefix("/static/")), address)

    def test_another_file_makes_another_version(self) -> None:
        before, _ = views._shell()
        self.addCleanup(views._shell.cache_clear)
        views._shell.cache_clear()
        with patch.object(views, "static", lambda name: f"/static/{name}-anew"):
            self.assertNotEqual(views._shell()[0], before)

    def test_the_manifest_names_icons_that_are_there(self) -> None:
        manifest = self.client.get("/manifest.webmanifest").json()
        self.assertEqual((manifest["start_url"], manifest["display"]), ("/", "standalone"))
        for icon in manifest["icons"]:
            self.assertTrue(finders.find(icon["src"].removeprefix("/static/")))

    def test_the_page_without_a_signal_says_nothing_of_anybody(self) -> None:
        answer = Client().get("/offline/")
        self.assertContains(answer, "No signal")
        self.assertNotContains(answer, "log out")


class PhonePage(SeasonCase):
    def test_without_a_network_it_says_how_to_start(self) -> None:
        self.assertContains(self.client.get("/phone/"), "bin/eyot start --lan")
        self.assertEqual(self.client.get("/phone/certificate/").status_code, 404)

    def test_with_one_it_shows_address_code_steps_and_whom_to_trust(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        certified = certify(Path(folder.name) / "certificates", HOSTS, datetime.now(UTC))
        with override_settings(PHONE_ADDRESSES=["https://192.168.7.20:8422/"], DATA=Path(folder.name)):
            page = self.client.get("/phone/")
            self.assertContains(page, "https://192.168.7.20:8422/")
            self.assertContains(page, '<svg class="code"')
            self.assertContains(page, certified.fingerprint.replace(":", "")[:4])
            answer = self.client.get("/phone/certificate/")
            self.assertEqual(answer["Content-Type"], "application/x-x509-ca-cert")
            x509.load_der_x509_certificate(answer.content)

    def test_a_server_that_is_reached_by_tls_already_shows_its_own_address(self) -> None:
        page = self.client.get("/phone/", secure=True)
        self.assertContains(page, "https://testserver/")
        self.assertNotContains(page, "the certificate")

    def test_workers_and_manifests_are_allowed_and_nothing_else_came_with_them(self) -> None:
        policy = settings.CONTENT_SECURITY_POLICY["DIRECTIVES"]
        self.assertEqual(policy["worker-src"], ["'self'"])
        self.assertEqual(policy["default-src"], ["'none'"])
