"""The command, run as a process of its own."""

import os
import subprocess
import sys
from pathlib import Path

from PIL import Image
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from tests.support.pictures import photo

HARNET = Path(sys.executable).with_name("harnet")


def harnet(*arguments):
    """Runs the command as another tool would: no database, no server, nothing set."""
    clean = {name: value for name, value in os.environ.items() if not name.startswith("HARNET")}
    return subprocess.run(
        [HARNET, *map(str, arguments)], capture_output=True, text=True, env=clean, check=False
    )


def flyer(path, width_pt):
    canvas = Canvas(str(path))
    canvas.drawImage(ImageReader(Image.fromarray(photo())), 0, 0, width_pt, width_pt * 2 / 3)
    canvas.showPage()
    canvas.save()
