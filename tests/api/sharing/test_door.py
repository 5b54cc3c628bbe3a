"""The shared door over real TLS on a second loopback address: let in, kept out, shut out."""

from __future__ import annotations

import re
import socket
import ssl
import threading
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest

from neatpatch.api.app import create_app
from neatpatch.api.common.connections import Bounds
from neatpatch.api.sharing import serving
from neatpatch.api.sharing.policy import table
from neatpatch.store.datafolder import Library
from tests.served import assert_problem, options_for, served

ELSEWHERE = "127.0.0.2"
COOKIE = "__Host-neatpatch"


class Shared:
    """A server that shares, asked from its own machine and from a device."""

    def __init__(self, url: str, library: Library) -> None:
        self.home = httpx.Client(base_url=url, timeout=60)
        self.library = library
        state = self.home.get("/api/sharing").json()
        self.url, self.fingerprint = state["url"], state["fingerprint"]

    @contextmanager
    def device(self, token: str | None = None) -> Iterator[httpx.Client]:
        headers = {"origin": self.url}
        if token is not None:
            headers["cookie"] = f"{COOKIE}={token}"
        with httpx.Client(
            base_url=self.url, verify=trusting(), headers=headers, timeout=60
        ) as found:
            yield found

    def code(self, role: str = "helper") -> str:
        made = self.home.post("/api/sharing/offers", json={"role": role})
        assert made.status_code == 201, made.text
        return str(made.json()["code"])

    def token(self, role: str = "helper", name: str = "Ada") -> str:
        with self.device() as one:
            answer = one.post("/pair", data={"name": name, "code": self.code(role), "to": "/kit"})
        assert answer.status_code == 303, answer.text
        assert answer.headers["location"] == "/kit"
        return str(answer.cookies[COOKIE])


def trusting() -> ssl.SSLContext:
    context = ssl.create_default_context()
    context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
    return context


@pytest.fixture
def shared(tmp_path: Path, page: Path) -> Iterator[Shared]:
    library = Library(tmp_path / "data")
    options = options_for(page, workers=0, share=True, share_on=ELSEWHERE, share_port=0)
    with served(create_app(library, options)) as url:
        found = Shared(url, library)
        yield found
        found.home.close()


def a_visit(shared: Shared) -> int:
    body = {"name": "Judge", "sensor_mm": [23.5, 15.6], "stabilised": False, "access": "mirrorless"}
    made = shared.home.post("/api/bodies", json=body).json()
    return int(shared.home.post("/api/visits", json={"body_id": made["id"]}).json()["id"])


def test_nothing_but_the_pairing_page_answers_before_one_is_let_in(shared: Shared) -> None:
    with shared.device() as stranger:
        for path in ("/api/health", "/api/frames", "/api/openapi.json", "/api/me"):
            assert_problem(stranger.get(path), 401, "not let in")
        for path in ("/", "/visits/1", "/assets/a.js"):
            answer = stranger.get(path)
            assert (answer.status_code, answer.content) == (303, b"")
            assert answer.headers["location"].startswith("/pair")
        assert_problem(stranger.post("/api/frames", content=b"x"), 401, "not let in")
        page = stranger.get("/pair")
    assert page.status_code == 200
    assert "Pair this device" in page.text
    assert "frame-ancestors 'none'" in page.headers["content-security-policy"]
    assert page.headers["x-frame-options"] == "DENY"
    assert page.headers["cache-control"] == "no-store"


def test_a_paired_device_works_and_its_steps_carry_the_name(shared: Shared) -> None:
    visit = a_visit(shared)
    with shared.device(shared.token(name="Ada")) as phone:
        assert phone.get("/api/me").json() == {"name": "Ada", "role": "helper", "shared": True}
        assert "<title>" in phone.get("/").text
        step = {"step": "air", "against": "a test", "use": {"opening": "down"}}
        assert phone.post(f"/api/visits/{visit}/steps", json=step).status_code == 201
    shared.home.post(f"/api/visits/{visit}/steps", json=step)
    trail = shared.home.get(f"/api/visits/{visit}").json()["trail"]
    assert [item["step"]["who"] for item in trail] == ["Ada", ""]
    [device] = shared.home.get("/api/sharing").json()["devices"]
    assert (device["name"], device["role"]) == ("Ada", "helper")
    assert device["last_used_at"] is not None


def test_a_phone_sends_the_retest_frame_from_its_own_card(shared: Shared, small_jpeg: Path) -> None:
    visit = a_visit(shared)
    with shared.device(shared.token()) as phone:
        sent = phone.post(
            "/api/frames",
            params={"name": "card.jpg", "visit": visit},
            content=small_jpeg.read_bytes(),
            timeout=60,
        )
        assert sent.status_code == 201, sent.text
        [item] = phone.get(f"/api/visits/{visit}").json()["trail"]
    assert item["frame"]["name"] == "card.jpg"
    with shared.device(shared.token("viewer")) as viewer:
        assert_problem(viewer.post("/api/frames", content=b"x"), 403, "may not")


@pytest.mark.long
def test_each_role_is_refused_what_it_may_not(shared: Shared) -> None:
    visit = a_visit(shared)
    with shared.device(shared.token("viewer", "Vi")) as viewer:
        assert viewer.get(f"/api/visits/{visit}").status_code == 200
        assert_problem(viewer.put("/api/settings", json={}), 403, "Vi may not do this as viewer")
        assert_problem(viewer.post(f"/api/visits/{visit}/steps", json={}), 403, "may not")
        assert_problem(viewer.get("/api/sharing"), 403, "may not")
    with shared.device(shared.token("helper")) as helper:
        assert_problem(helper.put("/api/settings", json={"spot_limit": 1}), 403, "may not")
        assert_problem(helper.delete("/api/bodies/1"), 403, "may not")
        assert_problem(helper.get("/api/backup"), 403, "may not")
    with shared.device(shared.token("owner")) as owner:
        assert owner.put("/api/settings", json={"spot_limit": 9}).status_code == 200
        assert len(owner.get("/api/sharing").json()["devices"]) == 3
    assert shared.home.get("/api/settings").json()["spot_limit"] == 9


def test_guessing_codes_gets_nobody_in(shared: Shared) -> None:
    code = shared.code("owner")
    with shared.device() as stranger:
        for n in range(30):
            guess = f"{(int(code) + 1 + n) % 10**6:06d}"
            answer = stranger.post("/pair", data={"name": "Eve", "code": guess})
            assert answer.status_code == 403
            assert COOKIE not in answer.cookies
        late = stranger.post("/pair", data={"name": "Eve", "code": code})
    assert late.status_code == 403
    assert "Too many wrong codes" in late.text
    assert shared.home.get("/api/sharing").json()["devices"] == []
    transport = httpx.HTTPTransport(verify=trusting(), local_address="127.0.0.5")
    with httpx.Client(
        base_url=shared.url, transport=transport, headers={"origin": shared.url}
    ) as other:
        answer = other.post("/pair", data={"name": "Ada", "code": code})
        assert answer.status_code == 303, "a stranger's guesses shut out nobody else"


def test_a_code_is_not_good_twice(shared: Shared) -> None:
    code = shared.code()
    with shared.device() as one:
        assert one.post("/pair", data={"name": "Ada", "code": code}).status_code == 303
        again = one.post("/pair", data={"name": "Eve", "code": code})
    assert again.status_code == 403
    assert len(shared.home.get("/api/sharing").json()["devices"]) == 1


def test_a_stolen_token_opens_nothing_once_the_device_is_removed(shared: Shared) -> None:
    token = shared.token()
    [device] = shared.home.get("/api/sharing").json()["devices"]
    with shared.device(token) as thief:
        assert thief.get("/api/frames").status_code == 200
        assert shared.home.delete(f"/api/sharing/devices/{device['id']}").status_code == 200
        assert_problem(thief.get("/api/frames"), 401, "not let in")
        assert thief.get("/").headers["location"] == "/pair?to=/"


def test_what_a_removed_device_follows_ends(shared: Shared) -> None:
    visit = a_visit(shared)
    token = shared.token()
    [device] = shared.home.get("/api/sharing").json()["devices"]
    begun, ended = threading.Event(), threading.Event()

    def follow() -> None:
        with (
            shared.device(token) as phone,
            phone.stream("GET", f"/api/events?visit={visit}", timeout=None) as answer,
        ):
            for _ in answer.iter_lines():
                begun.set()
        ended.set()

    thread = threading.Thread(target=follow)
    thread.start()
    begun.wait()
    shared.home.delete(f"/api/sharing/devices/{device['id']}")
    shared.home.put(f"/api/visits/{visit}/conditions", json={"experience": "expert"})
    thread.join()
    assert ended.is_set()


@pytest.mark.long
@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "https://evil.example"},
        {"origin": "null"},
        {"origin": "http://127.0.0.1:8719"},
        {"host": "evil.example"},
        {"host": ELSEWHERE},
        {"host": "localhost"},
    ],
)
def test_foreign_hosts_and_origins_are_refused(shared: Shared, headers: dict[str, str]) -> None:
    with shared.device(shared.token("owner")) as phone:
        for method, path in (("GET", "/api/frames"), ("POST", "/pair"), ("GET", "/pair")):
            answer = phone.request(method, path, headers=headers)
            assert answer.status_code == 403, (method, path)


def test_a_cross_site_post_without_an_origin_is_refused(shared: Shared) -> None:
    token = shared.token("owner")
    with httpx.Client(base_url=shared.url, verify=trusting()) as silent:
        answer = silent.post("/api/bodies", json={}, headers={"cookie": f"{COOKIE}={token}"})
    assert_problem(answer, 403, "other web pages")


def test_the_cookie_is_the_browsers_alone(shared: Shared) -> None:
    with shared.device() as one:
        answer = one.post(
            "/pair", data={"name": "Ada", "code": shared.code(), "to": "//evil.example"}
        )
    said = answer.headers["set-cookie"]
    assert answer.headers["location"] == "/"
    for word in ("Secure", "HttpOnly", "SameSite=strict", "Path=/"):
        assert word.lower() in said.lower()
    assert "Domain" not in said


@pytest.mark.parametrize(
    "cookie", ["", "x", f"{COOKIE}=", f"{COOKIE}=../..", f"{COOKIE}=a; {COOKIE}=b", "=;=;,"]
)
def test_broken_cookies_are_no_cookies(shared: Shared, cookie: str) -> None:
    with shared.device() as stranger:
        answer = stranger.get("/api/me", headers={"cookie": cookie})
    assert_problem(answer, 401, "not let in")


def test_the_pairing_page_takes_no_long_or_odd_forms(shared: Shared) -> None:
    with shared.device() as stranger:
        for body in (b"x" * 100_000, b"\xff\xfe", b"", b"name=a&name=b&code"):
            assert stranger.post("/pair", content=body).status_code == 403
        assert_problem(stranger.put("/pair", content=b""), 405, "no other")
        marked = stranger.post("/pair", data={"name": "<b>\"'", "code": "1", "to": '"><script>'})
    assert "<b>" not in marked.text
    assert "<script>" not in marked.text.replace("</form>", "").split("<script>\nconst")[0]


def test_a_link_shows_one_report_and_nothing_else(shared: Shared) -> None:
    visit = a_visit(shared)
    made = shared.home.post("/api/sharing/links", json={"visit_id": visit, "days": 3}).json()
    with shared.device() as customer:
        report = customer.get(made["url"])
        assert report.status_code == 200
        assert "Sensor report" in report.text
        assert report.headers["cache-control"] == "no-store"
        assert "default-src 'none'" in report.headers["content-security-policy"]
        token = made["url"].rsplit("/", 1)[1]
        cookie = {"cookie": f"{COOKIE}={token}"}
        assert_problem(customer.get("/api/visits/1", headers=cookie), 401, "not let in")
        assert_problem(customer.post(made["url"]), 404, "link is over")
        assert_problem(customer.get("/report/nobody"), 404, "link is over")
        [link] = shared.home.get("/api/sharing").json()["devices"]
        assert (link["role"], link["visit_id"]) == ("report", visit)
        shared.home.delete(f"/api/sharing/devices/{link['id']}")
        assert_problem(customer.get(made["url"]), 404, "link is over")
    missing = shared.home.post("/api/sharing/links", json={"visit_id": 99})
    assert_problem(missing, 404, "no such")


@pytest.mark.long
def test_it_is_off_until_it_is_turned_on_and_localhost_goes_on(tmp_path: Path, page: Path) -> None:
    options = options_for(page, workers=0, share_on=ELSEWHERE, share_port=0)
    with (
        served(create_app(Library(tmp_path / "data"), options)) as url,
        httpx.Client(base_url=url) as home,
    ):
        assert home.get("/api/sharing").json()["on"] is False
        assert_problem(home.post("/api/sharing/offers", json={}), 409, "Turn sharing on")
        assert_problem(home.post("/api/sharing/links", json={"visit_id": 1}), 409, "Turn sharing")
        state = home.put("/api/sharing", json={"on": True}).json()
        again = home.put("/api/sharing", json={"on": True}).json()
        assert state["on"]
        assert again["url"] == state["url"]
        assert re.fullmatch(r"([0-9A-F]{2}:){31}[0-9A-F]{2}", state["fingerprint"])
        assert httpx.get(f"{state['url']}/pair", verify=trusting()).status_code == 200
        offer = home.post("/api/sharing/offers", json={"to": "/visits/4"}).json()
        assert offer["url"] == f"{state['url']}/pair?to=/visits/4"
        assert offer["qr"].startswith("data:image/svg+xml")
        assert home.get("/api/sharing").json()["waiting"] is True
        assert home.delete("/api/sharing/offers").json()["waiting"] is False
        assert home.put("/api/sharing", json={"on": False}).json()["on"] is False
        with pytest.raises(httpx.ConnectError):
            httpx.get(f"{state['url']}/pair", verify=trusting())
        assert home.get("/api/me").json() == {"name": "", "role": "owner", "shared": False}


def test_an_owners_device_may_end_sharing_and_is_told(shared: Shared) -> None:
    with shared.device(shared.token("owner")) as phone:
        answer = phone.put("/api/sharing", json={"on": False})
        assert answer.json()["on"] is False
    while True:  # The door closes once the answer is out.
        try:
            httpx.get(f"{shared.url}/pair", verify=trusting())
        except httpx.HTTPError:
            break
    assert shared.home.get("/api/sharing").json()["on"] is False


def test_a_port_that_is_taken_is_said(shared: Shared, tmp_path: Path, page: Path) -> None:
    port = int(shared.url.rsplit(":", 1)[1])
    options = options_for(page, workers=0, share_on=ELSEWHERE, share_port=port)
    app = create_app(Library(tmp_path / "other"), options)
    with served(app) as url, httpx.Client(base_url=url) as home:
        assert_problem(home.put("/api/sharing", json={"on": True}), 422, f"port {port}")
        assert home.get("/api/sharing").json()["on"] is False


def test_a_server_that_cannot_share_says_so_and_serves_at_home(
    shared: Shared, tmp_path: Path, page: Path, caplog: pytest.LogCaptureFixture
) -> None:
    port = int(shared.url.rsplit(":", 1)[1])
    options = options_for(page, workers=0, share=True, share_on=ELSEWHERE, share_port=port)
    with served(create_app(Library(tmp_path / "other"), options)) as url:
        assert httpx.get(f"{url}/api/health").status_code == 200
    assert f"Not shared: cannot serve on {ELSEWHERE} port {port}" in caplog.text


def test_old_tls_and_plain_http_get_nothing(shared: Shared) -> None:
    with pytest.raises(httpx.HTTPError):
        httpx.get(shared.url.replace("https://", "http://") + "/pair")
    host, port = shared.url.removeprefix("https://").split(":")
    old = trusting()
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", DeprecationWarning)
        old.minimum_version = old.maximum_version = ssl.TLSVersion.TLSv1_1
    with socket.create_connection((host, int(port))) as plain, pytest.raises(ssl.SSLError):
        old.wrap_socket(plain)
    with (
        socket.create_connection((host, int(port))) as plain,
        trusting().wrap_socket(plain) as secure,
    ):
        assert secure.version() in ("TLSv1.2", "TLSv1.3")


def test_pairings_are_logged_without_what_they_open(
    shared: Shared, caplog: pytest.LogCaptureFixture
) -> None:
    caplog.set_level("INFO")
    code = shared.code()
    wrong = f"{(int(code) + 1) % 10**6:06d}"
    with shared.device() as one:
        one.post("/pair", data={"name": "Eve", "code": wrong})
        token = one.post("/pair", data={"name": "Ada", "code": code}).cookies[COOKIE]
    [device] = shared.home.get("/api/sharing").json()["devices"]
    shared.home.delete(f"/api/sharing/devices/{device['id']}")
    for words in ("was not let in", "was let in", "was shut out"):
        assert words in caplog.text
    for secret in (code, wrong, token):
        assert secret not in caplog.text


def fill_path(path: str) -> str:
    return re.sub(r"\{[^}]*\}", "1", path)


@pytest.mark.long
def test_the_whole_description_is_walked_as_stranger_viewer_helper_and_owner(
    shared: Shared,
) -> None:
    levels = {"viewer": 1, "helper": 2, "owner": 3}
    skipped = {("PUT", "/api/sharing"), ("GET", "/api/events")}
    operations = [o for o in table().items() if o[0] not in skipped]
    tokens = {role: shared.token(role) for role in levels}
    with shared.device() as stranger:
        for (method, path), _ in operations:
            assert stranger.request(method, fill_path(path)).status_code == 401, (method, path)
    for role, token in tokens.items():
        with shared.device(token) as device:
            for (method, path), least in operations:
                if path.endswith("/events"):
                    continue
                if role == "owner" and (method, path) == (
                    "DELETE",
                    "/api/sharing/devices/{device_id}",
                ):
                    continue
                status = device.request(method, fill_path(path)).status_code
                assert (status == 403) == (levels[role] < levels[least]), (role, method, path)
                assert status < 500 or status == 503, (role, method, path)


@pytest.mark.long
def test_a_strangers_connections_shut_out_nobody_but_the_stranger(
    shared: Shared, caplog: pytest.LogCaptureFixture
) -> None:
    host, port = shared.url.removeprefix("https://").split(":")

    def reach(source: str) -> socket.socket:
        return socket.create_connection((host, int(port)), source_address=(source, 0), timeout=60)

    def is_open(connection: socket.socket) -> bool:
        """Told by TLS: what was closed answers no greeting."""
        try:
            connection.settimeout(60)
            trusting().wrap_socket(connection, do_handshake_on_connect=True).close()
        except OSError:
            return False
        return True

    crowd = [reach("127.0.0.3") for _ in range(120)]
    assert shared.home.get("/api/settings").status_code == 200
    other = reach("127.0.0.4")
    assert is_open(other)
    answered = [is_open(connection) for connection in crowd]
    assert 0 < sum(answered) <= 45
    for connection in crowd:
        connection.close()
    told = [r for r in caplog.records if "Too many connections at once" in r.message]
    assert len(told) == 1
    while not is_open(again := reach("127.0.0.3")):
        """Their end may not have reached the server yet."""
    again.close()


@pytest.mark.long
def test_a_silent_handshake_is_ended(
    tmp_path: Path, page: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(serving, "_BOUNDS", Bounds(most=20, most_each=20, handshake_s=0.3))
    library = Library(tmp_path / "data")
    options = options_for(page, workers=0, share=True, share_on=ELSEWHERE, share_port=0)
    with served(create_app(library, options)) as url:
        shared_url = httpx.get(f"{url}/api/sharing").json()["url"]
        host, port = shared_url.removeprefix("https://").split(":")
        with socket.create_connection((host, int(port)), timeout=60) as silent:
            assert silent.recv(100) == b""
        with httpx.Client(base_url=shared_url, verify=trusting()) as device:
            assert device.get("/pair").status_code == 200


def test_whole_paths_of_the_machine_are_the_owners_to_know(shared: Shared, tmp_path: Path) -> None:
    folder = tmp_path / "holiday"
    folder.mkdir()
    body = shared.home.post(
        "/api/bodies", json={"name": "P", "sensor_mm": [23.5, 15.6], "access": "mirrorless"}
    ).json()["id"]
    with shared.library.database.write() as connection:
        connection.execute(
            "INSERT INTO picture_sets (body_id, kind, folder, out_folder, work, state, error, "
            "created_at) VALUES (?, 'arrivals', ?, ?, 'search', 'failed', ?, 't')",
            (body, str(folder), str(tmp_path / "out"), f"{folder}: gone"),
        )
    for role in ("viewer", "helper"):
        with shared.device(shared.token(role)) as device:
            for url in ("/api/picture-sets", "/api/picture-sets/1"):
                answer = device.get(url)
                assert answer.status_code == 200
                assert str(tmp_path) not in answer.text
                assert "holiday" in answer.text
    with shared.device(shared.token("owner")) as owner:
        assert str(folder) in owner.get("/api/picture-sets/1").text
