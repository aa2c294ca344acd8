"""The server on the demo, once for a file of tests."""

import pytest
from flask.testing import FlaskClient

from zensur.demo import fill
from zensur.server import create_app
from zensur.store import Database
from zensur.work.desk import Desk


@pytest.fixture(scope="module")
def desk(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    found = Desk(Database(tmp_path_factory.mktemp("server") / "demo.db"))
    fill(found)
    return found


@pytest.fixture
def database(desk: Desk) -> Database:
    return desk.database


@pytest.fixture
def client(desk: Desk) -> FlaskClient:
    return create_app(desk).test_client()
