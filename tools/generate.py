"""Writes what is made from declarations: OpenAPI document, words of the language, JSON Schema, tables of the docs.

python tools/generate.py             writes the files
python tools/generate.py --document  writes the OpenAPI document alone
python tools/generate.py --check     exits 1 where those that are kept differ from what would be written
"""

import json
import re
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import click

from zensur.cli import main as main_of_cli
from zensur.cli.completing import told
from zensur.core.lab import lab_schema
from zensur.core.lab.schema import (
    CRITERION,
    DEVICE,
    FREE_NETWORK,
    LAB,
    NETWORK,
    PING,
    SCHEME,
    SERVICE,
    STAGE,
    VARIABLE,
)
from zensur.core.lab.shapes import Record
from zensur.core.marking.slips.catalogue import SLIPS
from zensur.core.sheet import BLOCKS, STATEMENTS, Statement
from zensur.core.sheet.spelling import PLACES
from zensur.core.sheet.statement import TOP
from zensur.server import create_app
from zensur.store import Database
from zensur.work.desk import Desk

ROOT = Path(__file__).parent.parent
WEB = ROOT / "web" / "src"
DOCS = ROOT / "docs"


def openapi() -> str:
    """Return the OpenAPI document as text."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Desk(Database(Path(folder) / "empty.db")))
        return app.test_client().get("/api/openapi.json").get_data(as_text=True)


def words() -> dict[str, list[str]]:
    """Return the words of the language: first words of statements and headers, and words inside them."""
    forms = [form for kind in STATEMENTS for form in (*kind.SPEC.forms, *kind.SPEC.tails)]
    inside = {e for form in forms for e in form.elements if isinstance(e, str)}
    first = {word for kind in STATEMENTS for word in kind.SPEC.words}
    texts = [
        f for f in forms if any(getattr(e, "operand", None) and e.operand.label == "TEXT" for e in f.must)
    ]
    return {
        "headers": [*(kind.word for kind in BLOCKS), "device"],
        "statements": sorted(first),
        "top": sorted(first - {word for place in PLACES if place != TOP for word in PLACES[place]}),
        "inside": sorted(
            (inside | {"mask", "wildcard", "default", "any", "in"}) - {str(f.must[0]) for f in texts}
        ),
        "text": sorted({str(f.must[0]) for f in texts}),
    }


def verbs() -> dict[str, object]:
    """Return what the verbs of the command line take, for completion in the shell."""
    context = click.Context(main_of_cli)
    found = {name: main_of_cli.get_command(context, name) for name in main_of_cli.list_commands(context)}
    return {name: told(verb) for name, verb in found.items() if verb is not None}


# --- tables of the documentation --------------------------------------------------------------------


def statement_rows(place: str) -> Iterator[str]:
    """Yield the rows of the reference for the statements of one place."""
    for kind in STATEMENTS:
        if place in kind.SPEC.places:
            spelled = " · ".join(f"`{form.usage()}`" for form in kind.SPEC.forms)
            yield f"| {escaped(spelled + tails_of(kind))} | {escaped(kind.SPEC.about)} |"


def tails_of(kind: type[Statement]) -> str:
    """Return what may follow a statement."""
    tails = [f"`{tail.usage()}`" for tail in kind.SPEC.tails]
    return f" … {', '.join(tails)}" if tails else ""


def table(title: str, rows: Iterator[str]) -> list[str]:
    """Return a table with two columns."""
    return [f"| {title} | meaning |", "|---|---|", *rows]


def escaped(text: str) -> str:
    """Keep a bar from ending a cell."""
    return text.replace("|", "\\|")


def key_rows(record: Record) -> Iterator[str]:
    """Yield the rows of the reference for the keys of a map of the lab file."""
    for name, key in record.keys.items():
        needed = " (required)" if key.required else ""
        yield f"| `{name}`{needed} | {escaped(key.shape.usage())} | {escaped(key.about)} |"


def tables() -> dict[str, list[str]]:
    """Return every generated table by its name."""
    found = {"statements": table("statement", statement_rows(TOP))}
    found["blocks"] = table("header", iter(f"| `{kind.usage()}` | {kind.about} |" for kind in BLOCKS))
    for kind in BLOCKS:
        found[f"in {kind.word}"] = table("line", statement_rows(kind.word))
    records = {
        "lab": LAB, "device": DEVICE, "network": NETWORK, "variable": VARIABLE, "ping": PING, "service": SERVICE,
        "stage": STAGE, "scheme": SCHEME, "criterion": CRITERION, "free": FREE_NETWORK,
    }  # fmt: skip
    for name, record in records.items():
        found[f"keys of {name}"] = ["| key | value | meaning |", "|---|---|---|", *key_rows(record)]
    slips = (f"| `{s.keyword}` | {s.title} | {escaped(s.told)} |" for s in SLIPS)
    found["slips"] = ["| slip | title | what the learner did |", "|---|---|---|", *slips]
    return found


_MARKED = re.compile(r"(<!-- table: ([^>]+?) -->\n).*?(<!-- end -->)", re.DOTALL)


def page(path: Path) -> str:
    """Return a page of the documentation with its tables made anew."""
    made = tables()
    return _MARKED.sub(lambda m: f"{m[1]}\n{chr(10).join(made[m[2]])}\n\n{m[3]}", path.read_text("utf-8"))


def main() -> int:
    """Write the files, or compare them."""
    if "--check" not in sys.argv:
        (WEB / "api" / "openapi.json").write_text(openapi(), "utf-8")
    if "--document" in sys.argv:
        return 0
    wanted = {
        ROOT / "zensur" / "cli" / "verbs.json": json.dumps(verbs(), indent=1) + "\n",
        WEB / "sheet" / "words.json": json.dumps(words(), indent=2) + "\n",
        DOCS / "lab.schema.json": json.dumps(lab_schema(), indent=2) + "\n",
        **{
            path: page(path)
            for path in (DOCS / "device-language.md", DOCS / "lab-file.md", DOCS / "marking.md")
        },
    }
    stale = [path for path, text in wanted.items() if not path.is_file() or path.read_text("utf-8") != text]
    if "--check" in sys.argv:
        for path in stale:
            print(f"{path} is stale: run make types")
        return 1 if stale else 0
    for path in stale:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(wanted[path], "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
