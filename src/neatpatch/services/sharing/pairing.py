"""Letting devices in: a code of six digits that lives two minutes, then a token.

A code is used once. Wrong tries count by the address they come from and only while a code is open,
so that a stranger's guesses shut out the stranger and nobody else. Of tokens only the SHA-256 is
kept: they are 256 random bits, so that no slow hash is needed.
"""

from __future__ import annotations

import hashlib
import hmac
import logging
import secrets
import threading
from collections import OrderedDict, deque
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from neatpatch.core.common.errors import BadArgumentError, NeatPatchError
from neatpatch.core.common.records import plain_text
from neatpatch.store import devices as rows
from neatpatch.store.datafolder import Library
from neatpatch.store.devices import NewDevice, Role, StoredDevice

CODE_LIVES = timedelta(minutes=2)
MOST_WRONG, WRONG_WITHIN = 5, timedelta(minutes=10)
"""Wrong tries from one address; then it must wait."""
MOST_TRIES = 100
"""Wrong tries that one code takes from all addresses together: one chance in ten thousand."""
_MOST_ADDRESSES = 1000
"""Remembered; those tried last are kept."""
UNUSED_ENDS = timedelta(days=90)
"""A device that was not seen for so long must be paired again."""
_NOTE_USE_EVERY = timedelta(minutes=1)
LONGEST_NAME = 40


_log = logging.getLogger("neatpatch.sharing")


class NotLetInError(NeatPatchError):
    """A code or token that opens nothing; says why and what to do."""


@dataclass(frozen=True)
class Offer:
    """A code to pair a device by."""

    code: str
    role: Role
    expires_at: datetime


class PairingDesk:
    """Who is let in. One for a server; codes live in its memory alone."""

    def __init__(
        self, library: Library, clock: Callable[[], datetime] = lambda: datetime.now(UTC)
    ) -> None:
        self._library, self._clock = library, clock
        self._lock = threading.Lock()
        self._offer: Offer | None = None
        self._tries = 0
        self._wrong: OrderedDict[str, deque[datetime]] = OrderedDict()
        self._shut_out = 0
        """How often anybody was shut out: what was looked up before may not hold any more."""
        self._known: dict[str, StoredDevice] = {}
        self._noted: dict[int, datetime] = {}

    def offer(self, role: Role) -> Offer:
        """A fresh code; one given before is void."""
        with self._lock:
            code = f"{secrets.randbelow(10**6):06d}"
            self._offer = Offer(code, role, self._clock() + CODE_LIVES)
            self._tries = 0
            return self._offer

    def withdraw(self) -> None:
        """The code that was given is void."""
        with self._lock:
            self._offer = None

    @property
    def waiting(self) -> bool:
        """Whether a code waits to be used."""
        with self._lock:
            return self._offer is not None and self._clock() < self._offer.expires_at

    def pair(self, code: str, name: str, label: str, address: str = "") -> str:
        """Let a device in that knows the code; gives its token. ``address``: where it asks from.

        Raises `NotLetInError` for a wrong, used or dead code and after too many wrong tries,
        `BadArgumentError` where nobody is named.
        """
        name = shown_name(name)
        if not 0 < len(name) <= LONGEST_NAME:
            raise BadArgumentError(f"Say who is working, in 1 to {LONGEST_NAME} letters.")
        role = self._spend(code, address)
        return self._let_in(name, label, role)

    def _spend(self, code: str, address: str) -> Role:
        with self._lock:
            now = self._clock()
            offer = self._offer
            if offer is None or now >= offer.expires_at:
                self._offer = None
                raise NotLetInError(
                    "This code is over. Press Show on phone again for a new one: it lives two "
                    "minutes."
                )
            wrong = self._wrong_from(address, now)
            if len(wrong) >= MOST_WRONG:
                raise NotLetInError(
                    "Too many wrong codes were tried from this device. Wait ten minutes, then ask "
                    "for a new code."
                )
            if not hmac.compare_digest(offer.code.encode(), code.strip().encode()):
                wrong.append(now)
                self._tries += 1
                if self._tries >= MOST_TRIES:
                    self._offer = None
                raise NotLetInError("This is not the code. Look at the other screen once more.")
            self._offer = None
            return offer.role

    def _wrong_from(self, address: str, now: datetime) -> deque[datetime]:
        """Wrong tries from an address that count still."""
        wrong = self._wrong.setdefault(address, deque(maxlen=MOST_WRONG))
        self._wrong.move_to_end(address)
        while len(self._wrong) > _MOST_ADDRESSES:
            self._wrong.popitem(last=False)
        while wrong and now - wrong[0] > WRONG_WITHIN:
            wrong.popleft()
        return wrong

    def link(self, visit_id: int, days: int) -> tuple[str, str]:
        """A token that opens one visit's report for so many days, and when it ends."""
        ends = (self._clock() + timedelta(days=days)).isoformat(timespec="seconds")
        return self._let_in("Link to a report", "", "report", visit_id, ends), ends

    def _let_in(
        self,
        name: str,
        label: str,
        role: Role,
        visit_id: int | None = None,
        ends: str | None = None,
    ) -> str:
        token = secrets.token_urlsafe(32)
        with self._library.database.write() as connection:
            rows.add_device(
                connection,
                NewDevice(
                    name=name,
                    label=label[:80],
                    role=role,
                    token_hash=hash_of(token),
                    visit_id=visit_id,
                    expires_at=ends,
                ),
            )
        return token

    def device(self, token: str) -> StoredDevice | None:
        """The device a token belongs to; None where it opens nothing, any more or at all."""
        found = self._find(hash_of(token))
        if found is None:
            return None
        if self._is_over(found):
            self.shut_out(found.id)
            return None
        self._note_use(found)
        return found

    def _find(self, key: str) -> StoredDevice | None:
        """By what is kept of its token. One shut out while it is looked up is not let in."""
        while True:
            with self._lock:
                found, shut_out = self._known.get(key), self._shut_out
            if found is not None:
                return found
            with self._library.database.read() as connection:
                found = rows.by_hash(connection, key)
            if found is None:
                return None
            with self._lock:
                if shut_out == self._shut_out:
                    self._known[key] = found
                    return found

    def _is_over(self, device: StoredDevice) -> bool:
        now = self._clock()
        if device.expires_at is not None:
            return now >= datetime.fromisoformat(device.expires_at)
        seen = self._noted.get(device.id) or datetime.fromisoformat(
            device.last_used_at or device.paired_at
        )
        return now - seen > UNUSED_ENDS

    def _note_use(self, device: StoredDevice) -> None:
        now = self._clock()
        noted = self._noted.get(device.id)
        if noted is not None and now - noted < _NOTE_USE_EVERY:
            return
        self._noted[device.id] = now
        with self._library.database.write(durable=False) as connection:
            rows.used(connection, device.id)

    def is_known(self, device: StoredDevice) -> bool:
        """Whether one that was let in still is; asked while it follows a stream."""
        with self._lock:
            return any(d.id == device.id for d in self._known.values())

    def devices(self) -> list[StoredDevice]:
        """All that are let in, the newest first."""
        with self._library.database.read() as connection:
            return rows.all_devices(connection)

    def shut_out(self, device_id: int) -> None:
        """Its token opens nothing from now on, and what it follows ends."""
        with self._library.database.write() as connection:
            rows.shut_out(connection, device_id)
        with self._lock:
            self._shut_out += 1
            self._known = {k: d for k, d in self._known.items() if d.id != device_id}
            self._noted.pop(device_id, None)
        _log.info("device %d was shut out", device_id)


_UNSHOWN = frozenset(
    "\u061c\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\ufeff"
)
"""Marks that turn the direction of what stands beside them, or show nothing at all."""


def shown_name(name: str) -> str:
    """A name as it can be shown beside others: one line, without controls and turning marks."""
    kept = "".join(c for c in plain_text(name) if c not in _UNSHOWN)
    return " ".join(kept.split())


def hash_of(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()
