"""`make learn`: makes songs with known parts and teaches the voice mask (core/centre/voice) on them.

`packages` fetches Debian packages that carry sounds, `voices`, `instruments` and `arranging` make parts, `space` places
them, `songs` puts eight seconds together as stems, `excerpts` mixes stems anew for each step, `network` is the mask for
training, `training` teaches it and `averaging` takes the mean of stages. Everything is seeded.
"""

from typing import Final

RATE: Final = 44_100
SECONDS: Final = 8
FRAMES: Final = RATE * SECONDS
