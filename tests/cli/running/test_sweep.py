"""`harnet sweep`: told first, then done."""

import os
import time

from tests.cli.running.test_person import harnet  # noqa: F401 (a fixture)


def test_dry_it_tells_and_then_it_does(harnet, studio, tmp_path):  # noqa: F811
    kept = tmp_path / "kept"
    kept.write_bytes(b"nobody names this")
    sha256 = studio.blobs.put_file(kept)
    left = studio.settings.scratch_folder / "left behind"
    left.write_bytes(b"by a crash")
    long_ago = time.time() - 2 * 24 * 3600
    os.utime(left, (long_ago, long_ago))
    os.utime(studio.blobs.file(sha256, tmp_path), (long_ago, long_ago))
    dry = harnet("sweep", "--dry-run")
    assert dry.returncode == 0, dry.stderr
    assert "1 stored file that nothing names, 17 bytes" in dry.stdout
    assert "1 leftover of unfinished work would be deleted" in dry.stdout
    assert studio.blobs.file(sha256, tmp_path) is not None and left.exists()
    assert "were deleted" in harnet("sweep").stdout
    assert studio.blobs.file(sha256, tmp_path) is None and not left.exists()
