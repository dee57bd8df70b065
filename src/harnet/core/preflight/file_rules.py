"""Rules on the files behind placed pictures, and on the rights in them."""

from harnet.core.measure.wording import counted, first_of
from harnet.core.preflight.finding import Fix, Found
from harnet.core.preflight.rules import picture_rule
from harnet.core.preflight.severity import Severity
from harnet.core.preflight.subject import Checked, FileState

FILES = "Files"
_MOST_FONTS = 5


@picture_rule(
    "file-missing", FILES, Severity.BLOCKING, "pictures whose file is no longer on its shelf"
)
def file_missing(checked: Checked) -> Found | None:
    """The picture's file is no longer on its shelf."""
    if checked.file_state is not FileState.MISSING:
        return None
    return Found(
        "missing from its shelf",
        f"The file {checked.name} is no longer where it was linked. Without it the output has an"
        " empty marked box in its place. Put the file back on its shelf, or relink to a copy.",
        (Fix.RELINK, Fix.DENSER),
    )


@picture_rule(
    "file-changed", FILES, Severity.BLOCKING, "pictures whose file was changed after placing"
)
def file_changed(checked: Checked) -> Found | None:
    """The picture's file was edited after it was placed."""
    if checked.file_state is not FileState.CHANGED:
        return None
    return Found(
        "changed on its shelf",
        f"The file {checked.name} is no longer the one that was placed and judged, so the output"
        " has an empty marked box in its place. Update it to judge and print what is on the shelf"
        " now, or relink to the picture that is meant.",
        (Fix.UPDATE, Fix.RELINK),
    )


@picture_rule("file-loose", FILES, Severity.NOTE, "pasted pictures, whose source is not known")
def file_loose(checked: Checked) -> Found | None:
    """The picture was pasted, and no file stands behind it."""
    if checked.file_state is not FileState.LOOSE:
        return None
    return Found(
        "pasted, its source is not known",
        f"{checked.name} was pasted, so nobody can tell whether a denser original exists. Put it"
        " out to a shelf, or swap it for the file that it came from.",
        (Fix.DENSER, Fix.PUT_OUT),
    )


@picture_rule("rights-unknown", "Rights", Severity.NOTE, "pictures whose licence is not stated")
def rights_unknown(checked: Checked) -> Found | None:
    """Nobody has said under which licence the picture may be printed."""
    if checked.rights.is_stated:
        return None
    return Found(
        "no licence stated",
        f"Nothing says under which licence {checked.name} may be printed. Ask whoever sent it, and"
        " state licence and credit on its picture page.",
        (Fix.RIGHTS,),
    )


@picture_rule(
    "picture-fonts-loose",
    FILES,
    Severity.BLOCKING,
    "placed PDFs with fonts that are not embedded in them",
)
def picture_fonts_loose(checked: Checked) -> Found | None:
    """A placed PDF names fonts that it does not bring along."""
    fonts = checked.facts.loose_fonts
    if not fonts:
        return None
    named = first_of(fonts, _MOST_FONTS)
    return Found(
        f"not embedded: {named}",
        f"{checked.name} uses {counted(len(fonts), 'font')} without holding them: {named}. Whoever"
        " prints it may get other letters. Ask for the PDF with its fonts embedded.",
        (Fix.DENSER,),
        len(fonts),
    )
