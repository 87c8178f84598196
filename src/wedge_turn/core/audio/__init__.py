"""Files in and out: forms, chunks, raw PCM blocks, and working copies of every other format."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
