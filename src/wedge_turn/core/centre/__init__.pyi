from .difference import Difference as Difference
from .extraction import Extraction as Extraction
from .extraction import Shape as Shape
from .extraction import window_size as window_size
