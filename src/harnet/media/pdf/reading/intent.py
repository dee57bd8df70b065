"""What a PDF says of the output that its colours are meant for (ISO 32000-2, 14.11.5)."""

import pikepdf

from harnet.core.pictures.picture import Colour
from harnet.media.pdf.walking.content import entry

_BY_CHANNELS = {1: Colour.GREY, 3: Colour.RGB, 4: Colour.CMYK}


def intent_colour(pdf: pikepdf.Pdf) -> str:
    """The colour model whose figures the output intent explains, empty where there is none."""
    intents = entry(pdf.Root, "/OutputIntents")
    for intent in list(intents) if isinstance(intents, pikepdf.Array) else []:
        if not isinstance(intent, pikepdf.Dictionary):
            continue
        profile = entry(intent, "/DestOutputProfile")
        if isinstance(profile, pikepdf.Stream):
            channels = profile.get("/N")
            colour = _BY_CHANNELS.get(channels) if isinstance(channels, int) else None
            if colour is not None:
                return colour.value
        elif entry(intent, "/S") == "/GTS_PDFX" and "/OutputConditionIdentifier" in intent:
            # A printing condition that is named alone; inks, by common practice, no source.
            return Colour.CMYK.value
    return ""
