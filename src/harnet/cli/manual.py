"""`harnet completion` and `harnet manual`: help made of the commands themselves."""

from datetime import UTC, datetime

import click
from click.shell_completion import get_completion_class


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
