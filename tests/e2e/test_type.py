"""Text: what the browser sets and what the PDF holds are the same lines, equally wide."""

import pypdfium2
import pytest

from harnet.core.measure.geometry import Box
from harnet.core.output.pdf_settings import PdfSettings
from harnet.media.pagedrawing.text_lines import FONT_NAMES
from harnet.standins.studio import open_studio
from harnet.studio.jobs.jobs import NewJob, make_job, whole_job
from harnet.studio.layout.arranging import add_item, set_style
from harnet.studio.layout.placed import TEXT
from harnet.studio.output.rendering import make_pdf
from harnet.studio.output.task import pages_to_draw

WIDE = "To AVAIL, Tovar: Ελλάδα Πύργος, Привет Фонарь, ő ș ğ Ł, fi ffl Wave"
LATIN = "To AVAIL, Tovar: ő ș ğ Ł, fi ffl Wave at the quay"
WORDS = dict.fromkeys(FONT_NAMES, WIDE) | {"slab-400": LATIN, "mono-400": LATIN}


@pytest.fixture
def specimen(live):
    """A job with a frame of text in each font, and the same as a PDF's bytes on disk."""
    studio = open_studio(live.settings)
    with studio.session() as session:
        job = make_job(session, NewJob.measured("Specimen", 210, 297))
        for place, font in enumerate(FONT_NAMES):
            box = Box(30, 30 + 125 * place, 260, 120)
            item = add_item(session, job, job.pages[0], TEXT, box)
            style = {"font": font, "size_pt": 17.0, "leading_pt": 22.0}
            set_style(session, job, item, style, WORDS[font])
        number = job.id
    yield studio, number
    studio.engine.dispose()


_LINES = """() => [...document.querySelectorAll("#canvas text[class^=font-]")].map((line) => {
  const font = [...document.fonts].find((one) => one.family.includes(line.className.baseVal)
    || getComputedStyle(line).fontFamily.includes(one.family.replaceAll('"', "")));
  return [line.textContent.trim(), line.getComputedTextLength(), font?.status];
})"""


def test_lines_are_as_wide_in_the_browser_as_in_the_pdf(page, specimen, tmp_path):
    studio, number = specimen
    page.goto(f"/jobs/{number}/pages")
    page.evaluate("document.fonts.ready")
    lines = page.evaluate(_LINES)
    assert len(lines) >= 2 * len(FONT_NAMES) and {status for *_, status in lines} == {"loaded"}
    with studio.session() as session:
        document = pages_to_draw(studio, whole_job(session, number))
    out = tmp_path / "specimen.pdf"
    make_pdf(document, PdfSettings(), out, lambda done, total: None)
    with pypdfium2.PdfDocument(out) as pdf:
        text = pdf[0].get_textpage()
        whole, start = text.get_text_range(), 0
        for words, width, _ in lines:
            start = whole.index(words, start)
            first, last = (
                text.get_charbox(at, loose=True) for at in (start, start + len(words) - 1)
            )
            assert last[2] - first[0] == pytest.approx(width, rel=0.005), words
            start += len(words)
