from .engine import Clip as Clip
from .engine import Engine as Engine
from .engine import Signal as Signal
from .engine import clip_of as clip_of
from .engine import computed as computed
from .engine import side_by_side as side_by_side
