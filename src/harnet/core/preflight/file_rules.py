"""Rules on the files behind placed pictures, and on the rights in them."""

from harnet.core.measure.wording import counted, first_of
from harnet.core.preflight.finding import Fix, RuleResult
from harnet.core.preflight.rules import picture_rule
from harnet.core.preflight.subject import Checked, FileState
from harnet.core.targets.severity import Severity

FILES = "Files"
_MOST_FONTS = 5


@picture_rule(
    "file-missing", FILES, Severity.BLOCKING, "pictures whose file is no longer on its shelf"
)
def file_missing(checked: Checked) -> RuleResult | None:
    """The picture's file is no longer on its shelf."""
    if checked.file_state is not FileState.MISSING:
        return None
    return RuleResult(
        "missing from its shelf",
        f"The file {checked.name} is no longer where it was linked. Without it the output has"
        " a marked empty box in its place. Put the file back on its shelf, or relink to a"
        " copy.",
        (Fix.RELINK, Fix.DENSER),
    )


@picture_rule("file-changed", FILES, Severity.BLOCKING, "pictures whose file changed after placing")
def file_changed(checked: Checked) -> RuleResult | None:
    """The picture's file was edited after it was placed."""
    if checked.file_state is not FileState.CHANGED:
        return None
    return RuleResult(
        "changed on its shelf",
        f"The file {checked.name} is no longer the one that was placed and checked, so the"
        " output has a marked empty box in its place. Update it to check and print what is on"
        " the shelf now, or relink to the right picture.",
        (Fix.UPDATE, Fix.RELINK),
    )


@picture_rule("file-loose", FILES, Severity.NOTE, "pasted pictures, whose source file is not known")
def file_loose(checked: Checked) -> RuleResult | None:
    """The picture was pasted, and no file stands behind it."""
    if checked.file_state is not FileState.LOOSE:
        return None
    return RuleResult(
        "pasted, source file not known",
        f"{checked.name} was pasted, so it is not known whether a denser original exists. Save"
        " it to a shelf, or swap it for its source file.",
        (Fix.DENSER, Fix.SAVE_TO_SHELF),
    )


@picture_rule("rights-unknown", "Rights", Severity.NOTE, "pictures whose licence is not stated")
def rights_unknown(checked: Checked) -> RuleResult | None:
    """Nobody has said under which licence the picture may be printed."""
    if checked.rights.is_stated:
        return None
    return RuleResult(
        "no licence stated",
        f"No licence is stated for {checked.name}. Ask whoever sent it, and enter licence and"
        " credit on its picture page.",
        (Fix.RIGHTS,),
    )


@picture_rule(
    "picture-fonts-loose",
    FILES,
    Severity.BLOCKING,
    "placed PDFs with fonts that are not embedded in them",
)
def picture_fonts_loose(checked: Checked) -> RuleResult | None:
    """A placed PDF names fonts that it does not bring along."""
    fonts = checked.facts.unembedded_fonts
    if not fonts:
        return None
    named = first_of(fonts, _MOST_FONTS)
    return RuleResult(
        f"not embedded: {named}",
        f"{checked.name} uses {counted(len(fonts), 'font')} without embedding them: {named}."
        " It may print with different letters. Ask for the PDF with its fonts embedded.",
        (Fix.DENSER,),
        len(fonts),
    )
