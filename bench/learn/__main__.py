"""`python -m bench.learn`: fetch sounds, make songs, and teach the voice mask on them."""

import argparse
import os
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
    os.environ.setdefault(name, "1")

from bench.learn import packages, shelf, training  # noqa: E402  # threads are set before NumPy and torch are loaded


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--songs", type=int, default=1_000)
    options.add_argument("--minutes", type=float, default=75)
    options.add_argument("--start", type=Path, default=training.FILE, help="the weights to go on from")
    options.add_argument("--anew", action="store_true", help="from chance weights")
    given = options.parse_args()
    packages.fetch()
    shelf.make(shelf.CHOOSING, 36)
    shelf.make(shelf.TEACHING, given.songs)
    training.teach(training.Plan(minutes=given.minutes, start=None if given.anew else given.start))


if __name__ == "__main__":
    main()
