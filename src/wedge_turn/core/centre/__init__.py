"""Taking the centre of a stereo signal out, or keeping it: the classic difference, and a wedge of the stereo field."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
