"""The shop catalogue of the demo: a pattern page and a table, a page for each thing on sale."""

from pathlib import Path

from sqlalchemy.orm import Session

from harnet.demo.layout import BODY, CAPTION, HEADING, STYLES, DemoPage
from harnet.media.pagedrawing.text_lines import TextStyle
from harnet.store.tables.jobs import Job
from harnet.store.tables.pictures import Picture
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.layout.rows import make_pages, read_rows, suggested_binding

TABLE_NAME = "shop catalogue.csv"
TABLE = """\
number,name,price,picture,words
101,Postcard: harbour,1.20,harbour-morning.jpg,"The quay at seven in the morning, before the ferry."
102,Postcard: dusk,1.20,cover-dusk.jpg,"The tower as it is lit; our most sent card."
103,Postcard: 1931,1.20,tower-postcard.gif,"A card that the keepers sold themselves, printed again."
104,Poster: storm watch,14.00,storm-watch.jpg,"On matt paper, 50 × 33 cm, in a tube."
105,Poster: fog,14.00,fog-signal.jpg,"On matt paper, 50 × 33 cm, in a tube."
106,Sea chart of 1888,22.00,chart-1888.tif,"The archive’s engraving at its full size."
107,Signal flags,9.50,signal-flags.tif,"Forty flags and what they say, on a tea towel."
108,Rope mat,28.00,rope-store.jpg,"Made in the rope store by the friends of the light."
109,Carved gull,35.00,gull-close.png,"Lime wood, each one different."
110,Keepers’ mug,8.00,keepers-mug.jpg,"Enamel, blue rim; survives a fall of thirty-one metres."
111,Lamp room by night,18.00,lamp-room.jpg,"A print by the trust’s own photographer."
112,Voucher,10.00,,"For a crossing, with a tea on the rock."
"""
_PRICE = TextStyle(font="sans-600", size_pt=13, leading_pt=16, colour="#7a1f3d")


def make_catalogue(session: Session, shelf: dict[str, Picture]) -> Job:
    """A cover, then a page of each record; one picture of the table is on no shelf."""
    new = NewJob.measured("Shop catalogue", 148, 105, bleed_mm=3, margin_mm=8, pages=2)
    job = make_job(session, new)
    job.text_styles = STYLES
    job.grid = {"columns": 2, "gutter_pt": 11.34}
    cover, pattern = (DemoPage(page, shelf) for page in job.pages)
    cover.picture("north-gallery.jpg", (-3, -3, 154, 111))
    cover.rectangle((8, 70, 84, 27), "#fbfaf6")
    cover.text("The shop on the rock", (13, 73, 76, 10), HEADING)
    cover.text("Everything is also sold at the ticket hall.", (13, 84, 76, 8), CAPTION)
    pattern.frame((8, 8, 82, 89))
    pattern.text("{name}", (96, 12, 46, 22), HEADING)
    pattern.text("{price} crowns", (96, 36, 46, 8), _PRICE)
    pattern.text("{words}", (96, 48, 44, 36), BODY)
    pattern.line((96, 88, 44, 0), "#b9c2c8", 0.5)
    pattern.text("No. {number}", (96, 90, 44, 6), CAPTION)
    session.flush()
    table = read_rows(TABLE.encode())
    make_pages(session, job, 2, table, suggested_binding(job.pages[1], table))
    return job


def write_table(folder: Path) -> None:
    """The table as a file, to try the same by hand."""
    (folder / TABLE_NAME).write_text(TABLE, encoding="utf-8")
