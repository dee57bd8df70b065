"""Rules on the files behind placed pictures, and on what they are made of."""

from harnet.core.preflight.finding import Checked, FileState, Finding, Fix, Severity
from harnet.core.preflight.rules import rule


@rule("file-missing")
def file_missing(checked: Checked) -> Finding | None:
    """The picture's file is no longer on its shelf."""
    if checked.file_state is not FileState.MISSING:
        return None
    return Finding(
        "file-missing",
        "Files",
        Severity.BLOCKING,
        checked.item_id,
        checked.page_number,
        checked.name,
        "missing from its shelf",
        f"The file {checked.name} is no longer where it was linked. Without it the output has an"
        " empty marked box in its place. Put the file back on its shelf, or relink to a copy.",
        (Fix.RELINK,),
    )


@rule("drawn-in-pixels")
def drawn_in_pixels(checked: Checked) -> Finding | None:
    """Line art made of pixels, where a vector drawing would be sharp at any size."""
    if not checked.looks_drawn or checked.placement.source.is_vector:
        return None
    return Finding(
        "drawn-in-pixels",
        "Line art",
        Severity.NOTE,
        checked.item_id,
        checked.page_number,
        checked.name,
        "line art made of pixels",
        f"{checked.name} is nearly all ink and paper. If it exists as a drawing, in SVG, swap it"
        " for that: it is sharp at any size and needs no density.",
        (Fix.RELINK,),
    )


@rule("file-changed")
def file_changed(checked: Checked) -> Finding | None:
    """The picture's file was edited after it was placed."""
    if checked.file_state is not FileState.CHANGED:
        return None
    return Finding(
        "file-changed",
        "Files",
        Severity.WARNING,
        checked.item_id,
        checked.page_number,
        checked.name,
        "changed on its shelf",
        f"The file {checked.name} is no longer the one that was placed. Update it to judge and"
        " print what lies on the shelf now, or relink to the picture that is meant.",
        (Fix.RELINK,),
    )


@rule("file-loose")
def file_loose(checked: Checked) -> Finding | None:
    """The picture was pasted, and no file stands behind it."""
    if checked.file_state is not FileState.LOOSE:
        return None
    return Finding(
        "file-loose",
        "Files",
        Severity.NOTE,
        checked.item_id,
        checked.page_number,
        checked.name,
        "pasted, its source is not known",
        f"{checked.name} was pasted, so nobody can tell whether a denser original exists. Put it"
        " out to a shelf, or relink to the file that it came from.",
        (Fix.RELINK,),
    )
