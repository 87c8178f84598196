"""What the processes of a command share: imported once, by the process that they are forked from."""

import gc

from wedge_turn.core.audio import load_byte_kernels

load_byte_kernels()
gc.freeze()  # it stays, and no collection looks through it again
