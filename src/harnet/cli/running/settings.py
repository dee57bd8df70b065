"""`harnet config` and `harnet doctor`: the settings in force, and how a studio is doing."""

import sys

import click

from harnet.cli.tables import Row, format_option, print_rows
from harnet.studio.common.configuration import SettingsRefused, configured, faults_of

_WRONG = 2
_NOT_WELL = 1


@click.command()
@format_option
def config(form: str) -> None:
    """Every setting with its value, its default, what it means and where its value is from.

    Settings are environment variables, or lines in the file that HARNET_SETTINGS names; the
    environment goes first. Exit code 2: one is wrong or missing.
    """
    try:
        found = configured()
    except SettingsRefused as error:
        click.echo(str(error), err=True)
        sys.exit(_WRONG)
    rows: list[Row] = [
        {
            "name": one.setting.name,
            "value": one.shown,
            "default": one.setting.default,
            "from": one.source if one.value is not None else None,
            "meaning": one.setting.meaning,
        }
        for one in found
    ]
    print_rows(
        form,
        rows,
        {
            "setting": lambda row: str(row["name"]),
            "value": lambda row: str(row["value"]),
            "from": lambda row: str(row["from"] or ""),
            "meaning": lambda row: str(row["meaning"]),
        },
    )
    faults = faults_of(found)
    for fault in faults:
        click.echo(fault, err=True)
    sys.exit(_WRONG if faults else 0)


@click.command()
@format_option
def doctor(form: str) -> None:
    """Look at a studio: database, tables, store, worker, disk, clock, fonts and libraries.

    Each is told with what to do where it is not well. Exit code 0: all is well; 1: something is
    not; 2: a setting is wrong.
    """
    # Only here: these take longer to load than most commands to run.
    from harnet.standins.studio import open_studio  # noqa: PLC0415
    from harnet.studio.common.settings import Settings  # noqa: PLC0415
    from harnet.studio.running.health import all_checks  # noqa: PLC0415

    try:
        settings = Settings.from_environment()
    except SettingsRefused as error:
        click.echo(str(error), err=True)
        sys.exit(_WRONG)
    checks = all_checks(open_studio(settings))
    rows: list[Row] = [
        {"part": one.name, "is_well": one.is_well, "sentence": one.sentence} for one in checks
    ]
    print_rows(
        form,
        rows,
        {
            "part": lambda row: str(row["part"]),
            "": lambda row: "well" if row["is_well"] else "not well",
            "what": lambda row: str(row["sentence"]),
        },
        lambda row: None if row["is_well"] else "red",
    )
    sys.exit(0 if all(one.is_well for one in checks) else _NOT_WELL)
