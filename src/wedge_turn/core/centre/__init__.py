"""Taking the centre of a stereo signal out, or keeping it: the classic difference, and a wedge of the stereo field."""
