"""Settings of outputs."""

from harnet.core.output.pdf_settings import PdfColour, PdfSettings, PdfStandard, PictureMode

PRESS = PdfSettings(
    mode=PictureMode.TRIM,
    to_ppi=300,
    threshold=1.5,
    quality=None,
    drops_cropped=True,
    colour=PdfColour.INTENT,
    standard=PdfStandard.X4,
    crop_marks=True,
    pages="1",
    language="de-AT",
)
