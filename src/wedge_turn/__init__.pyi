from .core.errors import Error as Error
from .core.turns import Align as Align
from .core.turns import Centre as Centre
from .core.turns import Decode as Decode
from .core.turns import Encode as Encode
from .core.turns import Fold as Fold
from .core.turns import Level as Level
from .core.turns import Matrix as Matrix
from .core.turns import Merge as Merge
from .core.turns import Polarity as Polarity
from .core.turns import Split as Split
from .core.turns import Sum as Sum
from .core.turns import Swap as Swap
from .core.turns import Trim as Trim
from .core.turns import Width as Width
from .core.worksheet import Stretch as Stretch
from .library import Clip as Clip
from .library import Delivery as Delivery
from .library import Inspection as Inspection
from .library import Session as Session
from .library import apply as apply
from .library import deliver as deliver
from .library import inspect as inspect
from .library import merge as merge
from .library import open as open
from .library import prep as prep
from .library import split as split
from .library import verify as verify

__version__: str
__all__: list[str]
