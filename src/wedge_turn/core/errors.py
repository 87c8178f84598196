"""Everything that can go wrong on purpose.

    WedgeTurnError
      NotAudioError          not-audio           the bytes are no audio file that can be read
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
          SideUnknownError   side-unknown        the names don't say which is left
          OutsideRangeError  outside-range       nothing of a clip lies in the range of a delivery
      NotFoundError          not-found           no such job, file, step, ...
        MissingError         missing             a kept file is gone from the data folder
      ConflictError
        StaleError           stale               somebody else changed the worksheet meanwhile
        ExistsError          exists              a file of that name is there already
        NothingToDoError     nothing-to-do       no step back or forward from here
      UploadBrokenError      upload-broken       the connection ended before the file did
      TooLargeError          too-large           more was sent than is taken in one request
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


class WedgeTurnError(Exception):
    code: ClassVar[str] = "error"
    help: ClassVar[str] = "Try again; if it happens again, keep the file and report it."

    def __init__(self, message: str) -> None:
        super().__init__(message)
        self.message = message


class NotAudioError(WedgeTurnError):
    code = "not-audio"
    help = "Check that this is the audio file itself, not a project, a shortcut or a web page with its name."


class BrokenAudioError(WedgeTurnError):
    code = "broken-audio"
    help = "Get the file again from where it came from."


class TruncatedError(BrokenAudioError):
    code = "truncated"
    help = "The copy broke off, or the recorder lost power: copy the file again from where it came from."


class NoFramesError(BrokenAudioError):
    code = "no-frames"
    help = "The file has a header and no sound: export or copy it again."


class BadHeaderError(BrokenAudioError):
    code = "bad-header"
    help = "The header is damaged: get the file again from where it came from."


class ChangedError(BrokenAudioError):
    code = "changed"
    help = "Something else wrote to this file. Get it again from where it came from and add it once more."


class LimitError(WedgeTurnError):
    code = "out-of-limits"
    help = "Files of 1 to 64 channels at 1 kHz to 768 kHz can be taken in."


class InputError(WedgeTurnError):
    code = "input"
    help = "Change what was given and try again."


class BadNameError(InputError):
    code = "bad-name"
    help = "Give the file a name of its own, without a folder."


class BadRequestError(InputError):
    code = "bad-request"
    help = "Use one of the values that are named, or one within the limits."


class TurnInputError(InputError):
    code = "turn-input"
    help = "Choose clips that this turn takes."


class RateDiffersError(TurnInputError):
    code = "rate-differs"
    help = "Bring the files to one sample rate first; changing it here would change every sample."


class SideUnknownError(TurnInputError):
    code = "side-unknown"
    help = "Say which is left: list the left file first and choose the order as given."


class OutsideRangeError(TurnInputError):
    code = "outside-range"
    help = "Change the range, or leave these files out of the delivery."


class NotFoundError(WedgeTurnError):
    code = "not-found"
    help = "It may have been moved or deleted meanwhile: look again."


class MissingError(NotFoundError):
    code = "missing"
    help = "Add the same file once more: it takes its place again, and everything made from it works as before."


class ConflictError(WedgeTurnError):
    code = "conflict"
    help = "Look at the current state and try again."


class StaleError(ConflictError):
    code = "stale"
    help = "Another window changed the worksheet: it has been loaded again, make the change once more."


class ExistsError(ConflictError):
    code = "exists"
    help = "Choose another folder, or allow overwriting."


class NothingToDoError(ConflictError):
    code = "nothing-to-do"
    help = "There is no step in that direction."


class UploadBrokenError(WedgeTurnError):
    code = "upload-broken"
    help = "The connection ended before the file did: drop the file again."


class TooLargeError(WedgeTurnError):
    code = "too-large"
    help = "Send less at once."


class DataFolderError(WedgeTurnError):
    code = "data-folder"
    help = "Or choose another folder with --data."


class UnreadableError(WedgeTurnError):
    code = "unreadable"
    help = "Use the version that stored it, or go to an earlier revision; nothing else is affected."


class DiskFullError(WedgeTurnError):
    code = "disk-full"
    help = "Make room on the disk, then try again."


class ProofFailedError(WedgeTurnError):
    code = "proof-failed"
    help = "Nothing was delivered. Check the disk, then deliver again."


class StoppedError(WedgeTurnError):
    code = "stopped"
    help = "Start it again when you want it."


_NO_ROOM: Final = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


@contextmanager
def naming_disk_errors(name: str) -> Iterator[None]:
    """Turn the system's "no room" errors into one that names the file being written."""
    try:
        yield
    except OSError as error:
        if error.errno in _NO_ROOM:
            raise DiskFullError(f"{name} could not be written: there is no room left on the disk") from error
        raise


def of_system(error: Exception, name: str) -> WedgeTurnError:
    """An error of the system or of a library as one of ours, without its inner parts; `name` is what was worked on."""
    if isinstance(error, WedgeTurnError):
        return error
    full = isinstance(error, OSError) and error.errno in _NO_ROOM
    if full or "disk is full" in str(error):
        return DiskFullError(f"{name}: there is no room left on the disk")
    if isinstance(error, OSError) and error.strerror:
        return WedgeTurnError(f"{Path(str(error.filename)).name if error.filename else name}: {error.strerror}")
    return WedgeTurnError(f"{name}: something went wrong inside; the log says what")


def all_errors() -> list[type[WedgeTurnError]]:
    """Every error of the tree, each once, parents before children."""

    def below(cls: type[WedgeTurnError]) -> Iterator[type[WedgeTurnError]]:
        yield cls
        for child in cls.__subclasses__():
            yield from below(child)

    return list(below(WedgeTurnError))
