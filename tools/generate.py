"""Writes what the front end takes from the Python side: the OpenAPI document and the words of the language.

python tools/generate.py          writes the files under web/src
python tools/generate.py --check  exits 1 where they differ from what would be written
"""

import json
import sys
import tempfile
from pathlib import Path

from zensur.core.sheet import BLOCKS, STATEMENTS
from zensur.server import create_app
from zensur.store import Database

WEB = Path(__file__).parent.parent / "web" / "src"


def openapi() -> str:
    """Return the OpenAPI document as text."""
    with tempfile.TemporaryDirectory() as folder:
        app = create_app(Database(Path(folder) / "empty.db"))
        return app.test_client().get("/api/openapi.json").get_data(as_text=True)


def words() -> dict[str, list[str]]:
    """Return the words of the language: first words of statements and headers, and words inside them."""
    forms = [form for kind in STATEMENTS for form in (*kind.SPEC.forms, *kind.SPEC.tails)]
    inside = {e for form in forms for e in (*form.must, *form.may) if isinstance(e, str)}
    first = {word for kind in STATEMENTS for word in kind.SPEC.words}
    return {
        "headers": [kind.word for kind in BLOCKS],
        "statements": sorted(first),
        "inside": sorted((inside - first) | {"mask"}),
        "text": sorted(
            {
                str(f.must[0])
                for f in forms
                if any(getattr(e, "operand", None) and e.operand.label == "TEXT" for e in f.must)
            }
        ),
    }


def main() -> int:
    """Write the files, or compare them."""
    wanted = {
        WEB / "api" / "openapi.json": json.dumps(json.loads(openapi()), indent=2, sort_keys=True) + "\n",
        WEB / "sheet" / "words.json": json.dumps(words(), indent=2) + "\n",
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
