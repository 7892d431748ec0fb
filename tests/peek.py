from django.test import override_settings
from pathlib import Path
from datetime import UTC, datetime
import tempfile
from eyot.phone.certificates import certify
from tests.journeys.browser import DESK, PHONE, Journey
from eyot.collection.member_actions import new_collection
class Peek(Journey):
    def test_it(self):
        d = tempfile.mkdtemp()
        certify(Path(d) / "certificates", ["192.168.7.20", "willow.local"], datetime.now(UTC))
        with override_settings(PHONE_ADDRESSES=["https://192.168.7.20:8422/", "https://willow.local:8422/"], DATA=Path(d)):
            for how, name in ((DESK, "desk"), (PHONE, "phone")):
                page = self.member("keeper", **how)
                for path, tag in (("/in/withy-bed/phone/", "phonepage"), ("/in/withy-bed/keeping/", "keeping"), ("/in/withy-bed/pairings/running/", "running"), ("/account/", "account"), ("/offline/", "offline"), ("/in/withy-bed/members/", "members")):
                    if name == "phone" and tag in ("members", "account"): continue
                    self.visit(page, path)
                    page.screenshot(path=f"/tmp/peek-{tag}-{name}.png", full_page=(name == "desk" and tag != "members"))
