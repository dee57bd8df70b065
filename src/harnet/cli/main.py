"""The command line; each command is loaded once it is asked for, so that it starts at once."""

from importlib import import_module

import click

from harnet.media.forking import prepare

_COMMANDS = {
    "backup": "running.backup",
    "check": "documents.check",
    "completion": "manual",
    "config": "running.settings",
    "doctor": "running.settings",
    "export": "export",
    "extract": "documents.extract",
    "facts": "picture",
    "improve": "documents.improve",
    "init": "running.serving",
    "manual": "manual",
    "person": "running.person",
    "reach": "picture",
    "restore": "running.backup",
    "serve": "running.serving",
    "sweep": "running.sweep",
    "targets": "targets",
    "token": "running.token",
    "watch": "documents.watch",
    "worker": "running.serving",
}
"""The commands, and the modules of this package that they are in."""
_READ_BY = {"check": "harnet.media.pdf.reading.check_process"}
"""Commands that are over so soon that it counts how long their readers take to load."""


class _Commands(click.Group):
    """A group whose commands come from their modules."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Their names, in order."""
        return list(_COMMANDS)

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """The command that is meant; what it reads documents with is loaded beside it."""
        is_help = ctx.resilient_parsing or {"-h", "--help"} & set(args)
        if args[0] in _READ_BY and not is_help:
            prepare(_READ_BY[args[0]])
        return super().resolve_command(ctx, args)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """The command of that name; None where there is none."""
        if cmd_name not in _COMMANDS:
            return None
        found: click.Command = getattr(import_module(f"harnet.cli.{_COMMANDS[cmd_name]}"), cmd_name)
        return found


@click.group(cls=_Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="harnet")
def harnet() -> None:
    """Effective resolution of placed pictures, from the command line."""
