"""What is kept in one data folder: jobs, files, worksheets, recipes, measures and deliveries. It keeps and finds;
whatever has to be computed is computed in `tasks`.
"""

import threading
from collections.abc import Collection
from pathlib import Path

from wedge_turn.core.errors import Error
from wedge_turn.core.form import Form
from wedge_turn.core.metadata import read_facts, read_recorded
from wedge_turn.store.access import Access
from wedge_turn.store.database import FILE, Database
from wedge_turn.store.deliveries import Deliveries
from wedge_turn.store.folder import FolderLock, check_complete
from wedge_turn.store.jobs import Jobs
from wedge_turn.store.measures import MeasureStore
from wedge_turn.store.media import ImportedFile, Media
from wedge_turn.store.recipes import Recipes
from wedge_turn.store.reserve import Reserve
from wedge_turn.store.rows import Source, new_id
from wedge_turn.store.sources import Sources
from wedge_turn.store.uploads import Arrived, Uploads
from wedge_turn.store.worksheets import Worksheets

__all__ = ["Store"]


class Store:
    """All that is kept in one folder. Every method of its parts is one transaction; rows leave it detached and
    complete.

    `_files_lock` is held wherever files and the rows that name them change together, so that a file that is coming in
    is never counted as unused by who deletes a job.
    """

    def __init__(self, folder: Path) -> None:
        """Open the data in `folder`, making or migrating it as needed. Raises DataFolderError."""
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self._lock = FolderLock(folder)
        try:
            check_complete(folder)
            self._database = Database(folder / FILE)
        except BaseException:
            self._lock.release()
            raise
        self._files_lock = threading.Lock()
        self.reserve = Reserve(folder)
        self.uploads = Uploads(folder / "arriving")
        self.media = Media(folder, self._database)
        self.jobs = Jobs(self._database)
        self.sources = Sources(self._database)
        self.worksheets = Worksheets(self._database)
        self.measures = MeasureStore(self._database)
        self.deliveries = Deliveries(self._database)
        self.recipes = Recipes(self._database)
        self.access = Access(self._database)

    def close(self) -> None:
        self._database.close()
        self._lock.release()

    def add_source(self, job_id: str, arrived: Arrived) -> Source:
        """Keep a file that has arrived and add it to the job. Raises what `import_file` raises, or NotFoundError.

        A file of the same name, folder and content that already exists is given back as it is.
        """
        try:
            return self._add_source(job_id, arrived)
        except FileNotFoundError:
            self.jobs.get(job_id)  # where it was deleted meanwhile, its uploads went with it
            raise

    def _add_source(self, job_id: str, arrived: Arrived) -> Source:
        self.jobs.get(job_id)
        size = arrived.size
        imported = self.media.import_file(arrived)
        try:
            with self._files_lock:
                self.media.place(imported)
                identical = self.sources.find_identical(job_id, imported.hash, arrived.name, arrived.folder)
                if identical is not None:
                    return identical
                try:
                    return self.sources.add(source_row(job_id, imported, size))
                except BaseException:
                    self._forget_unused({imported.hash})
                    raise
        finally:
            imported.discard()

    def keep(self, arrived: Arrived) -> Source:
        """Keep a file for a job that is yet to be made; its source has no job."""
        size = arrived.size
        imported = self.media.import_file(arrived)
        try:
            with self._files_lock:
                self.media.place(imported)
        finally:
            imported.discard()
        return source_row("", imported, size)

    def copy_sources(self, from_job: str, ids: Collection[str], to_job: str) -> dict[str, Source]:
        """Sources of one job added to another, in their order; what is there already under the same name and folder
        stays. By the ids of the originals. Raises NotFoundError where a job or a source is not there.
        """
        sources = {source_id: self.sources.get(from_job, source_id) for source_id in ids}
        copies: dict[str, Source] = {}
        with self._files_lock:
            for source in sorted(sources.values(), key=lambda one: one.created):
                identical = self.sources.find_identical(to_job, source.media, source.name, source.folder)
                copies[source.id] = identical or self.sources.add(
                    Source(
                        id=new_id(),
                        job_id=to_job,
                        name=source.name,
                        folder=source.folder,
                        media=source.media,
                        bytes=source.bytes,
                        form=source.form,
                        recorded=source.recorded,
                        note=source.note,
                    )
                )
        return copies

    def read_older_sources(self) -> None:
        """Read what files say about themselves that an earlier version took in; one that can't be read waits for the
        next time.
        """
        for source in self.sources.without_metadata():
            try:
                file = self.media.open(source.media, source.name)
                carried = file.carried()
            except (Error, OSError):
                continue
            facts = read_facts(carried, file.form.channels, file.form.rate)
            form = Form.model_validate(source.form).model_copy(update=facts).model_dump(mode="json")
            self.sources.put_recorded(source, form, read_recorded(carried).model_dump(mode="json"))

    def delete_job(self, job_id: str) -> None:
        """Remove a job with its uploads and deliveries, and the files that no other job has."""
        self.reserve.give_up()
        with self._files_lock:
            deleted = self.jobs.delete(job_id)
            self.sources.forget(job_id)
            self._forget_unused(deleted.media)
        for upload, _ in self.uploads.all(job_id):
            self.uploads.remove(upload.id)
        for delivery in deleted.deliveries:
            self.media.remove_delivery(delivery)

    def delete_source(self, job_id: str, source_id: str) -> None:
        """Remove a source for good, and its file where no other source has it."""
        with self._files_lock:
            self._forget_unused({self.sources.delete(job_id, source_id)})

    def forget_orphans(self) -> None:
        """Remove kept files that no source uses."""
        with self._files_lock:
            unused = self.media.hashes() - self.sources.media_in_use()
            for media in unused:
                self.media.forget(media)

    def _forget_unused(self, media: set[str] | frozenset[str]) -> None:
        unused = set(media) - self.sources.media_in_use(media)
        for source in unused:
            self.media.forget(source)
        self.measures.forget(unused)


def source_row(job_id: str, imported: ImportedFile, size: int) -> Source:
    return Source(
        id=new_id(),
        job_id=job_id,
        name=imported.arrived.name,
        folder=imported.arrived.folder,
        media=imported.hash,
        bytes=size,
        form=imported.form.model_dump(mode="json"),
        recorded=imported.recorded.model_dump(mode="json"),
    )
