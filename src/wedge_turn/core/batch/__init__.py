"""Many files at once: a folder or a tree prepared, each as a job of its own."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
