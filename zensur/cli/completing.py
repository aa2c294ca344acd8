"""Completion in the shell: verbs, options, files, and the devices and stages of the lab that was named.

What a verb takes is read from ``verbs.json``, which is made from the verbs (``make types``): none is loaded for it.
"""

import json
from collections.abc import Mapping
from importlib import resources
from pathlib import Path
from typing import Any

import click
from click.shell_completion import CompletionItem

_OF_LAB = {"--from": "devices", "--to": "devices", "--device": "devices", "--stage": "stages"}
"""The options whose values stand in the lab, and where."""
_MOST_BYTES = 1024 * 1024


def told(command: click.Command) -> list[dict[str, Any]]:
    """Return what a verb takes, as ``verbs.json`` has it."""
    return [
        {
            "name": param.name,
            "opts": param.opts if isinstance(param, click.Option) else [],
            "flag": isinstance(param, click.Option) and param.is_flag,
            "many": param.multiple or param.nargs != 1,
            "file": isinstance(param.type, click.Path | click.File),
            "choices": list(param.type.choices) if isinstance(param.type, click.Choice) else [],
            "about": getattr(param, "help", None) or "",
        }
        for param in command.params
    ]


def stand_in(verb: str) -> click.Command:
    """Return a command that takes what a verb does, and does nothing."""
    params = json.loads((resources.files("zensur.cli") / "verbs.json").read_text("utf-8"))[verb]
    return click.Command(verb, params=[_param(**param) for param in params])


def _param(
    name: str, opts: list[str], flag: bool, many: bool, file: bool, choices: list[str], about: str
) -> click.Parameter:
    kind = click.Path() if file else click.Choice(choices) if choices else click.STRING
    if not opts:
        return click.Argument([name], type=kind, nargs=-1 if many else 1, required=False)
    place = next((_OF_LAB[opt] for opt in opts if opt in _OF_LAB), None)
    return click.Option(
        [*opts, name],
        type=None if flag else kind,
        is_flag=flag,
        multiple=many,
        help=about,
        shell_complete=None if place is None else lambda ctx, _param, begun: _names(ctx.params, place, begun),
    )


def _names(params: Mapping[str, Any], place: str, begun: str) -> list[CompletionItem]:
    """Return the devices or stages of the lab that was named, as far as its file can be read."""
    import yaml  # the one thing that is slow to load here

    lab = params.get("lab")
    try:
        text = Path(str(lab)).read_bytes()
        found = yaml.safe_load(text)[place] if len(text) <= _MOST_BYTES else []
    except (OSError, yaml.YAMLError, ValueError, KeyError, TypeError, RecursionError):
        return []
    if isinstance(found, list):  # stages are a list, each with its id
        found = [stage.get("id") for stage in found if isinstance(stage, dict)]
    names = [str(name) for name in found] if isinstance(found, list | dict) else []
    return [CompletionItem(name) for name in names if name.startswith(begun)]
