"""The turns of a job in order: the plan, its clips as linear forms, edits, recipes."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
