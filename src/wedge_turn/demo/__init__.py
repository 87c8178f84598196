"""The demo "Kettle Island Light": an invented lighthouse museum makes an audio guide. All sound is made by code."""

from wedge_turn.demo.files import write_demo_files
from wedge_turn.demo.job import ensure_demo_job

__all__ = ["ensure_demo_job", "write_demo_files"]
