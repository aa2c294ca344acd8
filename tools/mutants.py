"""Changes the arithmetic of marking in small ways, one at a time, and looks whether a test fails: ``make mutants``.

Which files are changed and which tests are run stands in pyproject.toml under [tool.mutmut]. Exits 1 where a change
goes unnoticed that is not told below to be equivalent, with the reason.
"""

import re
import shutil
import subprocess
import sys
from pathlib import Path

MUTMUT = str(Path(sys.executable).parent / "mutmut")
EQUIVALENT = {
    "replace(criterion, form=next((r.form for r in routes if isinstance(r, Route)), ))": (
        "the reader takes a route criterion only where the route is"
    ),
    "memo.reader.read(Paper(None, {}))": "nobody asks a blank paper for its learner",
    'memo.reader.read(Paper("XXXX", {}))': "nobody asks a blank paper for its learner",
    'float("INF")': "infinity is written in any capitals",
    "shown([configuration.header(block)]) if (block is not None) or True else ()": "there is no header of no block",
}
"""What a changed line holds, and why it does the same as the line before."""


def survivors() -> list[str]:
    """Return the names of the mutants that no test noticed."""
    told = subprocess.run([MUTMUT, "results"], capture_output=True, text=True, check=True).stdout
    return [
        m[1] for m in re.finditer(r"^\s*(\S+): (?:survived|no tests|timeout|suspicious)$", told, re.MULTILINE)
    ]


def changed_line(mutant: str) -> str:
    """Return the line that a mutant has in the place of another."""
    told = subprocess.run([MUTMUT, "show", mutant], capture_output=True, text=True, check=True).stdout
    return "\n".join(line[1:].strip() for line in told.split("\n") if re.match(r"\+(?!\+\+)", line))


def main() -> int:
    """Run all mutants, and tell those that live."""
    shutil.rmtree("mutants", ignore_errors=True)
    run = subprocess.run([MUTMUT, "run"], capture_output=True, text=True, check=False)
    counts = re.findall(r"(\d+)/(\d+)\s+🎉 (\d+)", run.stdout)
    if not counts or counts[-1][0] != counts[-1][1]:
        print(run.stdout[-2_000:], run.stderr[-2_000:])
        return 1
    _, made, killed = counts[-1]
    living = {mutant: changed_line(mutant) for mutant in survivors()}
    told = [m for m, line in living.items() if any(same in line for same in EQUIVALENT)]
    unnoticed = {m: line for m, line in living.items() if m not in told}
    for mutant, line in unnoticed.items():
        print(f"  no test notices {mutant}: {line}")
    print(f"  {made} mutants, {killed} killed, {len(told)} told equivalent, {len(unnoticed)} unnoticed")
    return 1 if unnoticed else 0


if __name__ == "__main__":
    sys.exit(main())
