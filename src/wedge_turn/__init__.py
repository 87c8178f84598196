"""Wedge Turn: turns the channels of audio files, shows what it did, and proves it."""

__version__ = "0.1.0"
