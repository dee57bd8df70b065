"""A PDF made elsewhere, with what such PDFs bring: strips, a font by name alone, thin pictures."""

from pathlib import Path

from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

FESTIVAL_NAME = "harbour festival leaflet.pdf"
_A5 = (419.53, 595.28)
_STRIPS = 8


def write_festival_leaflet(pictures: Path, path: Path) -> None:
    """Three pages on A5; the second is cut to strips, the third lies on its side."""
    canvas = Canvas(str(path), pagesize=_A5, invariant=1)
    canvas.setTitle("Harbour festival")
    canvas.setProducer("Quay copy shop")

    def placed(name: str, x: float, y: float, width: float, px_w: int | None = None) -> None:
        image = Image.open(pictures / name).convert("RGB")
        if px_w:
            image = image.resize((px_w, round(image.height * px_w / image.width)))
        canvas.drawImage(ImageReader(image), x, y, width, width * image.height / image.width)

    placed("storm-watch.jpg", 0, 300, 419.53)
    placed("fog-signal.jpg", 30, 60, 170, 560)
    placed("slipway.jpg", 220, 60, 170, 1000)
    canvas.setFont("Helvetica-Bold", 24)
    canvas.drawString(30, 250, "Harbour festival")
    canvas.showPage()
    whole = Image.open(pictures / "harbour-morning.jpg").convert("RGB").resize((1500, 1000))
    for index in range(_STRIPS):
        strip = whole.crop((0, index * 125, 1500, (index + 1) * 125))
        top = 540 - index * 30
        canvas.drawImage(ImageReader(strip), 30, top - 30, 360, 30)
    placed("rope-store.jpg", 30, 80, 150)
    canvas.saveState()
    canvas.translate(300, 130)
    canvas.rotate(12)
    placed("lamp-room.jpg", -60, -40, 140, 420)
    canvas.restoreState()
    canvas.setFont("Helvetica", 10)
    canvas.drawString(30, 60, "Ropes and lamps are shown all day.")
    canvas.showPage()
    canvas.setPageRotation(90)
    placed("cover-dusk.jpg", 40, 60, 330)
    # Pushed off the page by whoever made this.
    placed("slipway.jpg", 620, 60, 100, 300)
    canvas.showPage()
    canvas.save()
