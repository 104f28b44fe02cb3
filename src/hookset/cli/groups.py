"""Groups of commands that suggest the nearest one for a name that none has."""

from __future__ import annotations

import click

__all__ = ["SuggestingGroup"]


class SuggestingGroup(click.Group):
    """A group of commands that suggests the nearest one."""

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        """Raises UsageError, with the nearest command if one is near."""
        name = click.utils.make_str(args[0])
        known = self.list_commands(ctx)
        if not name.startswith("-") and name not in known:
            # Imported here: hardly any run has to suggest something.
            import difflib

            near = difflib.get_close_matches(name, known, n=1)
            suggestion = f" Did you mean '{near[0]}'?" if near else ""
            raise click.UsageError(f"No such command '{name}'.{suggestion}", ctx)
        return super().resolve_command(ctx, args)
