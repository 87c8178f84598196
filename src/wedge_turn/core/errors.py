"""Everything that can go wrong on purpose.

Error:
      NotAudioError          not-audio           the bytes are not a readable audio file
        NoSoundError         no-sound            a movie without a sound track
        MediaExtraMissingError  media-extra      what reads movies is not installed
      BrokenAudioError
        TruncatedError       truncated           the file ends before its header says so
        NoFramesError        no-frames           a header and no samples
        BadHeaderError       bad-header          the header contradicts itself
        ChangedError         changed             the file is not the one that came in
      LimitError             out-of-limits       channels or rate nobody records with
      InputError
        BadNameError         bad-name            a name no file can have
        BadRequestError      bad-request         a value outside what is allowed
        TurnInputError       turn-input          the turn does not take these clips
          RateDiffersError   rate-differs        clips of different sample rates
          ChannelUnknownError side-unknown       the names don't say which is left
          OutsideRangeError  outside-range       nothing of a clip lies in the range of a delivery
      NotFoundError          not-found           no such job, file, step, ...
        MissingError         missing             a kept file is gone from the data folder
      ConflictError
        StaleError           stale               somebody else changed the worksheet meanwhile
        ExistsError          exists              a file of that name already exists
        NothingToDoError     nothing-to-do       no step back or forward from here
      UploadBrokenError      upload-broken       the connection ended before the file did
      TooLargeError          too-large           more was sent than is taken in one request
      SignInError            sign-in             this server asks for its password first
      WrongPasswordError     wrong-password      not the password
      TooManyTriesError      too-many-tries      wrong too often in a short time
      DataFolderError        data-folder         the data folder cannot be used
      UnreadableError        unreadable          stored by another version, or damaged
      DiskFullError          disk-full           no room left
      ProofFailedError       proof-failed        what was written is not what was meant
      StoppedError           stopped             stopped by the user

Every message says which file or value, what is allowed and what follows; none holds a path of this machine.
`code` is stable and part of the interface; `help` says in one line what to do about it.
"""

import errno
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import ClassVar, Final


class Error(Exception):
    """`file` is the name of the file that it is about, `line` the number of the line of the worksheet, from 1; None
    where there is none.
    """

    code: ClassVar[str] = "error"
    help: str = "Try again; if it happens again, keep the file and report it."
    file: str | None = None
    line: int | None = None

    def __init__(self, message: str, help: str = "") -> None:
        """`help` says what to do where that of the class doesn't meet the case."""
        super().__init__(message)
        self.message = message
        self.help = help or type(self).help


class NotAudioError(Error):
    code = "not-audio"
    help = "Check that this is the audio file itself, not a project, a shortcut or a web page with its name."


class NoSoundError(NotAudioError):
    code = "no-sound"
    help = "The file has a picture and no sound track: ask for one with sound."


class MediaExtraMissingError(NotAudioError):
    code = "media-extra"
    help = "Install it with pip install 'wedge-turn[media]', and start again."


class BrokenAudioError(Error):
    code = "broken-audio"
    help = "Get a fresh copy of the file."


class TruncatedError(BrokenAudioError):
    """`usable` says how much of the file can be used, as 2:14.300 of 3:00.000; empty where that is nothing."""

    code = "truncated"
    help = "The copy was cut short, or the recorder lost power: copy the file again."

    def __init__(self, message: str, usable: str = "") -> None:
        super().__init__(message)
        self.usable = usable


class NoFramesError(BrokenAudioError):
    code = "no-frames"
    help = "The file has a header but no samples: export or copy it again."


class BadHeaderError(BrokenAudioError):
    code = "bad-header"
    help = "The header is damaged: get a fresh copy of the file."


class ChangedError(BrokenAudioError):
    code = "changed"
    help = "Another program changed this file. Add a fresh copy."


class LimitError(Error):
    code = "out-of-limits"
    help = "Files of 1 to 64 channels at 1 kHz to 768 kHz are supported."


class InputError(Error):
    code = "input"
    help = "Change the input and try again."


class BadNameError(InputError):
    code = "bad-name"
    help = "Give the file a name of its own, without a folder."


class BadRequestError(InputError):
    code = "bad-request"
    help = "Correct it and try again."


class TurnInputError(InputError):
    code = "turn-input"
    help = "Select clips that this turn accepts."


class RateDiffersError(TurnInputError):
    code = "rate-differs"
    help = "Resample one of them first."


class ChannelUnknownError(TurnInputError):
    code = "side-unknown"
    help = "Say which is left: list the left file first and choose the order as given."


class OutsideRangeError(TurnInputError):
    code = "outside-range"
    help = "Change the range, or leave these files out of the delivery."


class NotFoundError(Error):
    code = "not-found"
    help = "It may have been deleted or renamed meanwhile."


class MissingError(NotFoundError):
    code = "missing"
    help = "Add the same file again: everything made from it will work as before."


class ConflictError(Error):
    code = "conflict"
    help = "Reload and try again."


class StaleError(ConflictError):
    code = "stale"
    help = "The worksheet was changed in another window and has been reloaded. Make your change again."


class ExistsError(ConflictError):
    code = "exists"
    help = "Choose another folder, or allow overwriting."


class NothingToDoError(ConflictError):
    code = "nothing-to-do"
    help = "Nothing left to undo or redo."


class UploadBrokenError(Error):
    code = "upload-broken"
    help = "The connection was lost: drop the file again."


class TooLargeError(Error):
    code = "too-large"
    help = "Send less at once, or a smaller file."


class SignInError(Error):
    code = "sign-in"
    help = "Sign in with the server's password."


class WrongPasswordError(Error):
    code = "wrong-password"
    help = "Type it again. Whoever runs the server can change it with wedge-turn password."


class TooManyTriesError(Error):
    code = "too-many-tries"
    help = "Wait a minute, then try again."


class DataFolderError(Error):
    code = "data-folder"
    help = "Fix the folder, or choose another with --data."


class UnreadableError(Error):
    code = "unreadable"
    help = "Use the version that stored it, or restore an earlier one; nothing else is affected."


class DiskFullError(Error):
    code = "disk-full"
    help = "Free some disk space, then try again."


class ProofFailedError(Error):
    code = "proof-failed"
    help = "Nothing was delivered. Deliver again; if it fails again, check the disk and report it."


class StoppedError(Error):
    code = "stopped"
    help = "Start it again when you want it."


_DISK_FULL: Final = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


@contextmanager
def naming_disk_errors(name: str) -> Iterator[None]:
    """Turn the system's "no room" errors into one that names the file being written."""
    try:
        yield
    except OSError as error:
        if error.errno in _DISK_FULL:
            full = DiskFullError(f"{name} could not be written: the disk is full")
            full.file = name
            raise full from error
        raise


@contextmanager
def naming_file(name: str) -> Iterator[None]:
    """Note in errors which file they are about."""
    try:
        yield
    except Error as error:
        error.file = error.file or name
        raise


def from_system(error: Exception, name: str) -> Error:
    """An error of the system or of a library as one of ours, without its inner parts; `name` is what was worked on."""
    if isinstance(error, Error):
        return error
    full = isinstance(error, OSError) and error.errno in _DISK_FULL
    if full or "disk is full" in str(error):
        return DiskFullError(f"{name}: the disk is full")
    if isinstance(error, OSError) and error.strerror:
        return Error(f"{Path(str(error.filename)).name if error.filename else name}: {error.strerror}")
    return Error(f"{name}: internal error; see the log")


def all_errors() -> list[type[Error]]:
    """Every error of the tree, each once, parents before children."""

    def below(cls: type[Error]) -> Iterator[type[Error]]:
        yield cls
        for child in cls.__subclasses__():
            yield from below(child)

    return list(below(Error))
