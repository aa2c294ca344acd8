"""The command line called in process."""

import json
from typing import Any

from click.testing import CliRunner, Result

from zensur.cli import main


def zensur(*words: object) -> Result:
    return CliRunner().invoke(main, [str(w) for w in words], catch_exceptions=False)


def document(*words: object, status: int = 0) -> Any:
    result = zensur(*words, "--json")
    assert result.exit_code == status, result.output
    return json.loads(result.stdout)
