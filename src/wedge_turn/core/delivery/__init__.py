"""Files for the user: what is ordered, how it is written and proved, and the manifest of what was written."""
