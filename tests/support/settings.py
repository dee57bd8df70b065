"""Settings of outputs."""

from harnet.core.output.pdf_settings import PdfColour, PdfSettings, PdfStandard, PictureMode

PRESS = PdfSettings(
    PictureMode.TRIM,
    300,
    1.5,
    None,
    True,
    PdfColour.INTENT,
    PdfStandard.X4,
    crop_marks=True,
    pages="1",
    language="de-AT",
)
