"""Passwords as Argon2 hashes. Making one takes much memory on purpose: without it there is no verdict, right or
wrong."""

from threading import BoundedSemaphore

from argon2.exceptions import HashingError, InvalidHashError, VerificationError, VerifyMismatchError
from django.contrib.auth.hashers import Argon2PasswordHasher

_at_once = BoundedSemaphore(2)  # of the threads of one process: each needs 100 MB for a moment


class Argon2(Argon2PasswordHasher):
    """Django's, but for what it takes a failure for: there "there was no memory" is "the password is wrong"."""

    def encode(self, password: str, salt: str) -> str:
        """A new hash. MemoryError when there is no memory for it."""
        with _at_once:
            try:
                return super().encode(password, salt)
            except HashingError as error:
                raise MemoryError(str(error)) from error

    def verify(self, password: str, encoded: str) -> bool:
        """Whether a password is the one. MemoryError when that could not be found out."""
        library = self._load_library()
        _, rest = encoded.split("$", 1)
        with _at_once:
            try:
                return bool(library.PasswordHasher().verify("$" + rest, password))
            except (VerifyMismatchError, InvalidHashError):
                return False
            except VerificationError as error:
                raise MemoryError(str(error)) from error
