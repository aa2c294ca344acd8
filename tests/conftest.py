"""What all tests have in common: how hypothesis draws, and the demo, made and marked once for each process of tests."""

import os
from collections.abc import Callable
from itertools import count
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from zensur.demo import fill
from zensur.store import Database
from zensur.work.desk import Desk

settings.register_profile(
    "fixed", derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow], print_blob=True
)
settings.register_profile("long", parent=settings.get_profile("fixed"), derandomize=False, max_examples=5_000)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "fixed"))


@pytest.fixture(scope="session")
def demo_database(tmp_path_factory: pytest.TempPathFactory) -> Callable[[], Path]:
    """Make a database with the demo, marked; returns what copies it, so that tests may change theirs."""
    folder = tmp_path_factory.mktemp("demo")
    database = Database(folder / "demo.db")
    desk = Desk(database)
    fill(desk)
    desk.workers.settle()
    desk.queue.end()
    numbers = count()

    def copied() -> Path:
        copy = folder / f"copy-{next(numbers)}.db"
        database.connection().execute("VACUUM INTO ?", (str(copy),))
        return copy

    return copied
