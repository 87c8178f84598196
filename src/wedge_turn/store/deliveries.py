"""Deliveries, their orders and manifests, the proofs they brought, and settings for them that are kept by name."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from wedge_turn.core.delivery import Manifest, Proof, summarize
from wedge_turn.store.database import Database
from wedge_turn.store.lookup import check_name, get_revision, get_row
from wedge_turn.store.order import DeliverySettings, StoredOrder
from wedge_turn.store.rows import DeliveredClip, Delivery, Job, ProofRow, SavedSettings


@dataclass(frozen=True)
class LastDelivery:
    """What decided the samples of a clip when it was delivered, and when that was asked for."""

    key: str
    at: datetime


class Deliveries:
    def __init__(self, database: Database) -> None:
        self._database = database

    def for_job(self, job_id: str) -> list[Delivery]:
        """The deliveries of a job, the newest first."""
        with self._database.reading() as session:
            get_row(session, Job, job_id, "job")
            query = select(Delivery).where(Delivery.job_id == job_id).order_by(Delivery.created.desc())
            return list(session.scalars(query))

    def ids(self) -> set[str]:
        """The ids of all deliveries of all jobs."""
        with self._database.reading() as session:
            return set(session.scalars(select(Delivery.id)))

    def unfinished(self) -> list[Delivery]:
        """Deliveries that were waiting or being written when the application ended."""
        with self._database.reading() as session:
            return list(session.scalars(select(Delivery).where(Delivery.state.in_(("waiting", "writing")))))

    def get(self, delivery_id: str) -> Delivery:
        with self._database.reading() as session:
            return get_row(session, Delivery, delivery_id, "delivery")

    def create(self, job_id: str, revision_id: str, order: StoredOrder) -> Delivery:
        with self._database.changing() as session:
            get_revision(session, job_id, revision_id)
            delivery = Delivery(
                job_id=job_id, revision_id=revision_id, state="waiting", order=order.model_dump(mode="json")
            )
            session.add(delivery)
            return delivery

    def set_state(
        self, delivery_id: str, state: str, manifest: Manifest | None = None, error: dict[str, str] | None = None
    ) -> Delivery:
        """Raises NotFoundError where the delivery was deleted meanwhile, alone or with its job."""
        with self._database.changing() as session:
            delivery = get_row(session, Delivery, delivery_id, "delivery")
            delivery.state = state
            delivery.manifest = summarize(manifest).model_dump(mode="json") if manifest else None
            delivery.error = error
            for proof in manifest.proofs if manifest else ():
                row = {"job_id": delivery.job_id, "delivery_id": delivery_id, "key": proof.key}
                session.add(ProofRow(**row, proof=proof.proof.model_dump(mode="json")))
            for ref, file in zip(delivery.order["refs"], manifest.files if manifest else (), strict=False):
                session.add(DeliveredClip(job_id=delivery.job_id, delivery_id=delivery_id, ref=ref, key=file.clip_key))
            return delivery

    def delete(self, delivery_id: str) -> None:
        with self._database.changing() as session:
            session.delete(get_row(session, Delivery, delivery_id, "delivery"))

    def last_done(self, job_id: str) -> Delivery | None:
        """The newest delivery of a job that was finished and waits to be fetched."""
        finished = (delivery for delivery in self.for_job(job_id) if delivery.state == "done")
        return next((delivery for delivery in finished if delivery.order.get("to") is None), None)

    def delivered(self, job_id: str) -> dict[str, LastDelivery]:
        """For each clip that was delivered, by its reference, the last time that it was."""
        query = (
            select(DeliveredClip.ref, DeliveredClip.key, Delivery.created)
            .join(Delivery, Delivery.id == DeliveredClip.delivery_id)
            .where(DeliveredClip.job_id == job_id)
            .order_by(DeliveredClip.id)
        )
        with self._database.reading() as session:
            return {ref: LastDelivery(key, created) for ref, key, created in session.execute(query)}

    def settings(self) -> list[SavedSettings]:
        """All kept settings, by name."""
        with self._database.reading() as session:
            return sorted(session.scalars(select(SavedSettings)), key=lambda one: one.name.casefold())

    def keep_settings(self, name: str, settings: DeliverySettings) -> SavedSettings:
        """Keep settings under a name; those that had it are replaced."""
        clean, stored = check_name(name), settings.model_dump(mode="json")
        with self._database.changing() as session:
            row = session.scalars(select(SavedSettings).where(SavedSettings.name == clean)).one_or_none()
            if row is None:
                row = SavedSettings(name=clean, settings=stored)
                session.add(row)
                session.flush()
            row.settings = stored
            return row

    def forget_settings(self, settings_id: str) -> None:
        with self._database.changing() as session:
            session.delete(get_row(session, SavedSettings, settings_id, "set of settings"))

    def proofs(self, job_id: str) -> dict[str, Proof]:
        """Every proof of a job by the key of what it proves, the newest where there are several."""
        query = select(ProofRow.key, ProofRow.proof).where(ProofRow.job_id == job_id).order_by(ProofRow.id)
        with self._database.reading() as session:
            return {key: Proof.model_validate(proof) for key, proof in session.execute(query)}
