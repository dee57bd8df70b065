"""PDFs written operator by operator, and what poppler says of PDFs."""

import subprocess

import pikepdf
import pytest

from harnet.media.pdf.reading.images import painted_images


def listed_by_poppler(path, with_masks=False):
    """Rows of `pdfimages -list`, soft masks on request: page, px_w, px_h, ppi_x, ppi_y."""
    kinds = ("image", "stencil", "mask", *(["smask"] if with_masks else []))
    run = subprocess.run(["pdfimages", "-list", path], capture_output=True, text=True, check=True)
    rows = []
    for line in run.stdout.splitlines()[2:]:
        cells = line.split()
        if cells[2] in kinds:
            at = 12 if cells[10] != "[inline]" else 11
            ppi = [int(cell) if cell.isdigit() else cell for cell in cells[at : at + 2]]
            rows.append((int(cells[0]), int(cells[3]), int(cells[4]), *ppi))
    return rows


def agrees_with_poppler(path):
    _, painted = painted_images(path)
    listed = listed_by_poppler(path)
    assert len(painted) == len(listed) > 0
    for image, (page, px_w, px_h, ppi_x, ppi_y) in zip(painted, listed, strict=True):
        assert (image.page_number, image.px_w, image.px_h) == (page, px_w, px_h)
        assert image.density.x == pytest.approx(ppi_x, abs=0.51, rel=0.001)
        assert image.density.y == pytest.approx(ppi_y, abs=0.51, rel=0.001)
    return painted


class ByHand:
    """A one-page PDF written operator by operator."""

    def __init__(self, path):
        self.path = path
        self.pdf = pikepdf.new()
        self.page = self.pdf.add_blank_page(page_size=(400, 400))
        self.resources = pikepdf.Dictionary(
            XObject=pikepdf.Dictionary(), Pattern=pikepdf.Dictionary()
        )
        self.page.obj.Resources = self.resources

    def image(self, px_w=300, px_h=200, **more):
        stream = pikepdf.Stream(self.pdf, b"\0" * (px_w * px_h))
        stream.Subtype, stream.Type = pikepdf.Name.Image, pikepdf.Name.XObject
        stream.Width, stream.Height, stream.BitsPerComponent = px_w, px_h, 8
        stream.ColorSpace = pikepdf.Name.DeviceGray
        for key, value in more.items():
            stream[f"/{key}"] = value
        return self.pdf.make_indirect(stream)

    def form(self, content, **more):
        stream = pikepdf.Stream(self.pdf, content)
        stream.Subtype, stream.Type = pikepdf.Name.Form, pikepdf.Name.XObject
        stream.BBox = pikepdf.Array([0, 0, 400, 400])
        for key, value in more.items():
            stream[f"/{key}"] = value
        return self.pdf.make_indirect(stream)

    def painted(self, content):
        self.page.obj.Contents = self.pdf.make_stream(content)
        self.pdf.save(self.path)
        return painted_images(self.path)[1]
