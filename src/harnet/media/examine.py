"""Reading a stranger's file in a process of its own, with bounds on memory and time.

A decoder that runs away or crashes takes this process down and nothing else.
"""

import json
import resource
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

from harnet.core.picture import Facts, facts_as_row, facts_from_row
from harnet.media.errors import UnreadableFile
from harnet.media.limits import EXAMINE_MEMORY_BYTES, EXAMINE_SECONDS


@dataclass(frozen=True, slots=True)
class Examined:
    """A picture's facts and the previews that were written of it."""

    facts: Facts
    previews: dict[str, Path]


def examine(path: Path, name: str, folder: Path) -> Examined:
    """Facts and previews of a file; the previews are written into `folder`.

    Raises:
        UnreadableFile: the file cannot be used, or its decoder ran out of its bounds.
    """
    command = [sys.executable, "-m", "harnet.media.examine", str(path), name, str(folder)]
    try:
        run = subprocess.run(command, capture_output=True, timeout=EXAMINE_SECONDS, check=False)
    except subprocess.TimeoutExpired:
        raise UnreadableFile(
            name, f"reading it took longer than {EXAMINE_SECONDS} seconds", "Save it anew, simpler"
        ) from None
    try:
        answer = json.loads(run.stdout)
    except ValueError:
        raise UnreadableFile(
            name, "its content brought the decoder down", "Save it anew in another format"
        ) from None
    if "trouble" in answer:
        raise UnreadableFile(name, answer["trouble"], answer["advice"])
    previews = {size: Path(made) for size, made in answer["previews"].items()}
    return Examined(facts_from_row(answer["facts"]), previews)


def _main(path: Path, name: str, folder: Path) -> dict[str, object]:
    resource.setrlimit(resource.RLIMIT_AS, (EXAMINE_MEMORY_BYTES, EXAMINE_MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (EXAMINE_SECONDS, EXAMINE_SECONDS))
    # Imported here so that reading facts in the web process never loads a decoder.
    from harnet.media.facts.read import facts_of  # noqa: PLC0415
    from harnet.media.previews import write_previews  # noqa: PLC0415

    try:
        facts = facts_of(path, name)
        previews = write_previews(path, facts, name, folder)
    except UnreadableFile as error:
        return {"trouble": error.trouble, "advice": error.advice}
    return {
        "facts": facts_as_row(facts),
        "previews": {size: str(made) for size, made in previews.items()},
    }


if __name__ == "__main__":
    print(json.dumps(_main(Path(sys.argv[1]), sys.argv[2], Path(sys.argv[3]))))
