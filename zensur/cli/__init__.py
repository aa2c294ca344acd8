"""The command line. Exit status: 0 fine, 1 the work shows findings, 2 the input could not be used.

A verb is loaded when it is used: what is asked of one need not wait for the others.
"""

import gc
import os
from importlib import import_module

import click

from .. import __version__

_VERBS = {
    "archive": ("archive", "Write a sitting into one file."),
    "backup": ("backup", "Copy the database while the application runs."),
    "check": ("check", "Prove a lab: the model answer, every expectation, the scheme."),
    "convert": ("read", "Write a configuration in another form."),
    "demo": ("serve", "Serve the demo: made-up labs and papers."),
    "doctor": ("backup", "Look at all of the database, whether it is whole."),
    "erase": ("archive", "Erase a learner; the figures of the class stay."),
    "export": ("export", "Write a lab or its packets in a form that others read."),
    "hand-in": ("hand_in", "Hand in papers for a lab or a sitting."),
    "hand-out": ("hand_out", "Write the learner's edition of a lab."),
    "import": ("import_lab", "Put a lab on the shelf, from its file."),
    "journey": ("journey", "Follow a ping leg by leg."),
    "log": ("log", "Show who changed what about marks, and why."),
    "mark": ("mark", "Mark papers against a lab."),
    "new": ("check", "Begin a lab."),
    "ping": ("ping", "Ping on a lab, on the model answer or on sheets."),
    "read": ("read", "Read configurations, with remarks and in canonical form."),
    "restore": ("archive", "Put a sitting back from its file."),
    "results": ("results", "Write the results of a class."),
    "sample-class": ("sample_class", "Write a class of made-up papers."),
    "serve": ("serve", "Serve the web application."),
    "sittings": ("hand_in", "List the sittings, and how far they are."),
    "snapshot-script": ("read", "Print the script that collects a Linux machine's configuration."),
    "state": ("state", "Show what the devices of a lab know."),
    "user": ("user", "Say who may sign in."),
    "yang-module": ("read", "Print our own YANG module."),
}
"""By verb the module that has it, and what it does in a line."""


class _Lazy(click.Group):
    """A group whose verbs are loaded when they are used."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return all verbs."""
        return list(_VERBS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Load a verb."""
        if cmd_name not in _VERBS:
            return None
        if "_ZENSUR_COMPLETE" in os.environ:
            return import_module(".completing", __name__).stand_in(cmd_name)  # type: ignore[no-any-return]
        gc.disable()  # what is loaded lives as long as the process: no use to look through it meanwhile
        module = import_module(f".{_VERBS[cmd_name][0]}", __name__)
        gc.freeze()
        gc.enable()
        return next(
            verb
            for verb in vars(module).values()
            if isinstance(verb, click.Command) and verb.name == cmd_name
        )

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """List the verbs without loading them."""
        with formatter.section("Commands"):
            formatter.write_dl([(verb, said) for verb, (_, said) in _VERBS.items()])


@click.group(cls=_Lazy, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(__version__)
def main() -> None:
    """Zensur marks the configurations of networking labs, and finds the mistakes behind lost marks."""
