"""The demo jobs: the visitor handbook, the quay banner and the ticket-hall screens."""

from sqlalchemy.orm import Session

from harnet.core.layout.shape import Shape
from harnet.core.measure.units import Unit
from harnet.core.targets.target import OWN
from harnet.demo.catalogue import make_catalogue
from harnet.demo.layout import (
    BODY,
    CAPTION,
    HEADING,
    LIGHT_BODY,
    STYLES,
    TITLE,
    DemoPage,
)
from harnet.media.pagedrawing.text_lines import TextStyle
from harnet.store.tables.jobs import Job
from harnet.store.tables.pictures import Picture
from harnet.studio.jobs.jobs import NewJob, make_job
from harnet.studio.targets.targets import target_asked

Shelf = dict[str, Picture]

_ARRIVAL = (
    "Tarnholm Light has stood on its rock since 1871. Boats leave the town quay at every full"
    " hour from April to October, wind and sea allowing. The crossing takes twenty minutes; wear"
    " something warm, even in July.\nFrom the landing a path of two hundred steps leads up to the"
    " keepers’ yard. Take your time: there is a bench at every turn, and each has a view of its"
    " own."
)
_TOWER = (
    "The tower is thirty-one metres tall and built of granite from the mainland, each block"
    " dovetailed into the next. One hundred and forty-two steps wind up to the gallery. Children"
    " are welcome when they can climb by themselves.\nThe lamp was lit with rape oil, then with"
    " paraffin, and since 1958 with a single electric bulb no larger than a teacup."
)
_KEEPERS = (
    "Three keepers lived here at a time, four weeks on the rock and two ashore. They cooked in"
    " turn, wound the clockwork every ninety minutes, and wrote down every ship, every squall and"
    " every bird that struck the glass. Their books fill eleven shelves."
)
_STORES = (
    "Everything came by boat: oil, coal, flour, letters. The rope store still smells of tar. Pull"
    " the bell rope once, not twice; twice calls the lifeboat."
)
_BIRDS = (
    "Gulls, terns and now and then a puffin rest on the northern ledges. Please keep to the"
    " marked path from May to July, while they breed."
)


def make_jobs(session: Session, shelf: Shelf) -> list[Job]:
    """All demo jobs; the handbook comes last, so that it is the one edited last."""
    makers = (_notice_board, _banner, _screens, make_catalogue, _handbook)
    return [make(session, shelf) for make in makers]


def _handbook(session: Session, shelf: Shelf) -> Job:
    new = NewJob.measured(
        "Tarnholm Light: visitor handbook",
        148,
        210,
        bleed_mm=3,
        margin_mm=14,
        pages=12,
        is_facing=True,
    )
    job = make_job(session, new)
    job.text_styles = STYLES
    page = [DemoPage(page, shelf) for page in job.pages]
    # Where pictures on the inner pages begin.
    job.pages[2].guides = {"y": [39.685]}

    page[0].picture("cover-dusk.jpg", (-3, -3, 154, 216), 340)
    page[0].picture("crest.svg", (14, 14, 26, 26))
    page[0].text("Tarnholm Light", (14, 150, 120, 14), TITLE)
    page[0].text("The visitor handbook", (14, 164, 120, 8), LIGHT_BODY)

    page[1].picture("fog-signal.jpg", (-3, -3, 154, 118), 303)
    page[1].text("Getting here", (14, 124, 120, 10), HEADING)
    page[1].text(_ARRIVAL, (14, 136, 120, 50))
    page[1].text(
        "The fog signal sounded every forty seconds until 1988.", (14, 192, 120, 8), CAPTION
    )

    page[2].picture("slipway.jpg", (14, 14, 120, 84), 292)
    page[2].picture("tide-table.png", (14, 106, 56, 37.4))
    page[2].text("Tides", (78, 106, 56, 10), HEADING)
    page[2].text(
        "The slipway dries two hours either side of low water. Ask at the ticket hall for the"
        " day’s times.",
        (78, 117, 56, 40),
    )
    page[2].text("Granite of the old slipway.", (14, 99, 120, 6), CAPTION)

    page[3].picture("harbour-morning.jpg", (-3, -3, 154, 110), 455)
    page[3].picture("rope-store.jpg", (14, 114, 58, 42), 279)
    page[3].picture("gull-close.png", (76, 114, 58, 42), 61)
    page[3].text("Birds and boats", (14, 162, 120, 10), HEADING)
    page[3].text(_BIRDS, (14, 173, 120, 30))

    page[4].picture("north-gallery.jpg", (14, 26, 120, 83), 212)
    page[4].text("The north gallery", (14, 12, 120, 10), HEADING)
    page[4].text(_TOWER, (14, 116, 120, 60))

    page[5].picture("lamp-room.jpg", (14, 14, 120, 96), 236)
    page[5].picture("crest.svg", (116, 190, 18, 18))
    page[5].text("The lamp", (14, 116, 120, 10), HEADING)
    page[5].text(_STORES, (14, 128, 120, 40))

    page[6].picture("keeper-1931.tif", (21, 14, 105, 155), (171, 148))
    page[6].text("The rock in the winter of 1931.", (21, 171, 105, 6), CAPTION)
    page[6].text("A print from the station’s own darkroom.", (21, 177, 105, 6), CAPTION)

    page[7].picture("letter-1931.tif", (14, 20, 62, 88), 300, rotation_deg=-4)
    page[7].picture("chart-1888.tif", (80, 14, 54, 72), 1210)
    page[7].text("The keepers", (14, 116, 120, 10), HEADING)
    page[7].text(_KEEPERS, (14, 128, 120, 50))
    page[7].text("Engraving for the sailing directions of 1888.", (80, 88, 54, 12), CAPTION)

    page[8].rectangle((-3, -3, 154, 216), "#e9e2d2")
    page[8].picture("tower-postcard.gif", (14, 20, 120, 160), 102)
    page[8].text("A postcard sold on the quay, about 1960.", (14, 184, 120, 6), CAPTION)

    page[9].picture("signal-flags.tif", (14, 26, 120, 80), 316)
    page[9].text("Say it with flags", (14, 12, 120, 10), HEADING)
    page[9].picture("tower-stair.jpg", (14, 114, 58, 72), 470)
    page[9].picture("tide-steps.jpg", (76, 114, 58, 72), 250)
    page[9].text("Two hundred steps outside, 142 inside.", (14, 188, 120, 6), CAPTION)

    page[10].picture("map-inset.png", (24, 26, 100, 75), 1200)
    page[10].text("Round the island", (14, 12, 120, 10), HEADING)
    page[10].picture("storm-watch.jpg", (14, 110, 120, 80), 388)
    page[10].text("Storm watch, from the mainland.", (14, 192, 120, 6), CAPTION)

    page[11].picture("cover-dusk.jpg", (-3, -3, 154, 70), 344)
    page[11].picture("rope-store.jpg", (14, 80, 40, 30), 640)
    page[11].picture("fog-signal.jpg", (58, 80, 40, 30), 820)
    page[11].picture("crest.svg", (106, 80, 28, 28))
    page[11].text("The Tarnholm Light Trust keeps the tower open.", (14, 118, 120, 10), BODY)
    return job


def _notice_board(session: Session, shelf: Shelf) -> Job:
    """One of everything that frames and links can be; the links are set by the loader."""
    new = NewJob.measured("Quay notice board", 420, 297, bleed_mm=3, margin_mm=15, pages=2)
    job = make_job(session, new)
    job.text_styles = STYLES
    page = DemoPage(job.pages[0], shelf)
    page.rectangle((15, 15, 390, 26), "#0b5f6b")
    page.text("On the quay this month", (24, 19, 300, 20), TITLE)
    page.picture("lamp-room.jpg", (15, 52, 120, 80), shape=Shape.ROUNDED, radius_mm=8)
    page.picture("tower-stair.jpg", (150, 52, 80, 80), shape=Shape.ELLIPSE)
    page.picture("notice-photo.jpg", (245, 52, 160, 80))
    page.picture("rope-store.jpg", (15, 150, 110, 80), flip_h=True)
    page.frame((262, 150, 143, 90))
    page.line((15, 248, 390, 2), "#7a1f3d", 2)
    page.text(
        "Ask at the ticket hall for the key of the rope store. The store is open on the first"
        " Sunday of the month, and the keepers’ yard whenever the flag is up. Dogs are welcome on"
        " a lead; drones are not.",
        (150, 254, 60, 14),
    )
    _what_went_wrong(job, shelf)
    return job


def _what_went_wrong(job: Job, shelf: Shelf) -> None:
    """The second page: things that nobody meant, each with a finding of its own."""
    page = DemoPage(job.pages[1], shelf)
    page.picture("harbour-morning.jpg", (0, 0, 210, 100), 420)
    page.picture("harbour-scan.jpg", (20, 115, 120, 80), 330)
    page.picture("ferry-fax.jpg", (160, 115, 70, 46), 320)
    page.picture("quay-inks.tif", (250, 115, 70, 46), 320)
    page.picture("porthole.png", (340, 115, 60, 60), 380)
    page.picture("tower-stair.jpg", (40, 210, 60, 70), 450)
    page.rectangle((30, 205, 90, 82), "#e9e2d2")
    page.picture("storm-watch.jpg", (440, 120, 60, 40), 700)
    page.text("Still to be sorted out", (160, 210, 200, 14), HEADING)


def _banner(session: Session, shelf: Shelf) -> Job:
    # 44 ppi: seen from 2 m, by one arc minute.
    target = target_asked(session, OWN, 44, target_asked(session, "large"))
    new = NewJob.measured("Quay banner", 850, 2000, target=target)
    job = make_job(session, new)
    page = DemoPage(job.pages[0], shelf)
    page.rectangle((0, 0, 850, 2000), "#1c2833")
    page.picture("cover-dusk.jpg", (0, 0, 850, 1180))
    page.picture("harbour-morning.jpg", (60, 1240, 350, 240))
    page.picture("north-gallery.jpg", (440, 1240, 350, 240))
    page.picture("gull-close.png", (60, 1510, 350, 240))
    page.picture("crest.svg", (580, 1560, 190, 190))
    page.text(
        "Tarnholm Light",
        (60, 1800, 730, 120),
        TextStyle(font="sans-600", size_pt=260, leading_pt=280, colour="#f3eee2"),
    )
    return job


def _screens(session: Session, shelf: Shelf) -> Job:
    slides = target_asked(session, "slides")
    new = NewJob.measured("Ticket-hall screens", 1920, 1080, Unit.PX, 96, pages=3, target=slides)
    job = make_job(session, new)
    full = (0.0, 0.0, 508.0, 285.75)
    names = ("harbour-morning.jpg", "storm-watch.jpg", "north-gallery.jpg")
    words = ("Boats at every full hour", "Open in most weathers", "142 steps to the gallery")
    for made, name, text in zip(job.pages, names, words, strict=True):
        page = DemoPage(made, shelf)
        page.picture(name, full)
        page.rectangle((0, 225, 508, 60.75), "#1c2833")
        page.text(
            text,
            (24, 240, 460, 36),
            TextStyle(font="sans-600", size_pt=64, leading_pt=70, colour="#f3eee2"),
        )
    return job
