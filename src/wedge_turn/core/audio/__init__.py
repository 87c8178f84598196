"""Files in and out: forms, chunks, raw PCM blocks, and working copies of every other format."""
