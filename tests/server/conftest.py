"""The server on the demo, once for a file of tests."""

from collections.abc import Callable
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from zensur.server import create_app
from zensur.store import Database
from zensur.work.desk import Desk


@pytest.fixture(scope="module")
def desk(demo_database: Callable[[], Path]) -> Desk:
    return Desk(Database(demo_database()))


@pytest.fixture
def database(desk: Desk) -> Database:
    return desk.database


@pytest.fixture
def client(desk: Desk) -> FlaskClient:
    return create_app(desk).test_client()
