"""What is written to the log: one line an event, with its time, its level and where it comes from."""

import logging
import time
from typing import Final

FORMAT: Final = "%(asctime)s %(levelname)s %(name)s: %(message)s"


class OneLine(logging.Formatter):
    """A message with all that belongs to it, a traceback too, in one line; times are UTC."""

    converter = staticmethod(time.gmtime)

    def __init__(self) -> None:
        super().__init__(FORMAT, "%Y-%m-%dT%H:%M:%SZ")

    def format(self, record: logging.LogRecord) -> str:
        return super().format(record).replace("\r", "").replace("\n", " | ")


def start_logging() -> None:
    """To stderr, from the level INFO on."""
    handler = logging.StreamHandler()
    handler.setFormatter(OneLine())
    logging.basicConfig(level=logging.INFO, handlers=[handler])
    logging.getLogger("alembic").setLevel(logging.WARNING)
