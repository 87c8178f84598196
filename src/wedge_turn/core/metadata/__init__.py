"""What files say beside their samples, and how that moves with a turn."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
