"""The command line. Exit status: 0 fine, 1 the work shows findings, 2 the input could not be used."""

import click

from .check import check, new
from .export import export
from .hand_out import hand_out
from .mark import mark
from .ping import ping
from .read import convert, read
from .sample_class import make_class
from .serve import demo, serve
from .state import show_state


@click.group(context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100})
@click.version_option(package_name="zensur")
def main() -> None:
    """Zensur marks the configurations of networking labs, and finds the mistakes behind lost marks."""


for _verb in (check, convert, demo, export, hand_out, make_class, mark, new, ping, read, serve, show_state):
    main.add_command(_verb)
