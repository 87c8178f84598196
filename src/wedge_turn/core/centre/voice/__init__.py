"""The voice mask: a small convolutional network that sees some time and all frequencies around each line.

It gives each line of each frame of a stereo spectrum the share that belongs to the lead voice. `bands` says how lines
are gathered into bands, `features` what the network sees, `layers` how a layer is computed, `network` how they are put
together. `make learn` (bench/learn) taught it; docs/centre.md has what it was taught on and how it does.
"""
