"""The password of a server, and who has signed in.

Kept as an Argon2id hash (RFC 9106, with the parameters of argon2-cffi) and as hashes of random tokens: what lies in the
data folder lets nobody in.
"""

import hashlib
import secrets
import threading
from datetime import timedelta
from typing import Final

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, select

from wedge_turn.core.errors import BadRequestError
from wedge_turn.store.database import Database
from wedge_turn.store.rows import Password, SignIn, now

MIN_PASSWORD: Final = 10
MAX_PASSWORD: Final = 1_000
SESSION_LIFETIME: Final = timedelta(days=30)


class Access:
    def __init__(self, database: Database) -> None:
        self._database = database
        self._hasher = PasswordHasher()
        self._lock = threading.Lock()  # guards what follows
        with database.reading() as session:
            self._known = {row.token: row.created for row in session.scalars(select(SignIn))}

    @property
    def has_password(self) -> bool:
        with self._database.reading() as session:
            return session.get(Password, 1) is not None

    def set_password(self, password: str) -> None:
        """Set or change the password, and sign everybody out. Raises BadRequestError for one that is too short."""
        if not MIN_PASSWORD <= len(password) <= MAX_PASSWORD:
            raise BadRequestError(f"A password has {MIN_PASSWORD} to {MAX_PASSWORD:,} characters")
        hashed = self._hasher.hash(password)
        with self._database.changing() as session:
            session.merge(Password(id=1, hash=hashed))
            session.execute(delete(SignIn))
        with self._lock:
            self._known.clear()

    def is_password(self, password: str) -> bool:
        """Whether this is the password; takes a tenth of a second or so, for whoever tries many."""
        with self._database.reading() as session:
            row = session.get(Password, 1)
        if row is None or len(password) > MAX_PASSWORD:
            return False
        try:
            return self._hasher.verify(row.hash, password)
        except (VerificationError, InvalidHashError):
            return False

    def sign_in(self) -> str:
        """A token for a browser that has said the password; it lasts for 30 days."""
        token = secrets.token_urlsafe(32)
        with self._database.changing() as session:
            session.execute(delete(SignIn).where(SignIn.created < now() - SESSION_LIFETIME))
            session.add(SignIn(token=_hash(token), created=now()))
        with self._lock:
            self._known[_hash(token)] = now()
        return token

    def is_signed_in(self, token: str) -> bool:
        with self._lock:
            since = self._known.get(_hash(token))
        return since is not None and now() - since < SESSION_LIFETIME

    def sign_out(self, token: str) -> None:
        with self._lock:
            self._known.pop(_hash(token), None)
        with self._database.changing() as session:
            session.execute(delete(SignIn).where(SignIn.token == _hash(token)))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
