"""What the pages that explain things show and play."""

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Response

from wedge_turn.api.models import BINARY
from wedge_turn.demo import why

router = APIRouter(prefix="/api/why", tags=["why"])


@router.get("/sines", operation_id="getSines")
def get_sines(
    degrees: Annotated[float, Query(ge=0, le=360)], gain_db: Annotated[float, Query(ge=-24, le=24)] = 0.0
) -> why.Waves:
    """Two sines so far apart, and their sum."""
    return why.two_sines(degrees, gain_db)


@router.get("/laws", operation_id="getLaws")
def get_laws() -> list[why.LawLevels]:
    """What each law of summing does to equal sides, and to unrelated ones."""
    return list(why.laws())


@router.get("/sounds/{name}", operation_id="getSound", responses={200: BINARY})
def get_sound(name: why.Sound) -> Response:
    """Stereo at 48 kHz as little-endian float32, left and right in turn."""
    return Response(why.sound(name).astype(np.dtype("<f4")).tobytes(), media_type="application/octet-stream")
