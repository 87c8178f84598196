from .core.errors import Error as Error
from .core.turns import DC as DC
from .core.turns import Align as Align
from .core.turns import Centre as Centre
from .core.turns import Decode as Decode
from .core.turns import Encode as Encode
from .core.turns import Fold as Fold
from .core.turns import Level as Level
from .core.turns import Matrix as Matrix
from .core.turns import Merge as Merge
from .core.turns import Polarity as Polarity
from .core.turns import Resample as Resample
from .core.turns import Split as Split
from .core.turns import Sum as Sum
from .core.turns import Swap as Swap
from .core.turns import Trim as Trim
from .core.turns import Width as Width
from .core.worksheet import Stretch as Stretch
from .library.clip import Clip as Clip
from .library.clip import open as open
from .library.delivery import Delivery as Delivery
from .library.files import Inspection as Inspection
from .library.files import apply as apply
from .library.files import inspect as inspect
from .library.files import merge as merge
from .library.files import prep as prep
from .library.files import split as split
from .library.files import verify as verify
from .library.session import Session as Session
from .library.session import deliver as deliver

__version__: str
__all__: list[str]
