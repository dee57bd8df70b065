"""Commands that run Harnet and help its users: targets, serve, worker, completion, manual."""

import os
import sys
from datetime import UTC, datetime

import click
from click.shell_completion import get_completion_class

from harnet.cli.tables import Row, format_option, print_csv, print_json, print_table
from harnet.core.targetlist import SHIPPED

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
@click.option(
    "--port",
    type=click.IntRange(1, 65535),
    default=8000,
    show_default=True,
    help="The port on this machine alone.",
)
@click.option(
    "--threads",
    type=click.IntRange(1, 64),
    default=8,
    show_default=True,
    help="Requests answered at once.",
)
def serve(port: int, threads: int) -> None:
    """Run the web application on loopback.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept.
    """
    require_settings()
    server = ["--bind", f"127.0.0.1:{port}", "--threads", str(threads), "--log-level", "warning"]
    _become("gunicorn", *server, "--no-control-socket", "harnet.web.serve:app")


@click.command()
def worker() -> None:
    """Run a worker, which makes outputs and copies and reads PDFs; several may share the work.

    HARNET_DATABASE and HARNET_DATA say where the studio is kept.
    """
    require_settings()
    _become("harnet.worker.main")


def require_settings() -> None:
    """Ends the command where nothing says in which studio it is to work."""
    missing = [name for name in ("HARNET_DATABASE", "HARNET_DATA") if not os.environ.get(name)]
    if missing:
        click.echo(f"{' and '.join(missing)} must be set; script/demo shows how", err=True)
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
    lines += [".SH EXIT STATUS", "0 when all is well, 1 when something falls short, 2 on trouble."]
    click.echo("\n".join(lines))


def _plain(text: str | None) -> str:
    """A help text's paragraphs as the manual sets them."""
    paragraphs = [" ".join(part.split()) for part in (text or "").split("\n\n")]
    return "\n.PP\n".join(_escaped(part) for part in paragraphs if part)


def _escaped(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace("-", "\\-")
    return f"\\&{escaped}" if escaped.startswith((".", "'")) else escaped
