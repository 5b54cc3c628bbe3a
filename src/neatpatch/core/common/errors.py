"""The one exception tree. Every message says what is wrong and what to do."""


class NeatPatchError(Exception):
    """Base of all errors that a user can cause and mend."""


class UnusableFrameError(NeatPatchError):
    """The bytes given are not a picture that can be measured."""


class LimitExceededError(UnusableFrameError):
    """The file is larger, in bytes or pixels, than this installation accepts."""


class NoMemoryError(LimitExceededError):
    """The picture needs more memory than a measuring process may take."""


class AlteredOriginalError(UnusableFrameError):
    """A stored original is missing, or is no longer what was once taken in."""

    def __init__(self, sha256: str, detail: str) -> None:
        super().__init__(detail)
        self.sha256 = sha256


class BadArgumentError(NeatPatchError):
    """A value given by the caller is outside what is possible."""


class NotThereError(NeatPatchError):
    """What was asked for does not exist, or no longer."""


class ConflictError(NeatPatchError):
    """Not possible as things stand."""


class ChangedElsewhereError(ConflictError):
    """It was changed elsewhere since the caller looked at it; nothing was overwritten."""


class QuestionError(ConflictError):
    """Not done yet: it needs an answer first. ``kind`` names the question for the page."""

    def __init__(self, kind: str, detail: str) -> None:
        super().__init__(detail)
        self.kind = kind


class BusyError(NeatPatchError):
    """Too much is asked for at once, or the disk does not take it; later it may work."""


def sentence(text: str) -> str:
    """A message as it is shown by itself: beginning with a capital letter."""
    return text[:1].upper() + text[1:]
