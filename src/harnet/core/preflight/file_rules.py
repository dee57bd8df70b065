"""Rules on the files behind placed pictures."""

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
