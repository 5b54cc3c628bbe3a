"""The one exception tree. Every message says what is wrong and what to do."""


class NeatPatchError(Exception):
    """Base of all errors that a user can cause and mend."""


class UnusableFrameError(NeatPatchError):
    """The bytes given are not a picture that can be measured."""


class LimitExceededError(UnusableFrameError):
    """The file is larger, in bytes or pixels, than this installation accepts."""


class BadArgumentError(NeatPatchError):
    """A value given by the caller is outside what is possible."""


class CancelledError(NeatPatchError):
    """The user stopped the work."""
