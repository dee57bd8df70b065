"""Sending outputs to print houses: asked in the worker, the answer is kept with the output."""

import shutil
import tempfile
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from harnet.core.output.kind import PDF
from harnet.store.base import now_utc
from harnet.store.tables.output import Output
from harnet.studio.common.errors import NotThere, Refused
from harnet.studio.common.studio import Studio
from harnet.studio.output.outputs import output_with
from harnet.studio.outside.print_house import IntakeError, PrintHouse
from harnet.studio.tasks.states import DONE
from harnet.studio.tasks.task import Task

WAITS, TAKEN, REFUSED, NOT_SENT = "waiting", "accepted", "refused", "not sent"
_MOST_ANSWERS = 20


def house_with(studio: Studio, key: str) -> PrintHouse:
    """The print house of that key.

    Raises:
        NotThere: there is none.
    """
    for house in studio.print_houses:
        if house.key == key:
            return house
    raise NotThere(f"There is no print house named “{key}”.")


def send(studio: Studio, session: Session, output: Output, key: str) -> None:
    """Records that a print house is asked; the worker carries it there.

    Raises:
        Refused: not a finished PDF, or it is on its way to that house already.
    """
    house = house_with(studio, key)
    if output.kind != PDF or output.state != DONE:
        raise Refused("Print houses take finished PDFs.")
    if any(one["house"] == key and one["state"] == WAITS for one in output.answers):
        raise Refused(f"It is already on its way to {house.name}.")
    waiting = {"house": key, "name": house.name, "state": WAITS, "at": now_utc().isoformat()}
    output.answers = [*output.answers, waiting][-_MOST_ANSWERS:]


def ask_house(studio: Studio, output_id: int, key: str) -> None:
    """Carries an output to a print house and keeps the answer; the worker calls this."""
    house = house_with(studio, key)
    with studio.session() as session:
        output = session.get(Output, output_id)
        if output is None or output.sha256 is None:
            return
        sha256 = output.sha256
    folder = Path(tempfile.mkdtemp(dir=studio.settings.scratch_folder))
    try:
        path = folder / "sent.pdf"
        studio.blobs.copy_to(sha256, path)
        answer = _answer(house, path)
    except FileNotFoundError:
        answer = {"state": NOT_SENT, "reasons": ["The file is no longer stored."], "looked_at": []}
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    with studio.session() as session:
        output = output_with(session, output_id)
        answered = {"house": key, "name": house.name, "at": now_utc().isoformat(), **answer}
        others = [one for one in output.answers if (one["house"], one["state"]) != (key, WAITS)]
        output.answers = [*others, answered]


def _answer(house: PrintHouse, path: Path) -> dict[str, Any]:
    try:
        answer = house.take(path)
    except IntakeError as error:
        return {"state": NOT_SENT, "reasons": [str(error)], "looked_at": []}
    return {
        "state": TAKEN if answer.accepted else REFUSED,
        "reasons": list(answer.reasons),
        "looked_at": list(answer.looked_at),
    }


ASK_HOUSE = Task(name="ask_house", queue="outputs", run=ask_house)
