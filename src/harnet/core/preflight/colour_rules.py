"""Rules on what a picture is made of: colour, profile, palette, compression, format, alpha."""

from harnet.core.pictures.colour_words import COLOUR_WORDS
from harnet.core.pictures.picture import Colour
from harnet.core.preflight.finding import Fix, RuleResult
from harnet.core.preflight.rules import picture_rule
from harnet.core.preflight.subject import Checked
from harnet.core.targets.severity import Severity

COLOUR = "Colour"
MADE_OF = "Colour and format"


@picture_rule(
    "colour-unfit",
    COLOUR,
    Severity.WARNING,
    "pictures in a colour model that the target does not allow",
)
def colour_unfit(checked: Checked) -> RuleResult | None:
    """The picture's colour model is not one of the target's."""
    colour, wanted = checked.facts.colour, checked.target.expects.colours
    if checked.facts.is_vector or not wanted or colour in wanted:
        return None
    words = ", ".join(COLOUR_WORDS[one] for one in wanted)
    return RuleResult(
        f"{COLOUR_WORDS[colour]}; {checked.target.spoken} allows {words}",
        f"The {checked.noun} is {COLOUR_WORDS[colour]}; {checked.target.spoken} allows"
        f" {words}. Make"
        f" a print copy in one of these, or swap the {checked.noun}.",
        (Fix.CONVERT,),
    )


@picture_rule(
    "profile-missing", COLOUR, Severity.WARNING, "pictures without the ICC profile they need"
)
def profile_missing(checked: Checked) -> RuleResult | None:
    """Nobody can tell what the picture's figures mean as colours."""
    facts = checked.facts
    if facts.icc is not None or facts.colour not in checked.target.expects.profiled:
        return None
    return RuleResult(
        f"{COLOUR_WORDS[facts.colour]} without an ICC profile",
        f"The {checked.noun} is {COLOUR_WORDS[facts.colour]} and carries no ICC profile, so"
        " its figures"
        " could mean different inks. Ask for it with its profile, or make a print copy with one.",
        (Fix.CONVERT,),
    )


@picture_rule(
    "palette-picture", MADE_OF, Severity.WARNING, "pictures that use a palette of few colours"
)
def palette_picture(checked: Checked) -> RuleResult | None:
    """At most 256 colours: tones show as steps."""
    if checked.facts.colour is not Colour.PALETTE:
        return None
    return RuleResult(
        "a palette of at most 256 colours",
        f"Every pixel of the {checked.noun} comes from a palette of at most {2**checked.facts.bits}"
        " colours,"
        " so smooth tones show as steps. Swap it for its original, if there is one.",
        (Fix.DENSER,),
    )


@picture_rule("lossy-quality", MADE_OF, Severity.WARNING, "pictures with strong lossy compression")
def lossy_quality(checked: Checked) -> RuleResult | None:
    """Compressed so hard that it shows."""
    quality, least = checked.facts.jpeg_quality, checked.target.expects.least_jpeg_quality
    if not checked.facts.lossy or quality is None or quality >= least:
        return None
    return RuleResult(
        f"JPEG quality of about {quality}, minimum {least}",
        f"The {checked.noun} was compressed at a JPEG quality of about {quality};"
        f" {checked.target.spoken} asks for at least {least}. Blocks may show around edges."
        " Ask for it with less compression.",
        (Fix.DENSER,),
        least - quality,
    )


@picture_rule(
    "format-unfit",
    MADE_OF,
    Severity.NOTE,
    "pictures in a file format that the target does not allow",
)
def format_unfit(checked: Checked) -> RuleResult | None:
    """The file format is none of the target's."""
    wanted = checked.target.expects.formats
    if not wanted or checked.facts.format in wanted:
        return None
    words = ", ".join(one.upper() for one in wanted)
    return RuleResult(
        f"{checked.facts.format.upper()}; allowed: {words}",
        f"The {checked.noun} is a {checked.facts.format.upper()} file; {checked.target.spoken}"
        " allows"
        f" {words}. Make a print copy in one of these formats.",
        (Fix.CONVERT,),
    )


@picture_rule(
    "transparency-forbidden",
    MADE_OF,
    Severity.BLOCKING,
    "transparent pictures where the target allows none",
)
def transparency_forbidden(checked: Checked) -> RuleResult | None:
    """The picture has an alpha channel and the output takes none."""
    if not checked.facts.alpha or checked.target.expects.allows_transparency:
        return None
    return RuleResult(
        f"transparent, and {checked.target.spoken} allows no transparency",
        f"The {checked.noun} has an alpha channel; {checked.target.spoken} allows no transparency."
        " Make a print copy on a background colour, or choose another target.",
        (Fix.CONVERT,),
    )


@picture_rule(
    "drawn-in-pixels",
    "Drawings",
    Severity.NOTE,
    "drawings made of pixels, where a vector file would be sharp at any size",
)
def drawn_in_pixels(checked: Checked) -> RuleResult | None:
    """A drawing made of pixels, where a vector drawing would be sharp at any size."""
    if not checked.looks_drawn or checked.placement.source.is_vector:
        return None
    return RuleResult(
        "a drawing made of pixels",
        f"{checked.name} is almost entirely black and white, like a drawing. If it exists as"
        " vector, for example in SVG, swap it for that: vector is sharp at any size.",
        (Fix.DENSER,),
    )
