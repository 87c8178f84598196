"""Deliveries and what they proved."""

import shutil
from typing import Any

from sqlalchemy import select

from wedge_turn.core.manifest import Manifest
from wedge_turn.store.base import Base, get_row
from wedge_turn.store.rows import Delivery, Job
from wedge_turn.store.worksheets import revision_of


class Deliveries(Base):
    def deliveries(self, job_id: str) -> list[Delivery]:
        """The deliveries of a job, the newest first."""
        with self._sessions() as session:
            get_row(session, Job, job_id, "job")
            return list(
                session.scalars(select(Delivery).where(Delivery.job_id == job_id).order_by(Delivery.created.desc()))
            )

    def unfinished_deliveries(self) -> list[Delivery]:
        """Deliveries that were waiting or being written when the application ended."""
        with self._sessions() as session:
            return list(session.scalars(select(Delivery).where(Delivery.state.in_(("waiting", "writing")))))

    def delivery(self, delivery_id: str) -> Delivery:
        with self._sessions() as session:
            return get_row(session, Delivery, delivery_id, "delivery")

    def create_delivery(self, job_id: str, revision_id: str, order: dict[str, Any]) -> Delivery:
        with self._changing() as session:
            revision_of(session, job_id, revision_id)
            delivery = Delivery(job_id=job_id, revision_id=revision_id, state="waiting", order=order)
            session.add(delivery)
            return delivery

    def set_delivery(
        self, delivery_id: str, state: str, manifest: Manifest | None = None, error: dict[str, str] | None = None
    ) -> Delivery:
        with self._changing() as session:
            delivery = get_row(session, Delivery, delivery_id, "delivery")
            delivery.state = state
            delivery.manifest = manifest.model_dump(mode="json") if manifest else None
            delivery.error = error
            return delivery

    def delete_delivery(self, delivery_id: str) -> None:
        with self._changing() as session:
            session.delete(get_row(session, Delivery, delivery_id, "delivery"))
        shutil.rmtree(self.media.delivery(delivery_id), ignore_errors=True)

    def proofs(self, job_id: str) -> dict[str, dict[str, Any]]:
        """Every proof of a job by the key of what it proves, the newest where there are several."""
        found: dict[str, dict[str, Any]] = {}
        for delivery in reversed(self.deliveries(job_id)):
            for proof in (delivery.manifest or {}).get("proofs", []):
                found[proof["key"]] = proof["proof"]
        return found
