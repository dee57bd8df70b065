"""Improved copies beside the reports of a watched folder, of PDFs whose originals are there."""

import json
import tempfile
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path

import click

from harnet.core.documents.improving import ImproveSettings
from harnet.core.measure.wording import counted
from harnet.core.targets.target import Target
from harnet.media.errors import UnreadableFile
from harnet.studio.documents.making.improving import make_copy, pictures_in, plan_improvement

FOLDER = "improved"
"""The folder in the watched one that copies and their receipts are written to."""
_ENDING = ".receipt.json"


@dataclass(slots=True)
class InboxCopies:
    """Makes copies with the originals of one folder, as far as they are surely the same shots."""

    originals: Path
    target: Target
    is_gone: bool = False
    """Whether the folder was not there at the last look; that is said once."""

    def state(self) -> str | None:
        """A text that changes with what lies in the folder of originals; None where it is gone."""
        try:
            found = [(str(one), one.stat()) for one in pictures_in(self.originals)]
        except (UnreadableFile, OSError):
            if not self.is_gone:
                click.echo(f"{self.originals}: the folder is gone; copies wait for it", err=True)
            self.is_gone = True
            return None
        self.is_gone = False
        said = [(name, about.st_size, about.st_mtime_ns) for name, about in found]
        return sha256(repr(said).encode()).hexdigest()[:16]

    def improve(self, path: Path) -> dict[str, object]:
        """Writes the improved copy of a PDF and its receipt; what became of it, as values.

        A copy from before that is none any longer is taken away.
        """
        copy = path.parent / FOLDER / path.name
        try:
            return self._made(path, copy)
        except (UnreadableFile, OSError) as error:
            remove_copy(path)
            failure = str(error)
            click.echo(f"{path.name}: not improved: {failure}", err=True)
            return {"copy": None, "failure": failure}

    def _made(self, path: Path, copy: Path) -> dict[str, object]:
        settings = ImproveSettings(target=self.target)
        originals = pictures_in(self.originals)
        plan = plan_improvement(path, path.name, originals, settings)
        if not plan.changed:
            remove_copy(path)
            click.echo(f"{path.name}: no originals found")
            return {"copy": None, "replaced": 0, "still_short": len(plan.still_short)}
        copy.parent.mkdir(exist_ok=True)
        with tempfile.TemporaryDirectory(dir=copy.parent, prefix=".harnet-") as room:
            receipt = make_copy(plan, copy, Path(room))
        if not receipt.is_proven:
            raise UnreadableFile(path.name, "the copy could not be proven: " + receipt.faults[0])
        text = json.dumps(receipt.as_json(), ensure_ascii=False, indent=1) + "\n"
        copy.with_name(copy.name + _ENDING).write_text(text, encoding="utf-8")
        plan = receipt.plan
        short = len(plan.still_short)
        click.echo(
            f"{path.name}: {counted(len(plan.changed), 'image')} replaced, {short} still short:"
            f" {FOLDER}/{copy.name}"
        )
        name = f"{FOLDER}/{copy.name}"
        return {"copy": name, "replaced": len(plan.changed), "still_short": short}


def remove_copy(path: Path) -> None:
    """Removes the copy of a PDF and its receipt; only those that stand together."""
    copy = path.parent / FOLDER / path.name
    receipt = copy.with_name(copy.name + _ENDING)
    if receipt.exists():
        receipt.unlink()
        copy.unlink(missing_ok=True)
