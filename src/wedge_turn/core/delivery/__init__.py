"""Files for the user: what is ordered, how it is written and proved, and the manifest of what was written."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
