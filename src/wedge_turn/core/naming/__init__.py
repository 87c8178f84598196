"""Names that are safe, patterns of names, and which files belong together by name."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
