"""The application in a process of its own."""

import os
import re
import subprocess
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def serving(command: Sequence[str], verb: str, database: Path) -> Iterator[tuple[subprocess.Popen[str], int]]:
    """Run ``zensur serve`` or ``demo`` on any free port, and yield its process and port; it is killed at the end."""
    env = {k: v for k, v in os.environ.items() if k not in ("PYTHONPATH", "VIRTUAL_ENV")}
    process = subprocess.Popen(
        [*command, verb, "--port", "0", "--database", str(database)],
        stdout=subprocess.PIPE,
        text=True,
        cwd=database.parent,
        env=env | {"PYTHONUNBUFFERED": "1"},
    )
    try:
        assert process.stdout is not None
        address = re.search(r"http://127\.0\.0\.1:(\d+)/", process.stdout.readline())
        assert address
        yield process, int(address[1])
    finally:
        process.kill()
        process.wait()
