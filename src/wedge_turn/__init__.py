"""Wedge Turn: turns the channels of audio files, shows what it did, and proves it.

The library for users of Python; `docs/python.md` has examples.
"""

import lazy_loader

__version__ = "0.2.0"
__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
