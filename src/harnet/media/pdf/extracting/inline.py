"""An inline image as an image of its own (ISO 32000-2, 8.9.7)."""

from typing import Any

import pikepdf

from harnet.media.pdf.walking.content import dictionary_in


def stream_of_inline(pdf: pikepdf.Pdf, inline: pikepdf.PdfInlineImage, resources: Any) -> Any:
    """A stream with the same bytes; a named colour space is that of `resources`.

    The library has written the abbreviated names out already.
    """
    stream = pdf.make_stream(inline.read_raw_bytes())
    for key, value in inline.obj.items():
        if key == "/Length":
            continue
        is_named = key == "/ColorSpace" and isinstance(value, pikepdf.Name)
        found = dictionary_in(resources, "/ColorSpace").get(value) if is_named else None
        stream[key] = value if found is None else found
    stream.Type, stream.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    return stream
