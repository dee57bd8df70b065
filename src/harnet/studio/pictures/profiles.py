"""CMYK profiles that people supply, for copies and outputs."""

import tempfile
from pathlib import Path
from typing import IO

from sqlalchemy import select
from sqlalchemy.orm import Session

from harnet.media.errors import UnreadableFile
from harnet.media.pixels.colour import MAX_PROFILE_BYTES, read_profile
from harnet.store.tables.pictures import ColourProfile
from harnet.studio.common.errors import Refused
from harnet.studio.common.studio import Studio
from harnet.studio.pictures.importing import safe_file_name


def all_profiles(session: Session) -> list[ColourProfile]:
    """The profiles that were supplied, by name."""
    return list(session.scalars(select(ColourProfile).order_by(ColourProfile.name)))


def require_profile(session: Session, sha256: str | None) -> None:
    """Makes sure that a supplied profile is still there; none means the generic one.

    Raises:
        Refused: no profile has this hash.
    """
    if sha256 is not None and sha256 not in {one.sha256 for one in all_profiles(session)}:
        raise Refused("This CMYK profile is no longer stored. Choose another one.")


def keep_profile(studio: Studio, session: Session, name: str, stream: IO[bytes]) -> ColourProfile:
    """Keeps a CMYK profile; the same bytes are kept once.

    Raises:
        UnreadableFile: not a CMYK profile, or too large.
    """
    shown = safe_file_name(name)
    data = stream.read(MAX_PROFILE_BYTES + 1)
    if len(data) > MAX_PROFILE_BYTES:
        raise UnreadableFile(shown, "it is too large for a profile")
    found = read_profile(data, shown)
    with tempfile.TemporaryDirectory(dir=studio.settings.scratch_folder) as folder:
        path = Path(folder) / "profile"
        path.write_bytes(data)
        sha256 = studio.blobs.put_file(path)
    same = session.scalars(select(ColourProfile).where(ColourProfile.sha256 == sha256)).first()
    if same is not None:
        return same
    profile = ColourProfile(name=found.name[:200], sha256=sha256)
    session.add(profile)
    session.flush()
    return profile


def profile_file(studio: Studio, sha256: str | None, folder: Path) -> Path | None:
    """A supplied CMYK profile as a file in `folder`; None for the generic one."""
    if sha256 is None:
        return None
    path = folder / "profile.icc"
    with studio.blobs.open(sha256) as file:
        path.write_bytes(file.read())
    return path
