"""A program that uses the HTTP API."""

import io

from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.support.pictures import photo

API = "/api/v1"


class Program:
    """A program with a token."""

    def __init__(self, client, token):
        self.client = client
        self.headers = {"Authorization": f"Bearer {token}"}

    def asks(self, method, address, status=200, **more):
        answer = self.client.open(API + address, method=method, headers=self.headers, **more)
        assert answer.status_code == status, answer.text
        if status >= 400:
            assert answer.mimetype == "application/problem+json"
            assert answer.json["status"] == status
        return answer.json if answer.is_json and answer.data else answer

    def hands_in(self, address, name, data, status, **fields):
        file = (io.BytesIO(data), name)
        return self.asks("POST", address, status, data={"file": file, **fields})


def jpeg(seed=1):
    out = io.BytesIO()
    Image.fromarray(photo(600, 400, seed=seed)).save(out, "JPEG", dpi=(300, 300))
    return out.getvalue()


def leaflet(width_pt=144):
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(400, 300), invariant=True)
    canvas.drawImage(
        ImageReader(Image.fromarray(photo(300, 200))), 20, 20, width_pt, width_pt * 2 / 3
    )
    canvas.save()
    return out.getvalue()
