"""Findings are kept with the version that found them: where one is found anew, or in other words, that has to rise."""

import hashlib
from pathlib import Path

import wedge_turn
from wedge_turn.core.findings import FINDINGS_VERSION

# What each version finds in the files of the demo, by file, code and sentence.
FOUND = {6: "aaabd50c1a6e26df"}


def test_what_is_found_in_the_demo_changes_with_its_version(demo_files: dict[str, Path]) -> None:
    files = sorted(path for path in demo_files.values() if path.suffix in (".wav", ".flac", ".aiff"))
    lines = [
        f"{path.name} {finding.code}: {finding.message}"
        for path in files
        for finding in wedge_turn.inspect(path).findings
    ]
    assert len(lines) > 5
    digest = hashlib.sha256("\n".join(lines).encode()).hexdigest()[:16]
    raise_it = f"raise FINDINGS_VERSION, and add to FOUND what it finds now ({digest})"
    assert FOUND.get(FINDINGS_VERSION) == digest, raise_it
