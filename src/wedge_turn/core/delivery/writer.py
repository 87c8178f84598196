"""Writing the clips and copies of an order into one folder, each proved as it grows; or taken over, where an earlier
delivery has them already.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Clip, Engine
from wedge_turn.core.delivery.containers import encode_file
from wedge_turn.core.delivery.copies import Copy, write_copy
from wedge_turn.core.delivery.file_findings import find_clipped, find_damaged, find_left_behind, find_tracks_left_out
from wedge_turn.core.delivery.order import Order, choose_encoding, is_exact_in
from wedge_turn.core.delivery.outline import draw_outline
from wedge_turn.core.delivery.placing import make_folder_within
from wedge_turn.core.delivery.proving import prove_files, state_proofs
from wedge_turn.core.delivery.record import WrittenGroup, describe_copy, describe_file, key_of_file
from wedge_turn.core.delivery.reuse import ReusableFiles
from wedge_turn.core.delivery.time_range import list_steps
from wedge_turn.core.delivery.to_prove import is_computed
from wedge_turn.core.delivery.writing import ToWrite, Watch, write_clips
from wedge_turn.core.errors import ProofFailedError
from wedge_turn.core.form import Form
from wedge_turn.core.worksheet import hash_key

PASSES = 3  # each file is written, read back, and compared with what is computed again
ENCODED_PASSES = 2  # one that is no WAV is encoded and decoded besides
WAVS = ".wav"  # the folder of what is encoded anew afterwards


def count_samples(order: Order, form: Form, *, copied: bool) -> int:
    """How many samples are gone through until a file of this form is delivered."""
    passes = PASSES + (ENCODED_PASSES if order.other and not copied else 0)
    return passes * form.frames * form.channels


@dataclass(frozen=True)
class Writer:
    """Writes files of an order into `folder`, which exists, under the names that `names` has for the references of
    clips. `clip_keys` are the keys that clips have before they are trimmed to the order's range.
    """

    engine: Engine
    order: Order
    names: Mapping[str, str]
    clip_keys: Mapping[str, str]
    folder: Path
    earlier: ReusableFiles | None

    def clips(self, refs: Sequence[str], watch: Watch) -> WrittenGroup:
        """Write clips of one length side by side, and prove them. Raises what `write_clips` raises."""
        engine, other = self.engine, self.order.other
        group = {ref: self._to_write(ref, engine.clip(ref)) for ref in refs}
        names = {ref: self.names[ref] for ref in refs}
        keys = {names[ref]: key_of_file(engine.sheet, ref, item, self.order.container) for ref, item in group.items()}
        if self.earlier and (reused := self.earlier.take(keys, self.folder)):
            watch(sum(count_samples(self.order, item.form, copied=False) for item in group.values()))
            return WrittenGroup(
                dict(zip(group, reused.files, strict=True)), reused.proofs, reused.findings, reused.evidence
            )
        for item in group.values():
            make_folder_within(self.folder, item.path.parent)
        steps = list_steps(engine.sheet, refs[0], trimmed=self.order.range is not None)
        results = dict(zip(group, write_clips(list(group.values()), watch), strict=True))
        proofs, evidence = prove_files(engine, group, names, results, lambda samples: watch(2 * samples))
        results = {ref: replace(result, read_back=proofs[ref].read_back) for ref, result in results.items()}
        files, findings = {}, find_damaged(group, names)
        findings += find_tracks_left_out(engine, names)
        for ref, item in group.items():
            name = names[ref]
            with WavFile(item.path, being_written=True) as wav:
                form = _checked(wav, item)
                pictured = draw_outline(wav)
            if other:
                results[ref] = encode_file(other, item.path, results[ref], item.carried, self.folder / name, watch)
                item.path.unlink()
                form = form if other.keeps_chunks else form.model_copy(update={"start_time": None})
            size = (self.folder / name).stat().st_size
            written = describe_file(name, form, item, results[ref], size, other.title if other else item.container)
            facts = {"key": keys[name], "clip_key": self.clip_keys[ref], "outline": pictured}
            files[ref] = written.model_copy(update=facts)
            findings += find_clipped(name, results[ref], engine.sheet.info(ref).form, item.encoding)
            findings += find_left_behind(other, item, name)
        statements = state_proofs(engine, steps, group, names, results, proofs, other.title if other else None)
        return WrittenGroup(files, statements, findings, [evidence])

    def copy(self, copy: Copy, name: str, watch: Watch) -> WrittenGroup:
        """Copy a file byte for byte. Raises what `write_copy` raises."""
        file = self.earlier.take_copy(copy, name, self.folder) if self.earlier else None
        if file:
            watch(count_samples(self.order, copy.form, copied=True))
        else:
            file = describe_copy(name, copy, write_copy(copy, self.folder / name, watch))
        return WrittenGroup({name: file}, [], [], [])

    def _to_write(self, ref: str, clip: Clip) -> ToWrite:
        """How a clip is written. The seed of the dither is made from what decides the samples: the same delivery again
        gives the same bytes.
        """
        order, sheet = self.order, self.engine.sheet
        encoding = choose_encoding(clip.form, order.depth)
        exact = is_exact_in(clip, encoding)
        dithers = order.dither and not exact and not encoding.is_float
        seed = int(hash_key("dither", sheet.key(ref))[:16], 16) if dithers else None
        kinds = dict.fromkeys(step.turn.kind for step in sheet.lineage(ref) if not step.bypassed)
        done = " + ".join(kinds) or ("" if encoding == clip.form.stored else "another depth")
        path = (self.folder / WAVS if order.other else self.folder) / self.names[ref]
        return ToWrite(
            clip,
            encoding,
            path,
            exact,
            seed,
            sparing=clip.spares_dither(encoding),
            done=done,
            container=order.wave,
            followed=is_computed(self.engine, ref),
        )


def _checked(wav: WavFile, item: ToWrite) -> Form:
    """The form of a written file, which must be what was meant."""
    form = wav.form
    for fact in ("channels", "frames", "rate", "start_time"):
        want, got = getattr(item.clip.form, fact), getattr(form, fact)
        if got != want:
            raise ProofFailedError(f"{wav.name} was written with {fact} {got} instead of {want}")
    return form
