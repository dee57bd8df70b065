"""PDFs made elsewhere, with what such PDFs bring: strips, a font by name alone, poor pictures."""

from pathlib import Path

from PIL import Image, ImageCms, ImageDraw, ImageEnhance, ImageFont
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from harnet.media.pixels.colour import generic_cmyk

FESTIVAL_NAME, FAIR_NAME = "harbour festival leaflet.pdf", "quay fair programme.pdf"
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


def write_fair_programme(pictures: Path, path: Path) -> None:
    """Two pages on A5 with poor images of every kind: their originals lie on the demo's shelf.

    One is whole, one cropped, one turned, one grey, one CMYK and one mirrored; one is in another
    tone, one has a headline; one has no original anywhere, and one has far more pixels than anybody
    needs.
    """
    canvas = Canvas(str(path), pagesize=_A5, invariant=1)
    canvas.setTitle("Quay fair")
    canvas.setProducer("Quay copy shop")

    def placed(image: Image.Image, x: float, y: float, width: float) -> None:
        canvas.drawImage(ImageReader(image), x, y, width, width * image.height / image.width)

    def part(name: str, box: tuple[float, float, float, float], px_w: int) -> Image.Image:
        """A part of a picture, its box in shares of the edges, with few pixels."""
        image = Image.open(pictures / name).convert("RGB")
        left, top, right, bottom = (
            share * edge for share, edge in zip(box, image.size * 2, strict=True)
        )
        size = px_w, round(px_w * (bottom - top) / (right - left))
        return image.resize(size, Image.Resampling.LANCZOS, box=(left, top, right, bottom))

    whole = (0.0, 0.0, 1.0, 1.0)
    placed(part("harbour-morning.jpg", whole, 420), 30, 380, 250)
    placed(part("storm-watch.jpg", (0.2, 0.1, 0.85, 0.9), 300), 30, 180, 170)
    turned = part("slipway.jpg", whole, 300).transpose(Image.Transpose.ROTATE_90)
    placed(turned, 230, 150, 120)
    canvas.setFont("Helvetica-Bold", 22)
    canvas.drawString(30, 100, "Quay fair")
    canvas.showPage()
    placed(part("rope-store.jpg", whole, 300).convert("L"), 30, 400, 170)
    placed(_in_inks(part("north-gallery.jpg", whole, 300)), 220, 400, 170)
    mirrored = part("fog-signal.jpg", whole, 300).transpose(Image.Transpose.FLIP_LEFT_RIGHT)
    placed(mirrored, 30, 230, 170)
    placed(_striped(240), 220, 230, 110)
    placed(part("cover-dusk.jpg", whole, 1600), 340, 230, 50)
    placed(_aged(part("lamp-room.jpg", whole, 300)), 30, 60, 170)
    placed(_titled(part("cover-dusk.jpg", (0.0, 0.1, 1.0, 0.6), 300)), 220, 60, 150)
    canvas.setFont("Helvetica", 10)
    canvas.drawString(30, 200, "Music from noon. The stripes are the tent's.")
    canvas.showPage()
    canvas.save()


def _in_inks(image: Image.Image) -> Image.Image:
    """A picture in the inks of the generic profile, as an export for the press has it."""
    srgb = ImageCms.createProfile("sRGB")
    made = ImageCms.profileToProfile(image, srgb, generic_cmyk(), outputMode="CMYK")
    assert made is not None
    return made


def _aged(image: Image.Image) -> Image.Image:
    """A picture made darker and warmer, all over."""
    warm = image.convert("RGB", (0.9, 0.1, 0, 8, 0.05, 0.85, 0, 2, 0.02, 0.1, 0.6, 0))
    return ImageEnhance.Brightness(warm).enhance(0.85)


def _titled(image: Image.Image) -> Image.Image:
    """A picture with a headline inside."""
    pen = ImageDraw.Draw(image)
    font = ImageFont.load_default(size=image.height // 5)
    pen.text((image.width // 12, image.height // 8), "Quay fair", font=font, fill="#f6e7b4")
    return image


def _striped(px: int) -> Image.Image:
    """A tent's cloth, of which there is no picture on any shelf."""
    image = Image.new("RGB", (px, px), "#f4ead2")
    for left in range(0, px, px // 6):
        image.paste("#a63d2f", (left, 0, left + px // 12, px))
    return image
