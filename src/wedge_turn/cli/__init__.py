"""Wedge Turn from a shell."""
