"""The library for users of Python: files and arrays as clips, turns on them, deliveries with their proofs.

A clip is lazy: nothing is computed until it is read or written, and then only what is asked for. What is written is
proved as everything else is; `Error` and what descends from it is raised where something is refused or fails.
"""
