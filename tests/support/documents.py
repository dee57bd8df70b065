"""Checked documents."""

from harnet.core.targets.shipped import target_named
from harnet.studio.documents.keeping import read_pdf
from harnet.studio.documents.uploads import add_document


def checked_leaflet(studio, out, target):
    """The number of a PDF that was drawn into a buffer, once it is read."""
    out.seek(0)
    with studio.session() as session:
        number = add_document(studio, session, "leaflet.pdf", out, target_named(target)).id
    read_pdf(studio, number)
    return number
