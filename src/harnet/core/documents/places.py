"""Where an image of a document stands, in words."""

from harnet.core.documents.document import DocumentFacts, DocumentPage, PageKind
from harnet.core.documents.images import ImageOnPage
from harnet.core.measure.wording import counted

_TITLED = frozenset({PageKind.LAYOUT, PageKind.MASTER, PageKind.SHEET})
_SOURCES = {"glyph": "in a glyph", "annotation": "in an annotation", "cells": ""}


def page_label(read: DocumentFacts, page_number: int) -> str:
    """What a page of a document is called: "page 3", "slide 12, hidden", "master “Blue”".

    Empty for a text that has no pages.
    """
    page = read.page_of(page_number)
    if page is None:
        return f"page {page_number}"
    words = page.kind.value
    if page.kind is PageKind.TEXT:
        return ""
    if page.kind.is_numbered:
        words = f"{words} {page_number}"
    elif page.number is not None:
        words = f"{words} of slide {page.number}"
    if page.kind in _TITLED and page.title:
        words = f"{words} “{page.title}”"
    if page.kind is PageKind.SECTION and page.title:
        words = f"{words}, “{page.title}”"
    return f"{words}, hidden" if page.is_hidden else words


def found_where(read: DocumentFacts, finding_page: int, name: str) -> str:
    """What a finding is on: the whole document, or an image by its page and name."""
    if not finding_page:
        return f"The {read.format.noun}"
    label = page_label(read, finding_page)
    return f"{label[0].upper()}{label[1:]}, {name}" if label else name


def shown_text(page: DocumentPage) -> str:
    """On how many slides a layout or a master is seen; empty for other pages."""
    if page.shown_on is None:
        return ""
    if not page.shown_on:
        return "on no slide"
    hidden = f", {page.hidden_on} of them hidden" if page.hidden_on else ""
    return f"on {counted(page.shown_on, 'slide')}{hidden}"


def place_text(picture: ImageOnPage, page: DocumentPage | None, *, names_page: bool = True) -> str:
    """Where on its page, or in its text, an image stands; with the name of its shape.

    A PDF names nothing, so that only what is no part of the page itself is said; without
    `names_page` the slide itself is not said either.
    """
    words = [_SOURCES.get(picture.source, picture.source)]
    is_page = page is not None and page.kind.is_numbered and picture.source == page.kind.value
    if (picture.source == "page" and not picture.shape_name) or (is_page and not names_page):
        words = []
    if page is not None and page.kind in _TITLED:
        if page.kind.is_shared:
            named = f"{page.kind.value} “{page.title}”" if page.title else page.kind.value
            inside = [] if picture.source == page.kind.value else words
            words = [named, shown_text(page), *inside]
        else:
            words = [f"sheet “{page.title}”", *words]
    if picture.heading and page is not None and page.kind is PageKind.SHEET:
        words.append(f"at {picture.heading}")
    elif picture.heading:
        words.append(f"under “{picture.heading}”")
    if picture.shape_name:
        words.append(f"“{picture.shape_name}”")
    return ", ".join(one for one in words if one)


def where_text(read: DocumentFacts, picture: ImageOnPage) -> str:
    """Where an image stands, for a narrow column: a PDF's page by its number, else in words."""
    if not read.format.is_package:
        return str(picture.page_number)
    label = page_label(read, picture.page_number)
    page = read.page_of(picture.page_number)
    place = place_text(picture, page, names_page=False)
    is_named = page is not None and not page.kind.is_numbered
    words = [place] if is_named and page is not None and page.number is None else [label, place]
    return ", ".join(one for one in words if one)
