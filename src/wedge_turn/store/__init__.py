"""What is kept: jobs, files, worksheets and deliveries. `Store` is the one door to it.

Every method is one transaction; rows leave it detached and complete.
"""

from wedge_turn.store.clips import Clips
from wedge_turn.store.deliveries import Deliveries

__all__ = ["Store"]


class Store(Clips, Deliveries):
    """All that is kept in one folder."""
