"""`harnet improve`: a copy of a document with originals in place of its poor images, proven."""

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

import click

from harnet.cli.export import progress_of
from harnet.cli.files import password_option, path_meant, quiet_option
from harnet.cli.interruptions import interruptible
from harnet.cli.tables import print_json, print_table
from harnet.cli.targets import target_meant, target_option
from harnet.core.documents.improving import (
    AT_TARGET,
    MOST_TIMES,
    CopyColours,
    Fate,
    ImproveSettings,
)
from harnet.core.documents.same_shot import Sureness
from harnet.core.measure.wording import bytes_text, counted
from harnet.core.output.pdf_settings import DEFAULT_THRESHOLD
from harnet.media.errors import UnreadableFile
from harnet.media.pixels.colour import checked_profile_file
from harnet.studio.documents.making.improving import (
    Plan,
    Receipt,
    Tell,
    make_copy,
    pictures_in,
    plan_improvement,
    silent,
)
from harnet.studio.documents.making.unlocking import Locked, readable

_SOME_SHORT, _NOTHING_WRITTEN = 1, 2
_PATH = click.Path(path_type=Path)


@click.command()
@click.argument("file", type=_PATH)
@target_option()
@click.option("--from", "folder", type=_PATH, help="The folder of the originals, with those below.")
@click.option("--out", type=_PATH, help="The copy to write; the original is never overwritten.")
@click.option("--receipt", "receipt_path", type=_PATH, help="Write the receipt as JSON.")
@click.option("--pages", default="all", show_default=True, help="Pages, such as 1-3,7.")
@password_option
@click.option(
    "--cut-away",
    "cuts",
    is_flag=True,
    help="In slide decks and texts: also cut away for good what is cropped off.",
)
@click.option("--trim", is_flag=True, help="Also downsample images far above the target.")
@click.option(
    "--colour",
    type=click.Choice([one.value for one in CopyColours]),
    default=CopyColours.KEEP.value,
    show_default=True,
    help="New images: the colour space of the old ones, or CMYK for the target.",
)
@click.option("--profile", type=_PATH, help="The CMYK profile; the generic one if omitted.")
@click.option(
    "--choose",
    type=click.Choice([Sureness.SURE.value, Sureness.PERHAPS.value]),
    default=Sureness.SURE.value,
    show_default=True,
    help="Use only originals that are surely the same shot, or also those that may be.",
)
@click.option(
    "--accept-edited",
    is_flag=True,
    help="Also replace images that somebody edited; this undoes the edit.",
)
@click.option(
    "--own-tone",
    is_flag=True,
    help="Originals keep their own tone; pages will look different.",
)
@quiet_option
@click.option("--no-more", is_flag=True, help="New images at the target, not at up to 1.5 × it.")
@click.option("--quality", type=click.IntRange(1, 100), default=92, show_default=True)
@click.option("--dry-run", is_flag=True, help="Print the plan and write nothing.")
@click.option(
    "--format",
    "form",
    type=click.Choice(["table", "json"]),
    default="table",
    show_default=True,
    help="How the plan or the receipt is printed.",
)
def improve(
    file: Path,
    wanted: str,
    folder: Path | None,
    out: Path | None,
    receipt_path: Path | None,
    form: str,
    dry_run: bool,
    **options: Any,
) -> None:
    """A copy of FILE, a document, with denser originals in place of images that fall short.

    FILE is a PDF, a slide deck, a text, a book or an SVG. Originals are looked for in a folder by
    what they show, and proven; only those parts are used that the images show, in the images' own
    colours. Everything else stays as it is, and the copy
    is drawn beside FILE before it is written. Images that look like their originals, in colour and
    place by place, are replaced; those in another tone keep their tone; those that somebody edited
    are left. FILE may be - for standard input. Exit code 0: all that was asked for was done; 1:
    some images stay short of the target; 2: nothing was written; 130 or 143: interrupted.
    """
    if out is None and not dry_run:
        raise click.UsageError("say where the copy goes, --out COPY, or ask for --dry-run")
    if out is not None and out.resolve() == file.resolve():
        raise click.UsageError("the original is never overwritten; name another file with --out")
    settings = ImproveSettings(
        target=target_meant(wanted),
        most_times=AT_TARGET if options["no_more"] else MOST_TIMES,
        colours=CopyColours(options["colour"]),
        chooses=Sureness(options["choose"]),
        threshold=DEFAULT_THRESHOLD if options["trim"] else None,
        quality=options["quality"],
        cuts=options["cuts"],
        accepts_edited=options["accept_edited"],
        carries_tone=not options["own_tone"],
    )
    with interruptible(), path_meant(file) as (path, name):
        _improve(path, name, out, receipt_path, form, settings, folder, dry_run, options)


def _improve(
    file: Path,
    name: str,
    out: Path | None,
    receipt_path: Path | None,
    form: str,
    settings: ImproveSettings,
    folder: Path | None,
    dry_run: bool,
    options: dict[str, Any],
) -> None:
    tell = silent if options["quiet"] else _told
    try:
        if options["profile"] is not None:
            checked_profile_file(options["profile"], str(options["profile"]))
        originals = pictures_in(folder) if folder is not None else []
        with readable(file, name, options["password"]) as (plain, locked):
            plan = plan_improvement(
                plain,
                name,
                originals,
                settings,
                pages=options["pages"],
                tell=tell,
            )
            if dry_run or out is None:
                _print_plan(plan, form)
                sys.exit(_SOME_SHORT if plan.still_short else 0)
            receipt = _made(plan, out, options["profile"], locked, tell)
    except UnreadableFile as error:
        click.echo(str(error), err=True)
        sys.exit(_NOTHING_WRITTEN)
    except OSError as error:
        click.echo(f"{error.filename}: {(error.strerror or str(error)).lower()}", err=True)
        sys.exit(_NOTHING_WRITTEN)
    if receipt_path is not None:
        receipt_path.write_text(json.dumps(receipt.as_json(), indent=2, ensure_ascii=False) + "\n")
    _print_receipt(receipt, out, form)
    if not receipt.is_proven:
        sys.exit(_NOTHING_WRITTEN)
    sys.exit(_SOME_SHORT if receipt.plan.still_short else 0)


def _told(what: str, done: int, of: int) -> None:
    """How far it is, on a terminal alone: one line that is written anew."""
    if sys.stderr.isatty():
        progress_of(what)(done, of)


def _made(
    plan: Plan, out: Path, profile: Path | None, locked: Locked | None, tell: Tell
) -> Receipt:
    out.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=out.parent, prefix=".harnet-") as name:
        return make_copy(
            plan,
            out,
            Path(name),
            profile=profile,
            locked=locked,
            tell=tell,
        )


def _print_plan(plan: Plan, form: str) -> None:
    if form == "json":
        print_json({"file": plan.name, "images": plan.rows()})
        return
    _print_rows(plan.rows())
    click.echo(_summary(plan))


def _print_receipt(receipt: Receipt, out: Path, form: str) -> None:
    if form == "json":
        print_json(receipt.as_json())
    else:
        _print_rows([dict(row) for row in receipt.rows])
    for sentence in (*receipt.broken, *receipt.faults):
        click.echo(sentence, err=True)
    if not receipt.is_proven:
        click.echo(f"{out}: not written, because it could not be proven", err=True)
        return
    old, new = (sum(row[key] for row in receipt.rows) for key in ("bytes", "new_bytes"))
    click.echo(
        f"{out}: {_summary(receipt.plan)}; images {bytes_text(old)} before, {bytes_text(new)} now",
        err=form == "json",
    )


def _summary(plan: Plan) -> str:
    replaced = sum(one.fate is Fate.REPLACED for one in plan.images)
    trimmed = sum(one.fate is Fate.TRIMMED for one in plan.images)
    words = f"{replaced} of {counted(len(plan.images), 'image')} replaced"
    if trimmed:
        words += f", {trimmed} trimmed"
    return f"{words}, {len(plan.still_short)} still short of the target"


def _looks(row: dict[str, Any]) -> str:
    """How an image looks beside its original, in a word or two."""
    if row["sureness"] == Sureness.PERHAPS.value:
        return "may be the same"
    return {"another-tone": "another tone"}.get(row["outcome"] or "", row["outcome"] or "")


def _print_rows(rows: list[dict[str, Any]]) -> None:
    print_table(
        rows,
        {
            "page": lambda row: str(row["page"] or row["where"]),
            "pixels": lambda row: f"{row['px_w']} × {row['px_h']}",
            "ppi": lambda row: f"{row['ppi']:.1f}",
            "original": lambda row: str(row["original"] or ""),
            "looks": lambda row: _looks(row),
            "then": lambda row: f"{row['new_ppi']:.1f}" if row["fate"] != "left" else "",
            "": lambda row: str(row["reason"] or row["fate"]),
        },
        lambda row: "green" if row["fate"] == Fate.REPLACED.value else None,
    )
