"""The command line: every verb with its JSON, exit status and one clear line for bad input."""

import json
import socket
import subprocess
import sys
import urllib.request
import zipfile
from pathlib import Path

import click
import pytest

import zensur.cli.serve as serve_verb
from tests.cli.calls import document, zensur
from tests.serving import serving
from zensur import __version__
from zensur.cli import main
from zensur.demo import LABS, lab_text
from zensur.store import Database, Labs


def test_every_verb_explains_itself_with_an_example() -> None:
    for verb in (
        "check",
        "convert",
        "demo",
        "export",
        "hand-out",
        "mark",
        "new",
        "ping",
        "read",
        "serve",
        "state",
    ):
        result = zensur(verb, "--help")
        assert result.exit_code == 0
        assert f"Example: zensur {verb}" in result.output


def test_check(lab: Path) -> None:
    found = document("check", lab)
    assert (found["findings"], found["pings"], found["holding"], found["blank"]) == ([], 12, 12, 0)
    lab.write_text(lab_text("four-gates").replace("expect: unreachable", "expect: reply"), "utf-8")
    found = document("check", lab, status=1)
    assert [(f["code"], f["place"], f["severity"]) for f in found["findings"]] == [
        ("expectation-fails", "pings[11]", "error")
    ]


def test_read(tmp_path: Path) -> None:
    path = tmp_path / "toll.sheet"
    path.write_text("name toll\nport p1\n  adress 10.64.8.1/24\n  on\n")
    found = document("read", path, status=1)
    assert found == {
        "name": "toll", "form": "sheet", "more": 0, "canonical": "name toll\nport p1\n  on\n",
        "diagnostics": [{"severity": "error", "code": "unknown-word", "line": 3, "column": 3, "end": 8, "suggestion": "address",
                         "message": "adress is not a word that can stand here under port. Did you mean address?",
                         "mend": {"line": 3, "column": 3, "end": 8, "text": "address"}, "path": None}],
    }  # fmt: skip
    assert zensur("read", path).exit_code == 1
    path.write_text("name toll\n")
    assert zensur("read", path).stdout == "name toll\n"


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("check", "LAB"), "links[0]: sw9 "),
        (("ping", "LAB"), "line "),
    ],
)
def test_a_lab_that_cannot_be_read(lab: Path, words, says) -> None:
    lab.write_text(lab_text("four-gates").replace("weir:p1 -- gauge:p1", "weir:p9 -- gauge:p1"), "utf-8")
    result = zensur(*[lab if w == "LAB" else w for w in words])
    assert result.exit_code == 2
    assert "links[0]: weir has no port p9; it has p1, p2, s1." in result.stderr
    assert result.stdout == ""


def test_other_bad_input_gives_one_clear_line(lab: Path, tmp_path: Path) -> None:
    bad = tmp_path / "bad.zip"
    with zipfile.ZipFile(bad, "w") as archive:
        archive.writestr("../weir.sheet", "name weir")
    pairs = tmp_path / "pairs.json"
    pairs.write_text("[{}]")
    for words, says in (
        (("mark", lab, bad), "outside itself"),
        (("ping", lab, "--from", "gauge"), "Each --from needs its --to."),
        (("ping", lab, "--from", "nobody", "--to", "bell"), "nobody cannot ping"),
        (("ping", lab, "--from", "gauge", "--to", "nowhere"), "nowhere is no address"),
        (("ping", lab, "--pairs", pairs), "a list such as"),
        (("read", tmp_path / "none.sheet"), "does not exist"),
    ):
        result = zensur(*words)
        assert result.exit_code == 2, words
        assert says in result.stderr
        assert "Traceback" not in result.stderr


def test_serving_elsewhere_than_on_loopback_is_refused(tmp_path: Path) -> None:
    for host in ("0.0.0.0", "192.0.2.1", "example.com"):
        result = zensur("serve", "--host", host, "--database", tmp_path / "x.db")
        assert result.exit_code == 2
        assert "loopback" in result.stderr


def test_the_demo_starts_says_where_and_answers(tmp_path: Path) -> None:
    with (
        serving([sys.executable, "-m", "zensur.cli"], "demo", tmp_path / "demo.db") as (_, port),
        urllib.request.urlopen(f"http://127.0.0.1:{port}/api/labs") as answer,
    ):
        papers = [lab["papers"] for lab in json.load(answer)["labs"]]
    # what is told in files, else twelve made-up ones; and of three labs the sittings' learners
    assert papers == [6 + 30, 6 + 28, *[12] * (len(LABS) - 4), 12 + 20, 5]


@pytest.mark.parametrize(
    ("given", "origin"),
    [
        ("https://labs.example.net", "https://labs.example.net"),
        ("HTTPS://Labs.Example.Net/", "https://labs.example.net"),
        ("https://labs.example.net:443", "https://labs.example.net"),
        ("http://labs.example.net:8443", "http://labs.example.net:8443"),
        ("https://[2001:db8::1]:8443", "https://[2001:db8::1]:8443"),
        ("labs.example.net", None),
        ("ftp://labs.example.net", None),
        ("https://labs.example.net/zensur", None),
        ("https://me@labs.example.net", None),
        ("https://labs.example.net:x", None),
        ("https://", None),
    ],
)
def test_an_origin_is_one_as_browsers_send_it(given: str, origin: str | None) -> None:
    if origin is None:
        with pytest.raises(click.BadParameter, match="is no origin"):
            serve_verb._origin(given)
    else:
        assert serve_verb._origin(given) == origin


def test_another_port_is_taken_where_the_usual_one_is(monkeypatch: pytest.MonkeyPatch) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        monkeypatch.setattr(serve_verb, "_USUAL_PORT", port)
        with serve_verb._listen("127.0.0.1", None) as other:
            assert other.getsockname()[1] != port
        with pytest.raises(OSError, match="in use"):
            serve_verb._listen("127.0.0.1", port)


# --- labs with stages, variants and services --------------------------------------------------------


def test_new_writes_a_lab_that_passes_its_check(tmp_path: Path) -> None:
    path = tmp_path / "Two Banks.lab.yaml"
    assert zensur("new", path).exit_code == 0
    found = document("check", path)
    assert (found["lab"], found["findings"], found["holding"]) == ("two-banks", [], 3)
    again = zensur("new", path)
    assert (again.exit_code, "there already" in again.stderr) == (2, True)
    assert zensur("new", tmp_path / "x.lab.yaml", "--title", "a\0b").exit_code == 2


def test_several_sheets_in_one_file(tmp_path: Path) -> None:
    path = tmp_path / "hosts.sheet"
    path.write_text("device ana\nport p1\n  on\ndevice bob\nname bobby\n  nonsense\n", "utf-8")
    found = document("read", path, status=1)
    assert [(s["name"], len(s["diagnostics"])) for s in found["sheets"]] == [("ana", 0), ("bobby", 1)]
    converted = tmp_path / "clean.sheet"
    result = zensur("convert", path, "--to", "sheet", "-o", converted)
    assert (result.exit_code, "left out" in result.stderr) == (1, True)
    assert converted.read_text() == "device ana\nport p1\n  on\n\ndevice bob\nname bobby\n"
    assert zensur("convert", converted, "--to", "sheet").stdout == converted.read_text()


def test_hand_out(tmp_path: Path, lab: Path) -> None:
    page, file = tmp_path / "ring.html", tmp_path / "learner.lab.yaml"
    for output in (page, file):
        assert zensur("hand-out", lab, "-o", output).exit_code == 0
    assert "Four gates in a ring" in page.read_text("utf-8")
    sheets = tmp_path / "mine"
    sheets.mkdir()
    (sheets / "gauge.sheet").write_text("gateway 10.64.16.1\n", "utf-8")
    asked = ("ping", file, "--sheets", sheets, "--from", "gauge", "--to", "weir:p1")
    assert document(*asked)["pings"][0]["outcome"] == "reply"
    assert "no model answer" in zensur("check", file).stdout
    nowhere = zensur("hand-out", lab, "-o", tmp_path / "none" / "x.html")
    assert (nowhere.exit_code, "cannot be written" in nowhere.stderr) == (2, True)


# --- state, and every device to every address -------------------------------------------------------


LOADED = "import json, sys; from zensur.cli import main; main.get_command(None, sys.argv[1]); print(json.dumps(sorted(sys.modules)))"
SLOW = ("scipy", "flask", "pydantic", "distributed", "jinja2", "markdown_it", "dpkt", "waitress")


def loaded(verb: str) -> set[str]:
    """What a verb loads, in an interpreter of its own."""
    done = subprocess.run([sys.executable, "-c", LOADED, verb], capture_output=True, text=True, check=True)
    return set(json.loads(done.stdout))


@pytest.mark.parametrize(
    ("verb", "needs"),
    [
        ("", []), ("check", []), ("convert", []), ("mark", []), ("new", []), ("ping", []), ("read", []), ("state", []),
        ("sample-class", []), ("user", []), ("hand-in", []), ("archive", []), ("backup", []), ("doctor", []), ("export", ["dpkt"]), ("hand-out", ["jinja2", "markdown_it", "scipy"]),
        ("serve", ["flask", "jinja2", "markdown_it", "pydantic", "scipy", "waitress", "dpkt"]),
    ],
)  # fmt: skip
def test_a_verb_loads_what_it_uses(verb: str, needs: list[str]) -> None:
    found = loaded(verb)
    assert [name for name in SLOW if name in found] == [name for name in SLOW if name in needs]
    assert ("zensur.core" in found) is (verb != "")


def test_every_verb_is_listed_and_says_what_it_does() -> None:
    listed, context = zensur("--help").stdout, click.Context(main)
    for verb in main.list_commands(context):
        command = main.get_command(context, verb)
        assert command is not None
        assert command.name == verb
        assert f"  {verb} " in listed
    assert main.get_command(context, "nothing") is None
    assert zensur("--version").stdout.split()[-1] == __version__


def test_a_database_is_copied_and_looked_through(tmp_path: Path) -> None:
    path, to = tmp_path / "x.db", tmp_path / "friday.db"
    assert zensur("backup", to, "--database", path).exit_code == 2
    Database(path).close()
    done = zensur("backup", to, "--database", path)
    assert (done.exit_code, to.is_file()) == (0, True)
    assert (
        zensur("backup", to, "--database", path).stderr == f"{to}: the copy cannot be written: File exists.\n"
    )
    assert zensur("doctor", "--database", to).stdout == f"{to} is whole.\n"
    (tmp_path / "text.db").write_text("x" * 5000)
    for verb in (["doctor"], ["serve"]):
        refused = zensur(*verb, "--database", tmp_path / "text.db")
        assert (refused.exit_code, refused.stderr.count("\n")) == (2, 1)
        assert "this is no database" in refused.stderr


def test_labs_are_imported_all_or_none(tmp_path: Path) -> None:
    database, one, bad = tmp_path / "x.db", tmp_path / "one.lab.yaml", tmp_path / "bad.lab.yaml"
    one.write_text(lab_text("four-gates"), "utf-8")
    bad.write_text(lab_text("toll-house").replace("devices:", "devizes:"), "utf-8")

    def importing(*args: object) -> tuple[int, str]:
        result = zensur("import", *args, "--database", database)
        return result.exit_code, result.output

    status, said = importing(one, bad)
    assert status == 2
    assert "bad.lab.yaml, line" in said
    assert Labs(Database(database)).all() == [] if database.exists() else True
    assert importing(one) == (0, "four-gates is on the shelf.\n")
    assert importing(one)[0] == 2
    assert importing(one, one, "--as", "x")[0] == 2
    assert importing(one, "--as", "Not An Id")[0] == 2
    assert importing(one, "--as", "spring") == (0, "spring is on the shelf.\n")
    stored = Labs(Database(database)).newest("spring")
    assert stored is not None
    assert stored.text == lab_text("four-gates").replace("id: four-gates", "id: spring")
