"""What a piece of audio is, as data: channels, rate, encoding, time code."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
