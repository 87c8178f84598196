from .engine import Clip as Clip
from .engine import Engine as Engine
from .engine import Signal as Signal
from .engine import join_channels as join_channels
from .engine import make_clip as make_clip
from .engine import start_computation as start_computation
