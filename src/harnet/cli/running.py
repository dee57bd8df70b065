"""Commands that run Harnet and help its users: targets, serve, worker, completion, manual."""

import os
import sys
from datetime import UTC, datetime
from typing import NoReturn

import click
from click.shell_completion import get_completion_class

from harnet.cli.tables import Row, format_option, print_csv, print_json, print_table
from harnet.core.targets.shipped import SHIPPED

_NOT_SET = 2


@click.command()
@format_option
def targets(form: str) -> None:
    """The targets that --target knows by name."""
    rows: list[Row] = [
        {
            "key": one.key,
            "name": one.name,
            "density_ppi": one.density_ppi,
            "bilevel_ppi": one.bilevel_ppi,
            "floor_ppi": round(one.floor_ppi, 4),
            "ceiling_ppi": one.ceiling_ppi,
            "tolerance": one.tolerance,
            "reason": one.reason,
        }
        for one in SHIPPED
    ]
    if form == "json":
        print_json(rows)
    elif form == "csv":
        print_csv(list(rows[0]), rows)
    else:
        print_table(
            rows,
            {
                "target": lambda row: str(row["key"]),
                "ppi": lambda row: f"{row['density_ppi']:g}",
                "1-bit": lambda row: f"{row['bilevel_ppi']:g}",
                "what it is": lambda row: str(row["name"]),
            },
        )


@click.command()
def init() -> None:
    """Make a studio, or bring one up to date: its tables, its folders, its secret.

    HARNET_DATABASE and HARNET_DATA say where. It does no harm to do it again.
    """
    require_settings(must_be_current=False)
    # Only here: these take longer to load than most commands to run.
    from harnet.standins.studio import open_studio  # noqa: PLC0415
    from harnet.store.database import migrate, state_of_tables  # noqa: PLC0415
    from harnet.studio.common.studio import Settings, secret_of  # noqa: PLC0415

    settings = Settings.from_environment()
    was = state_of_tables(settings.database_url)
    if was in _SENTENCES and was not in ("empty", "older"):
        _stop(_SENTENCES[was])
    migrate(settings.database_url)
    open_studio(settings).engine.dispose()
    secret_of(settings)
    words = {
        "current": "was already up to date",
        "older": "has been brought up to date",
        "empty": "is made",
    }
    click.echo(f"The studio in {settings.data_folder} {words[was]}.")


@click.command()
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="The address to listen on; loopback only until people can sign in.",
)
@click.option(
    "--port",
    type=click.IntRange(1, 65535),
    default=8000,
    show_default=True,
    help="The port to listen on.",
)
@click.option(
    "--threads",
    type=click.IntRange(1, 64),
    default=8,
    show_default=True,
    help="Requests answered at the same time.",
)
@click.option(
    "--reviews-only",
    is_flag=True,
    help="Answer review links and nothing else, for a port that others may reach.",
)
def serve(host: str, port: int, threads: int, reviews_only: bool) -> None:
    """Run the web application on loopback.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept; HARNET_HOSTS the names, beside
    loopback's, that it answers to.
    """
    if host not in ("127.0.0.1", "localhost") and not reviews_only:
        _stop(
            f"Harnet does not listen on {host}: anyone who reached it could change everything."
            " Until people can sign in it answers on 127.0.0.1 only; --reviews-only shows"
            " review links"
            " elsewhere"
        )
    require_settings()
    where = f"[{host}]" if ":" in host else host
    application = "harnet.web.serve:reviews" if reviews_only else "harnet.web.serve:app"
    server = ["--bind", f"{where}:{port}", "--threads", str(threads), "--log-level", "warning"]
    _become("gunicorn", *server, "--no-control-socket", application)


@click.command()
def worker() -> None:
    """Run a worker, which makes outputs and copies and reads PDFs; several may share the work.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept.
    """
    require_settings()
    _become("harnet.worker.main")


_SENTENCES = {
    "empty": "There is no studio in this database yet; make one with harnet init",
    "older": "This studio was made by an older Harnet; bring it up to date with harnet init",
    "newer": "This studio was made by a newer Harnet; use that one",
    "away": "The database does not answer; start it, or correct HARNET_DATABASE",
}


def require_settings(must_be_current: bool = True) -> None:
    """Ends the command where nothing says in which studio it is to work, or that is not ready."""
    missing = [name for name in ("HARNET_DATABASE", "HARNET_DATA") if not os.environ.get(name)]
    if missing:
        _stop(f"{' and '.join(missing)} must be set; script/demo shows how")
    if must_be_current:
        from harnet.store.database import state_of_tables  # noqa: PLC0415

        state = state_of_tables(os.environ["HARNET_DATABASE"])
        if state in _SENTENCES:
            _stop(_SENTENCES[state])


def _stop(sentence: str) -> NoReturn:
    click.echo(sentence, err=True)
    sys.exit(_NOT_SET)


def _become(module: str, *words: str) -> None:
    """Goes on as another program, so that signals reach it and nothing stands between."""
    sys.stdout.flush()
    os.execv(sys.executable, [sys.executable, "-m", module, *words])


@click.command()
@click.argument("shell", type=click.Choice(["bash", "zsh", "fish"]))
@click.pass_context
def completion(context: click.Context, shell: str) -> None:
    """Print what makes SHELL complete harnet's words; put it where your shell reads it."""
    kind = get_completion_class(shell)
    assert kind is not None
    click.echo(kind(context.find_root().command, {}, "harnet", "_HARNET_COMPLETE").source())


@click.command()
@click.pass_context
def manual(context: click.Context) -> None:
    """Print the manual page, made of this help; read it with man -l."""
    root = context.find_root()
    group = root.command
    assert isinstance(group, click.Group)
    day = datetime.now(UTC).strftime("%Y-%m-%d")
    lines = [f'.TH HARNET 1 "{day}"', ".SH NAME", f"harnet \\- {_plain(group.help).rstrip('.')}"]
    lines += [".SH SYNOPSIS", ".B harnet", "COMMAND [OPTIONS] [FILES]", ".SH COMMANDS"]
    for name in group.list_commands(root):
        command = group.get_command(root, name)
        assert command is not None
        inner = click.Context(command, info_name=name, parent=root)
        usage = " ".join(command.collect_usage_pieces(inner))
        lines += [f".SS harnet {name} {usage}", _plain(command.help)]
        for parameter in command.get_params(inner):
            record = parameter.get_help_record(inner)
            if record is not None:
                lines += [".TP", f".B {_escaped(record[0])}", _escaped(record[1])]
    lines += [".SH EXIT STATUS", "0 when all is well, 1 when something falls short, 2 on errors."]
    click.echo("\n".join(lines))


def _plain(text: str | None) -> str:
    """A help text's paragraphs as the manual sets them."""
    paragraphs = [" ".join(part.split()) for part in (text or "").split("\n\n")]
    return "\n.PP\n".join(_escaped(part) for part in paragraphs if part)


def _escaped(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace("-", "\\-")
    return f"\\&{escaped}" if escaped.startswith((".", "'")) else escaped
