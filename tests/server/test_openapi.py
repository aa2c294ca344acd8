"""The OpenAPI document is valid and true: every operation is tried with made-up requests."""

import re
import tempfile
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from openapi_spec_validator import OpenAPIV31SpecValidator
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from zensur.core.formats import HandIn
from zensur.demo import demo_papers, lab_text
from zensur.server import create_app
from zensur.store import Database
from zensur.work.desk import Desk

CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]


@pytest.fixture(scope="module")
def desk(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    """A desk with two labs, one of which has papers."""
    found = Desk(Database(tmp_path_factory.mktemp("openapi") / "x.db"))
    for name in ("first-addresses", "toll-house"):
        found.labs.add(name, lab_text(name))
    version = found.labs.newest("first-addresses")
    assert version is not None
    papers: list[HandIn] = demo_papers("first-addresses", found.lab(version))
    found.hand_in(found.occasion(version), papers[:2])
    found.workers.settle()
    return found


@pytest.fixture(scope="module")
def api(desk: Desk) -> Any:
    app = create_app(desk)
    loaded = schemathesis.openapi.from_wsgi("/api/openapi.json", app)
    loaded.config.generation.update(with_security_parameters=False)
    return loaded


@pytest.fixture(scope="module")
def signed(desk: Desk) -> tuple[str, dict[str, str]]:
    """Return a token with the session that it belongs to."""
    answer = create_app(desk).test_client().get("/")
    token = re.search(r'name="csrf-token" content="([^"]+)"', answer.get_data(as_text=True))
    assert token
    name, _, value = answer.headers["Set-Cookie"].partition(";")[0].partition("=")
    return token[1], {name: value}


def test_the_document_is_valid(desk: Desk) -> None:
    document = create_app(desk).test_client().get("/api/openapi.json").get_json()
    assert list(OpenAPIV31SpecValidator(document).iter_errors()) == []
    for ways in document["paths"].values():
        for way, operation in ways.items():
            assert ("security" in operation) == (way != "get")
            assert ("403" in operation["responses"]) == (way != "get")


REAL = {"slug": "first-addresses", "paper": 1, "number": 2, "window": "window-one"}


def operations() -> list[tuple[str, str]]:
    """Every path of the document with every way that it takes."""
    with tempfile.TemporaryDirectory() as folder:
        client = create_app(Desk(Database(Path(folder) / "empty.db"))).test_client()
        document = client.get("/api/openapi.json").get_json()
    return [(path, way) for path, ways in document["paths"].items() for way in ways]


@pytest.mark.parametrize(("path", "way"), operations())
def test_every_operation_answers_as_its_document_says(
    api: Any, signed: tuple[str, dict[str, str]], path: str, way: str
) -> None:
    """Three requests in four are about what there is: a lab, a paper, a device."""
    made = [api[path][way].as_strategy(generation_mode=mode) for mode in GenerationMode]

    @given(case=st.one_of(made), real=st.integers(0, 3))
    @settings(
        max_examples=80,
        derandomize=True,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        database=None,
    )
    def tried(case: Any, real: int) -> None:
        for name in set(REAL) & set(case.path_parameters or {}) if real else ():
            case.path_parameters[name] = REAL[name]
        if real and isinstance(case.body, dict) and isinstance(case.body.get("device"), str):
            case.body["device"] = "weir"
        if real and "/authoring/" in path and isinstance(case.body, dict):
            case.body["text"] = lab_text("toll-house")
        token, cookie = signed
        answer = case.call_and_validate(checks=CHECKS, headers={"X-CSRFToken": token}, cookies=cookie)
        assert answer.status_code != 403

    tried()


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("/api/labs", '{"title": "\\ud800"}'),
        ("/api/labs/check", '{"text": "id: \\udfff"}'),
        ("/api/labs/complete", '{"text": "a", "line": 1e400, "column": 1}'),
        ("/api/labs/complete", '{"text": "a", "line": 100000000000000000000000000000, "column": 1}'),
        ("/api/labs/complete", '{"text": "a", "line": 1, "column": 0}'),
        ("/api/labs/first-addresses/versions", '{"text": "\\ud800", "base": 1}'),
        ("/api/labs/first-addresses/versions", '{"text": "x", "base": -1}'),
        ("/api/authoring/edit", '{"text": "\\ud83d", "edits": [{"do": "write-scheme"}]}'),
        ("/api/papers/1/overrules", '{"criterion": "", "marks": NaN, "reason": "x"}'),
        ("/api/papers/1/overrules", '{"criterion": "", "marks": 1e999, "reason": "x"}'),
        ("/api/papers/1/overrules", '{"criterion": "", "marks": 1, "reason": "\\udc00"}'),
        (
            "/api/papers/123456789012345678901234567890/overrules",
            '{"criterion": "", "marks": 1, "reason": "x"}',
        ),
        ("/api/labs/check", "[" * 100_000),
        ("/api/labs/check", '{"text": ' * 50_000),
        ("/api/labs/check", "\xff"),
    ],
)
def test_what_no_reader_of_json_agrees_on_is_refused(
    desk: Desk, signed: tuple[str, dict[str, str]], path: str, body: str
) -> None:
    client = create_app(desk).test_client()
    for name, value in signed[1].items():
        client.set_cookie(name, value)
    headers = {"X-CSRFToken": signed[0], "Content-Type": "application/json"}
    answer = client.post(path, data=body.encode("latin-1"), headers=headers)
    assert answer.status_code in (400, 422)
    assert answer.get_json()["message"]
    assert len(answer.get_data()) < 1_000


@pytest.mark.parametrize("number", ["0", "9" * 20, "9" * 5_000])
def test_numbers_in_addresses_have_bounds(desk: Desk, number: str) -> None:
    client = create_app(desk).test_client()
    for path in (
        f"/api/papers/{number}",
        f"/api/papers/1/journeys/{number}",
        f"/captures/papers/{number}/1.pcapng",
    ):
        assert client.get(path).status_code in (400, 404)
