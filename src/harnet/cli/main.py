"""The command line; each command is loaded once it is asked for, so that it starts at once."""

from importlib import import_module

import click

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


class _Commands(click.Group):
    """A group whose commands come from their modules."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Their names, in order."""
        return list(_COMMANDS)

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
