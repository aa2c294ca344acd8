"""What tests of the server share."""

import io
import re
import zipfile
from typing import Any

from flask.testing import FlaskClient

from zensur.work.desk import Desk


def marked(client: FlaskClient, desk: Desk, path: str) -> Any:
    """Return what is answered when all that was wanted by asking for it has been marked."""
    client.get(path)
    desk.workers.settle()
    return client.get(path).get_json()


def papers_of(client: FlaskClient, desk: Desk, lab: str, stage: str = "") -> Any:
    return marked(client, desk, f"/api/labs/{lab}/papers?stage={stage}")["papers"]


def token(client: FlaskClient) -> dict[str, str]:
    page = client.get("/").get_data(as_text=True)
    found = re.search(r'name="csrf-token" content="([^"]+)"', page)
    assert found
    return {"X-CSRFToken": found.group(1)}


def zipped(**files: bytes) -> tuple[io.BytesIO, str]:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for path, content in files.items():
            archive.writestr(path.replace("__", "/"), content)
    stream.seek(0)
    return stream, "class.zip"


def upload(
    client: FlaskClient, *files: tuple[io.BytesIO, str], lab: str = "first-addresses", **more: object
) -> Any:
    return client.post(
        f"/api/labs/{lab}/papers",
        data={"files": list(files), **more},
        content_type="multipart/form-data",
        headers=token(client),
    )
