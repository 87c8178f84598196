"""What is done with files, as the commands of the same names do it."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Unpack, cast

from wedge_turn.core.batch import Choice, PreparedFolder, Tree, Verification, prepare_tree, verify_tree
from wedge_turn.core.delivery import ContainerName, DepthChoice, Progress
from wedge_turn.core.findings import FileFinding
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures
from wedge_turn.core.metadata import Recorded
from wedge_turn.core.session import Session, turn_files
from wedge_turn.core.turns import AnyTurn, Merge, Split, Turn
from wedge_turn.core.worksheet import RateChoice, Stretch, plan_turn, source_ref
from wedge_turn.library.clip import AnyPath
from wedge_turn.library.delivery import Delivery, Options, get_progress, order_clips


@dataclass(frozen=True)
class Inspection:
    """What a file is and holds.

    Attributes
    ----------
    name : str
        The file's name, without its ending.
    form : Form
        Channels, frames, rate in Hz, depth, format and start time.
    measures : Measures
        Levels, loudness, correlation and the like; dB relative to full scale.
    recorded : Recorded
        What the file says about its recording.
    findings : tuple of FileFinding
        What should be known about it, each with a code, a sentence and the turn that deals with it.
    """

    name: str
    form: Form
    measures: Measures
    recorded: Recorded
    findings: tuple[FileFinding, ...]


def apply(
    turn: Turn,
    *files: AnyPath,
    out: AnyPath,
    over: Stretch | None = None,
    rate: RateChoice | None = None,
    **options: Unpack[Options],
) -> Delivery:
    """Apply a turn to files, as `wedge-turn apply` does: to each, or to those that belong together by their names.

    Parameters
    ----------
    turn : Turn
        With its settings: `Encode()`, `Centre(keep="sides")`, …
    *files : path
        Audio files and films with sound; they are never changed.
    out : path
        The folder to write into; it is made where it isn't there.
    over : Stretch, optional
        The range that the turn is limited to.
    rate : int, "lowest" or "highest", optional
        In Hz, or of the files that go in together: those at another rate are resampled to it first.
    **options
        As for `deliver`.

    Returns
    -------
    Delivery

    Raises what `deliver` raises, and `Error` (turn-input, rate-differs) where the turn doesn't take these files.

    >>> apply(Encode(), "kick.wav", out="ms", depth="24").proofs[0].proof.depth
    '24-bit'
    """
    manifest = turn_files(
        [Path(file) for file in files],
        lambda infos: plan_turn(cast(AnyTurn, turn), infos, over, rate),
        Path(out),
        lambda refs: order_clips(refs, options),
        get_progress(options),
    )
    return Delivery(Path(out), manifest)


def split(file: AnyPath, *, out: AnyPath, **options: Unpack[Options]) -> Delivery:
    """Split a file into one mono file for each channel. Options are those of `apply`.

    >>> [path.name for path in split("kick.wav", out="split").files]
    ['kick_L.wav', 'kick_R.wav']
    """
    return apply(Split(), file, out=out, **options)


def merge(
    left: AnyPath, right: AnyPath, *, out: AnyPath, rate: RateChoice | None = None, **options: Unpack[Options]
) -> Delivery:
    """Merge two mono files into a stereo file. Options are those of `apply`.

    >>> merge("a_L.wav", "a_R.wav", out="merged").files[0].name
    'a.wav'
    """
    return apply(Merge(), left, right, out=out, rate=rate, **options)


def inspect(file: AnyPath) -> Inspection:
    """What a file is and holds, measured now.

    Raises `Error` where the file isn't there or can't be read.

    >>> [finding.code for finding in inspect("kick.wav").findings]
    ['dual-mono']
    """
    with Session.open([Path(file)]) as session:
        info, judgement = session.infos["0"], session.judgements[source_ref("0")]
        return Inspection(
            info.name, info.form, session.get_measures("0"), session.files["0"].recorded, judgement.findings
        )


def prep(
    folder: AnyPath,
    out: AnyPath,
    *,
    only: Sequence[str] = (),
    skip: Sequence[str] = (),
    format: ContainerName = "wav",
    depth: DepthChoice = "same",
    overwrite: bool = False,
    progress: Progress = lambda _: None,
) -> list[PreparedFolder]:
    """Prepare a folder and all within it, as `wedge-turn prep` does: merge what belongs together, fold dual mono and
    silent channels, split by channel names, copy the rest; what needs ears is a question.

    Parameters
    ----------
    folder, out : path
        Where the files are, which are never changed, and where the prepared ones go.
    only, skip : sequence of str
        Codes of findings, or turns: what alone is done, or left out.
    format, depth, overwrite, progress
        As for `deliver`.

    Returns
    -------
    list of PreparedFolder
        Each with its `files`, `questions` and what was `refused`.

    >>> [file.path.name for file in prep("takes", "ready")[0].files]
    ['a.wav']
    """
    tree = Tree(Path(folder), Path(out), Choice(frozenset(only), frozenset(skip)), depth, format, overwrite=overwrite)
    return list(prepare_tree(tree, progress=progress))


def verify(folder: AnyPath, sources: AnyPath | None = None, progress: Progress = lambda _: None) -> Verification:
    """Check the files of a delivery, or of every delivery in a tree, against their manifests.

    Parameters
    ----------
    folder : path
        Where they lie.
    sources : path, optional
        A folder with the files that they were made from, under whatever names: every sample is proved again.
    progress : callable
        Is told the share that is done, 0 to 1; what it raises stops the work.

    Returns
    -------
    Verification
        `ok`, and what was found.

    >>> verify(split("kick.wav", out="checked").folder).ok
    True
    """
    return verify_tree(Path(folder), Path(sources) if sources is not None else None, progress)
