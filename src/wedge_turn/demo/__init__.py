"""The demo "Kettle Island Light": an invented lighthouse museum makes an audio guide. All sound is made by code."""

from wedge_turn.demo.files import write_demo_files
from wedge_turn.demo.job import ensure_demo_job
from wedge_turn.demo.making import DemoMaker, Making

__all__ = ["DemoMaker", "Making", "ensure_demo_job", "write_demo_files"]
