from .difference import Difference as Difference
from .extraction import Extraction as Extraction
from .extraction import Shape as Shape
from .forecast import Forecast as Forecast
from .forecast import forecast_voice as forecast_voice
from .spectra import sum_three_frames as sum_three_frames
from .spectra import window_size as window_size
